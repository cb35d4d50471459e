import { z } from 'zod';
import { item, numberAt, wordAt } from '../lists.ts';
import { decoderShape } from './decode/index.ts';
import { advance, type Axis, realTicks, type Recording } from './recording.ts';
import { digitAt, type Trace, TraceWriter, wordsOf } from './trace.ts';

const radix = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['binary', 'hex', 'unsigned', 'signed', 'ascii', 'names']) }),
  z.object({ kind: z.literal('fixed'), point: z.number().int().min(0).max(256) }),
]);

/** Bits `lo` and up of a signal. */
const part = z.object({ signal: z.string(), lo: z.number().int().min(0), width: z.number().int().min(1) });

/** One row: parts of signals, lowest first, drawn as one value. A whole signal is one part. */
const signalRow = z.object({
  kind: z.literal('signal'),
  id: z.string(),
  parts: z.array(part).min(1),
  /** In place of the signal's own name. */
  label: z.string().optional(),
  radix: radix.optional(),
  style: z.enum(['digital', 'analog']).optional(),
});

const decoderRow = z.object({
  kind: z.literal('decoder'),
  id: z.string(),
  label: z.string().optional(),
  decoder: decoderShape,
});

const leaf = z.discriminatedUnion('kind', [signalRow, decoderRow]);

const groupRow = z.object({
  kind: z.literal('group'),
  id: z.string(),
  label: z.string(),
  open: z.boolean(),
  rows: z.array(leaf),
});

const cursor = z.object({ name: z.string(), tick: z.number() });

const note = z.object({ id: z.string(), tick: z.number(), text: z.string() });

/** How a record is looked at: rows from top to bottom, cursors, notes, what is marked. docs/formats.md, section 6 */
export const waveView = z.object({
  rows: z.array(z.discriminatedUnion('kind', [signalRow, decoderRow, groupRow])),
  cursors: z.array(cursor),
  notes: z.array(note),
  /** Sentences whose places are marked. */
  rules: z.array(z.string()),
  /** Ticks count real time; absent in views saved before they did, whose ticks count gaps as they were shown. */
  ticks: z.literal('real').optional(),
});

export type SignalRow = z.infer<typeof signalRow>;
export type DecoderRow = z.infer<typeof decoderRow>;
export type GroupRow = z.infer<typeof groupRow>;
export type Row = SignalRow | DecoderRow | GroupRow;
export type LeafRow = SignalRow | DecoderRow;
export type WaveView = z.infer<typeof waveView>;
export type WaveCursor = z.infer<typeof cursor>;
export type WaveNote = z.infer<typeof note>;

/**
 * Every signal in a row of its own; one cursor at the trigger. Where some were computed from others, those that were
 * recorded come first, then one group for each instance.
 */
export function plainView({ triggers }: Axis, signals: readonly Named[]): WaveView {
  const rows = signals.map((signal, i) => wholeRow(signal, `s${i}`));
  return {
    rows: signals.some(({ computed }) => computed) ? byInstance(signals, rows) : rows,
    cursors: [{ name: 'A', tick: triggers[0] ?? 0 }],
    notes: [],
    rules: [],
  };
}

type Named = Pick<Trace, 'name' | 'width' | 'real'> & { readonly computed?: boolean };

/** More rows than this in one group are shown when somebody opens it. */
const MOST_OPEN = 24;

function byInstance(signals: readonly Named[], rows: readonly SignalRow[]): Row[] {
  const groups = new Map<string, SignalRow[]>();
  for (const [i, { name, computed }] of signals.entries()) {
    const path = name.split('.');
    const of = computed ? path.slice(0, -1).join('.') : name.includes(': ') ? 'in simulation' : 'recorded';
    groups.set(of, [...(groups.get(of) ?? []), item(rows, i)]);
  }
  return [...groups].map(([label, inner], i) => ({
    ...{ kind: 'group' as const, id: `g${i}`, label, rows: inner },
    open: label !== 'in simulation' && inner.length <= MOST_OPEN,
  }));
}

/** Real numbers are drawn as heights. */
export const wholeRow = ({ name, width, real }: Named, id: string): SignalRow => ({
  kind: 'signal',
  id,
  parts: [{ signal: name, lo: 0, width }],
  ...(real ? { style: 'analog' as const } : {}),
});

/** A view made for another record: rows whose signals are gone leave, new signals come in below. */
export function fitView(view: WaveView, axis: Axis, signals: readonly Named[]): WaveView {
  const known = new Map(signals.map((signal) => [signal.name, signal]));
  const fits = (row: LeafRow) =>
    row.kind === 'decoder' || row.parts.every(({ signal, lo, width }) => lo + width <= (known.get(signal)?.width ?? 0));
  const rows = view.rows.flatMap((row): Row[] => {
    if (row.kind !== 'group') return fits(row) ? [row] : [];
    const inner = row.rows.filter(fits);
    return inner.length > 0 ? [{ ...row, rows: inner }] : [];
  });
  const shown = new Set(
    leavesOf(rows).flatMap((row) => (row.kind === 'signal' ? row.parts.map(({ signal }) => signal) : [])),
  );
  const added = signals
    .filter(({ name }) => !shown.has(name))
    .map((signal) => wholeRow(signal, freshId(rows, signal.name)));
  return {
    ...view,
    rows: [...rows, ...added],
    cursors: view.cursors.filter(({ tick }) => tick <= axis.length),
    notes: view.notes.filter(({ tick }) => tick <= axis.length),
  };
}

