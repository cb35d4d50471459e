import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import { build, familiesOf, frequenciesByName } from '../core/build/index.ts';
import { type Bitstream, readBitstream } from '../core/families/index.ts';
import { loadBitstream, readBoardState } from '../core/operations/index.ts';
import { type ProbeMap, readProbeMap } from '../core/probes/index.ts';
import type { Hint } from '../core/wave/index.ts';
import { ProblemError, settle, taken } from '../core/result.ts';
import { problem } from './problems.ts';
import type { Connection } from './connection.ts';
import { openPlan, openProject, readText } from './files.ts';
import { loadDeed, openBitstream } from './load.ts';

interface Instrumented {
  readonly part: string;
  readonly map: ProbeMap;
  /** Frequencies of clock ports in hertz, as the project says them. */
  readonly clocks: Readonly<Record<string, number>>;
  /** What is known of each signal that may explain why it does not move. */
  readonly hints: Readonly<Record<string, Hint>>;
}

/**
 * Sees to it that a design with its debug cores runs, and gives the map of them. A folder is built with its probes; a
 * .nbits that was built elsewhere takes the .probes.json beside it. Loaded only when another design runs.
 */
export async function runInstrumented(
  { chain, tell, watch }: Connection,
  path: string,
  { plan, probes }: { readonly plan?: string | undefined; readonly probes?: string | undefined },
  device: number | null,
): Promise<Instrumented> {
  if (path.endsWith('.nbits')) return runFile({ chain, tell, watch }, path, probes, device);
  const project = openProject([path], {});
  const families = taken(familiesOf(project));
  const result = build({ project, plan: openPlan(plan) });
  for (const m of result.messages)
    if (m.severity === 'error')
      console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
  const bitstream = result.bitstream ? readBitstream(result.bitstream) : null;
  if (!result.taken && !bitstream?.ok) throw new ProblemError(problem('build-failed'));
  if (!result.probes) throw new ProblemError(problem('no-probes'));
  chain.know(families);
  // What others' tools have built is loaded by their file; whether it is this build, its fingerprint says.
  if (bitstream?.ok) await runs({ chain, tell, watch }, bitstream.value, path, device);
  return {
    part: result.part,
    map: result.probes,
    clocks: frequenciesByName(result, project.file.clocks),
    hints: Object.fromEntries(
      result.signals.map(({ name, driver, domain, net = name }) => [name, { driver, domain, net }]),
    ),
  };
}

async function runFile(
  connection: Pick<Connection, 'chain' | 'tell' | 'watch'>,
  path: string,
  probes: string | undefined,
  device: number | null,
): Promise<Instrumented> {
  const { bitstream, map } = openBuild(path, probes);
  await runs(connection, bitstream, path, device);
  return { part: bitstream.part, map, clocks: {}, hints: {} };
}

/** A bitstream and the map of its probes: the file that is named, or the one beside it. */
export function openBuild(path: string, probes?: string): { readonly bitstream: Bitstream; readonly map: ProbeMap } {
  const bitstream = openBitstream(path);
  const beside = probes ?? path.replace(/\.nbits$/, '.probes.json');
  if (!existsSync(beside))
    throw new ProblemError(problem('no-probe-map', { beside: basename(beside), path: basename(path) }));
  let data: unknown;
  try {
    data = JSON.parse(readText(beside));
  } catch {
    throw new ProblemError(problem('probe-map', { beside: basename(beside) }));
  }
  const map = readProbeMap(data);
  if (!map.ok) throw new ProblemError(map.error);
  if (map.value.fingerprint !== bitstream.fingerprint)
    throw new ProblemError(
      problem('fingerprint-differs', {
        beside: basename(beside),
        ofMap: map.value.fingerprint.slice(0, 8),
        ofBitstream: bitstream.fingerprint.slice(0, 8),
      }),
    );
  return { bitstream, map: map.value };
}

async function runs(
  { chain, tell, watch }: Pick<Connection, 'chain' | 'tell' | 'watch'>,
  bitstream: Bitstream,
  source: string,
  device: number | null,
): Promise<void> {
  const state = await readBoardState(chain, bitstream.part, device);
  if (!state.ok) throw new ProblemError(state.error);
  if (state.value.fingerprint === bitstream.fingerprint) return;
  const loaded = await settle(() => loadBitstream(chain, bitstream, device, watch));
  await tell(loadDeed(bitstream, source, loaded, device));
  const trouble = loaded.ok ? loaded.value.problem : loaded.error;
  if (trouble) throw new ProblemError(trouble);
}
