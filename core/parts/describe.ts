import type { BoardDescription } from '../constraints/index.ts';
import { type KindId, KINDS, newRow, type PartRow, wiresOf } from './rows.ts';

interface Named {
  readonly name: string;
  readonly part: string;
  readonly package?: string | undefined;
  readonly flash?: string | undefined;
  readonly banks: Readonly<Record<string, number>>;
}

const numberIn = (name: string): string => /(\d+)$/.exec(name)?.[1] ?? '';

/** What a net of a part is called: `LAMP3` of the lamp L3, `UART_TX` of the one serial line. */
function netOf({ kind, name }: PartRow, net: string): string {
  const wires = wiresOf(kind);
  return wires.length === 1 ? `${net}${numberIn(name)}` : net;
}

/** The description of a board from its parts: each wired pin by the name of its net. docs/formats.md, section 7 */
export function describedBoard(about: Named, rows: readonly PartRow[]): BoardDescription {
  const { name, part, package: inCase, flash, banks } = about;
  const wired = rows.flatMap((row) =>
    wiresOf(row.kind).flatMap((wire) => {
      const pin = row.pins[wire.id] ?? '';
      return pin === '' ? [] : [{ row, net: netOf(row, wire.net), pin }];
    }),
  );
  const clocks = wired.filter(({ row }) => row.kind === 'oscillator');
  return {
    ...{ format: 'nimble-board', version: 1, name, part },
    ...(inCase === undefined ? {} : { package: inCase }),
    ...(flash === undefined ? {} : { flash }),
    banks: { ...banks },
    oscillators: clocks.map(({ row, net, pin }) => ({ net, pin, hertz: row.hertz })),
    nets: unique(wired.filter(({ row }) => row.kind !== 'oscillator').map(({ net, pin }) => ({ net, pin }))),
    links: [],
  };
}

/** Of several displays or sensors each net is told apart. */
function unique(nets: readonly { readonly net: string; readonly pin: string }[]) {
  const seen = new Map<string, number>();
  return nets.map(({ net, pin }) => {
    const before = seen.get(net) ?? 0;
    seen.set(net, before + 1);
    return { net: before === 0 ? net : `${net}_${before + 1}`, pin };
  });
}

/** Words in nets by which the kinds with one wire are known. (Common practice.) */
const WORDS: readonly (readonly [RegExp, KindId])[] = [
  [/^(led|lamp|light|ld)s?$/, 'lamp'],
  [/^(btn|button|key|push|pb)s?$/, 'button'],
  [/^(sw|switch|dip)s?$/, 'switch'],
];
const SEGMENT = /^(?:seg|segment)_?([a-g]|dp|\d)$/;
const COMMON = /^(?:dig|digit|an|anode|com|common)_?(\d)$/;
const LINE = /^(?:uart|serial|ser)_?(tx|rx|rts|cts)d?$|^(tx|rx)d?$/;

/** Parts that a description's nets are likely to lead to, and nets nothing is known of. */
export function partsFromNets({ nets, oscillators }: Pick<BoardDescription, 'nets' | 'oscillators'>): {
  readonly rows: readonly PartRow[];
  readonly left: readonly string[];
} {
  const rows: PartRow[] = [];
  const left: string[] = [];
  const several = new Map<KindId, Record<string, string>>();
  const into = (kind: KindId, wire: string, pin: string) => several.set(kind, { ...several.get(kind), [wire]: pin });
  for (const { net, pin } of nets) {
    const plain = net.toLowerCase().replace(/_n$/, '');
    const [word = '', number = ''] = plain.split(/_?(\d+)$/);
    const kind = WORDS.find(([pattern]) => pattern.test(word.split('_').at(-1) ?? ''))?.[1];
    const segment = SEGMENT.exec(plain)?.[1];
    const common = COMMON.exec(plain)?.[1];
    const line = LINE.exec(plain);
    const fixed = fixedWire(net);
    if (kind) rows.push(numbered(kind, number, pin, net, rows));
    else if (segment !== undefined) into('digits', `s${segmentPlace(segment)}`, pin);
    else if (common !== undefined) into('digits', `c${common}`, pin);
    else if (line) into('serial', line[1] ?? line[2] ?? 'tx', pin);
    else if (fixed) into(fixed.kind, fixed.wire, pin);
    else left.push(net);
  }
  for (const [kind, pins] of several) {
    const row = newRow(kind, rows);
    if (row) rows.push({ ...row, pins });
  }
  for (const { pin, hertz } of oscillators) {
    const row = newRow('oscillator', rows);
    if (row) rows.push({ ...row, hertz, pins: { pin } });
  }
  return { rows, left };
}

/** A net that is called as ours are. */
function fixedWire(net: string): { readonly kind: KindId; readonly wire: string } | null {
  for (const { id, wires } of KINDS)
    for (const wire of wires)
      if (wires.length > 1 && wire.net === net.toUpperCase()) return { kind: id, wire: wire.id };
  return null;
}

const segmentPlace = (name: string): number =>
  name === 'dp' ? 7 : /\d/.test(name) ? Number(name) : name.charCodeAt(0) - 'a'.charCodeAt(0);

/** A net whose name ends in N is meant at a low level. */
function numbered(kind: KindId, number: string, pin: string, net: string, rows: readonly PartRow[]): PartRow {
  const row = newRow(kind, rows);
  if (!row) throw new RangeError(`${kind} is no kind of several`);
  const prefix = row.name.replace(/\d+$/, '');
  const wanted = `${prefix}${number}`;
  const isFree = number !== '' && !rows.some(({ name }) => name === wanted);
  return { ...row, name: isFree ? wanted : row.name, active: !/_N$/i.test(net), pins: { pin } };
}