/** The same view with its places counted in real ticks, so that it fits however gaps are shown. */
export const savedView = (view: WaveView, axis: Axis): WaveView => ({
  ...placed(view, (tick) => realTicks(axis, tick)),
  ticks: 'real',
});

/** A saved view with its places on an axis. */
export function openedView(view: WaveView, axis: Axis): WaveView {
  const { ticks, ...rest } = view;
  return ticks === 'real' ? placed(rest, (tick) => advance(axis, 0, tick)) : rest;
}

const placed = (view: WaveView, place: (tick: number) => number): WaveView => ({
  ...view,
  cursors: view.cursors.map((one) => ({ ...one, tick: place(one.tick) })),
  notes: view.notes.map((one) => ({ ...one, tick: place(one.tick) })),
});

export const freshId = (rows: readonly Row[], base: string): string => {
  const taken = new Set(
    rows.flatMap((row) => (row.kind === 'group' ? [row.id, ...row.rows.map(({ id }) => id)] : [row.id])),
  );
  let id = base;
  while (taken.has(id)) id += '+';
  return id;
};

export const leavesOf = (rows: readonly Row[]): LeafRow[] =>
  rows.flatMap((row) => (row.kind === 'group' ? row.rows : [row]));

/**
 * What a row draws: the signal itself where it is a whole one, else its bits put together. Null when a signal is not in
 * the record.
 */
export function traceOfRow({ traces }: Recording, row: SignalRow): Trace | null {
  const parts = row.parts.flatMap((one) => {
    const trace = traces.find(({ name }) => name === one.signal);
    return trace && one.lo + one.width <= trace.width ? [{ ...one, trace }] : [];
  });
  const [only] = parts;
  if (parts.length !== row.parts.length || !only) return null;
  if (parts.length === 1 && only.lo === 0 && only.width === only.trace.width) return only.trace;
  return assembled(parts, nameOfRow(row));
}

/** What a row is called: its label, or what it is made of. */
export function nameOfRow(row: Row): string {
  if (row.kind === 'group') return row.label;
  if (row.label !== undefined) return row.label;
  if (row.kind === 'decoder') return DECODER_NAMES[row.decoder.kind];
  const [first] = row.parts as [SignalRow['parts'][number]];
  return row.parts.length === 1
    ? first.signal
    : `{${[...row.parts]
        .reverse()
        .map(({ signal }) => signal.split('.').at(-1))
        .join(', ')}}`;
}

const DECODER_NAMES = { serial: 'serial line', spi: 'SPI', i2c: 'I2C' } as const;

function assembled(
  parts: readonly { readonly trace: Trace; readonly lo: number; readonly width: number }[],
  name: string,
): Trace {
  const width = parts.reduce((sum, one) => sum + one.width, 0);
  const writer = new TraceWriter(width);
  const [bits, unknown] = [new Uint32Array(wordsOf(width)), new Uint32Array(wordsOf(width))];
  const index = parts.map(() => -1);
  for (;;) {
    const next = parts.reduce(
      (least, { trace }, i) => Math.min(least, trace.at[numberAt(index, i) + 1] ?? Number.POSITIVE_INFINITY),
      Number.POSITIVE_INFINITY,
    );
    if (next === Number.POSITIVE_INFINITY) break;
    for (const [i, { trace }] of parts.entries())
      while ((trace.at[numberAt(index, i) + 1] ?? Number.POSITIVE_INFINITY) <= next) index[i] = numberAt(index, i) + 1;
    bits.fill(0);
    unknown.fill(0);
    let at = 0;
    let open = false;
    for (const [i, { trace, lo, width }] of parts.entries())
      for (let bit = lo; bit < lo + width; bit++, at++) {
        const digit = numberAt(index, i) < 0 ? 'x' : digitAt(trace, numberAt(index, i), bit);
        if (digit === '0') continue;
        const [word, mask] = [at >>> 5, 1 << (at & 31)];
        if (digit !== 'x') bits[word] = wordAt(bits, word) | mask;
        if (digit === '1') continue;
        unknown[word] = wordAt(unknown, word) | mask;
        open = true;
      }
    writer.add(next, bits, open ? unknown : null);
  }
  const domains = new Set(parts.map(({ trace }) => trace.domain));
  const holds = parts.every(({ trace }) => trace.holds);
  return writer.finish({
    name,
    width,
    signed: false,
    ...(holds ? { holds } : {}),
    domain: domains.size === 1 ? item([...domains], 0) : '',
  });
}
