// The pod as a process: one cable behind a WebSocket, of a simulated bench or of a microcontroller on a serial line.
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { z } from 'zod';
import { Bench, benchTarget, readBenchFile, readKept, writeKept } from '../bench/index.ts';
import type { PodTarget } from '../core/pod/index.ts';
import { ProblemError } from '../core/result.ts';
import { diskShelf, openSerial, servePod, wireTarget } from '../pod/index.ts';

const { values } = parseArgs({
  options: {
    bench: { type: 'string' },
    wire: { type: 'string' },
    baud: { type: 'string', default: '1000000' },
    host: { type: 'string', default: '127.0.0.1' },
    port: { type: 'string', default: '4711' },
    token: { type: 'string' },
    state: { type: 'string' },
    'cable-only': { type: 'boolean', default: false },
  },
});

const MEMORY = 'cable.json';
const memory = z.object({ tckHz: z.number().positive() });

const given = values.token ?? process.env.NIMBLE_POD_TOKEN;
const token = given ?? randomBytes(16).toString('hex');
const folder = values.state;

/** What is served, and what is done before the process ends. */
interface Owned {
  readonly target: PodTarget;
  readonly end: () => void;
}

if (values.wire !== undefined && values.bench !== undefined) refuse('Give --bench or --wire, not both.');
const { target, end } = values.wire === undefined ? await ofBench() : await ofWire(values.wire);
const shelf = folder === undefined ? {} : { shelf: diskShelf(join(folder, 'staged')) };
const { port, close } = await servePod(target, { host: values.host, port: Number(values.port), token, ...shelf });
console.log(`pod "${target.name}" at ws://${values.host}:${port}${given === undefined ? ` token ${token}` : ''}`);

const stop = async () => {
  end();
  await close();
  process.exit(0);
};
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());

async function ofBench(): Promise<Owned> {
  const path = values.bench ?? 'demo/benches/lockhouse.bench.json';
  const file = readBenchFile(readFileSync(path, 'utf8'), path);
  if (!file.ok) return refuse(file.error.message);
  const bench = new Bench(file.value, folder === undefined ? new Map() : readKept(folder));
  let stands = bench;
  let saved = bench.flashChanges;
  /** Another bench may stand there by now; of one with other chips nothing is kept, so that ours stay as they were. */
  const keep = (now: Bench = stands) => {
    const isOther = now !== stands;
    stands = now;
    const isOurs = JSON.stringify(now.file.chain) === JSON.stringify(bench.file.chain);
    if (folder === undefined || !isOurs || (now.flashChanges === saved && !isOther)) return;
    writeKept(folder, now.flashContents);
    saved = now.flashChanges;
  };
  const whole = benchTarget(bench, keep);
  const { name, cable, kept } = whole;
  // Nothing at such a pod can move the board's supply switch, so a signal stands for the hand that does.
  if (values['cable-only']) process.on('SIGUSR2', () => stands.setPower(!stands.powered));
  const hz = rememberedHz();
  if (hz !== null) await cable.setFrequency(hz);
  return {
    target: remembering(values['cable-only'] ? { name, cable, ...(kept ? { kept } : {}) } : whole),
    end: () => keep(),
  };
}

async function ofWire(path: string): Promise<Owned> {
  const baud = Number(values.baud);
  if (!Number.isInteger(baud) || baud < 1200) return refuse(`--baud ${values.baud} is no rate in bit/s.`);
  const at = { path, baud };
  try {
    const made = await wireTarget({ ...at, open: () => openSerial(at), tckHz: rememberedHz() });
    return { target: remembering(made), end: () => made.stop() };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    return refuse([error.problem.message, ...error.problem.tryNext.map((step) => `  ${step}`)].join('\n'));
  }
}

function refuse(message: string): never {
  console.error(message);
  process.exit(1);
}

/** TCK that the cable was found to bear. */
function rememberedHz(): number | null {
  const path = folder === undefined ? null : join(folder, MEMORY);
  if (path === null || !existsSync(path)) return null;
  try {
    return memory.parse(JSON.parse(readFileSync(path, 'utf8'))).tckHz;
  } catch {
    console.error(`${path} is not what this pod has written; TCK begins as usual.`);
    return null;
  }
}

/** The same target with a memory of TCK, where the pod has a folder. */
function remembering(plain: PodTarget): PodTarget {
  const { cable, rebuilt } = plain;
  return {
    ...plain,
    cable: {
      run: (ops) => cable.run(ops),
      state: () => cable.state(),
      get tckHz() {
        return cable.tckHz;
      },
      setFrequency: async (hz, keep) => {
        const tckHz = await cable.setFrequency(hz);
        if (keep && folder !== undefined) {
          mkdirSync(folder, { recursive: true });
          writeFileSync(join(folder, MEMORY), `${JSON.stringify({ tckHz })}\n`);
        }
        return tckHz;
      },
    },
    ...(rebuilt
      ? {
          rebuilt: (text: string) => {
            const made = rebuilt(text);
            return made.ok ? { ok: true, value: remembering(made.value) } : made;
          },
        }
      : {}),
  };
}
