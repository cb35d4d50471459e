// A record as a table of vectors: what came into an instance, and what has to come out of it for that alone.
import { floatAt, item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { indexAt, type Trace } from '../wave/index.ts';
import { portsOf } from './instance-ports.ts';
import { problem } from './problems.ts';
import { prepareReplay, type Replay, replay } from './replay.ts';

/** Rows at most; longer records are cut. */
const MOST_ROWS = 20_000;

interface TableOut {
  readonly text: string;
  readonly rows: number;
  /** Samples of the record that it plays. */
  readonly samples: number;
}

/**
 * The first stretch of a record as rows: inputs as they came, an edge, outputs as they follow from the inputs alone,
 * for a table cannot say what registers begin with. docs/formats.md, section 8
 */
export async function tableOf(done: Replay, path: string): Promise<Result<TableOut>> {
  const { prepared, recording } = done;
  const ports = portsOf(done, path);
  if (ports.inputs.length + ports.outputs.length === 0) return fail(problem('no-instance', { path }));
  const byName = new Map(recording.traces.map((trace) => [trace.name, trace]));
  const inputs = ports.inputs.flatMap(({ name, signal }) => {
    const trace = byName.get(signal.name);
    return trace ? [{ name, trace }] : [];
  });
  if (ports.inputs.length > 0 && inputs.length === 0) return fail(problem('no-inputs-known', { path }));
  if (prepared.clocks.length > 1)
    return fail(problem('one-clock-alone', { clocks: prepared.clocks.map(({ input }) => input).join(', ') }));
  const traces = [...inputs.map(({ trace }) => trace), ...prepared.timeTraces];
  const alone = prepareReplay(prepared.region, { ...prepared.record, traces }, prepared.timing);
  if (!alone.ok) return alone;
  const followed = new Map((await replay(alone.value)).recording.traces.map((trace) => [trace.name, trace]));
  const outputs = ports.outputs.flatMap(({ name, signal }) => {
    const trace = followed.get(signal.name);
    return trace ? [{ name, trace }] : [];
  });
  const { moments } = prepared;
  const end = moments.breaks[1] ?? moments.count;
  const rows: string[] = [
    [...inputs.map(({ name }) => name), 'cycles', ...outputs.map(({ name }) => `=${name}`)].join(','),
  ];
  let before: readonly string[] | null = null;
  let samples = 0;
  for (let i = 0; i < end && rows.length < MOST_ROWS; i++, samples++) {
    const tick = floatAt(moments.ticks, i);
    const now = inputs.map(({ trace }) => cell(trace, tick));
    const expected = outputs.map(({ trace }) => cell(trace, tick));
    const isSame = before?.every((text, k) => text === now[k]) ?? false;
    const nothing = now.map(() => '');
    const set = moments.edges[moments.edgesBefore[i] ?? -1] ?? [];
    const rises = set.some(({ edge }) => edge === 'posedge');
    // Where inputs change, the edge comes first, with what stood there before it.
    if (rises && !isSame) rows.push([...nothing, '1', ...outputs.map(() => '')].join(','));
    rows.push([...(isSame ? nothing : now), rises && isSame ? '1' : '0', ...expected].join(','));
    before = now;
  }
  return ok({ text: `${rows.join('\n')}\n`, rows: rows.length - 1, samples });
}

/** Empty where not every bit is known. */
function cell(trace: Trace, tick: number): string {
  const index = indexAt(trace, tick);
  if (index < 0) return '';
  let value = 0n;
  for (let k = trace.words - 1; k >= 0; k--) {
    if ((trace.unknown?.[index * trace.words + k] ?? 0) !== 0) return '';
    value = (value << 32n) | BigInt(item(trace.bits, index * trace.words + k));
  }
  return `0x${value.toString(16)}`;
}
