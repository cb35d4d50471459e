// Names of a record, found among those of a design.
import { partOf, signalPart } from '../probes/index.ts';
import { CONSTANT } from './bit-graph.ts';
import type { NamedSignal } from './design.ts';
import type { Recorded } from './program.ts';
import type { Region } from './region.ts';

/** A signal of a record: its full name there, and how wide it is. */
interface RecordName {
  readonly name: string;
  readonly width: number;
}

export interface Matched {
  /** For each name of the record what it is in the design; null for what the design does not have. */
  readonly found: readonly (Recorded | null)[];
  /** Names whose width is another one in the design. */
  readonly misfits: readonly { readonly name: string; readonly width: number; readonly wanted: number }[];
}

/**
 * Names are equal, or equal once the scopes around the design in the record (a testbench, an instance) are taken for
 * the scopes around the same signals in the design: the pair of scopes is taken that fits most names.
 */
export function matchNames({ design }: Pick<Region, 'design'>, names: readonly RecordName[]): Matched {
  const byName = new Map(design.signals.map((signal) => [signal.name, signal]));
  const [from, to] = bestScopes(byName, names);
  const misfits: { name: string; width: number; wanted: number }[] = [];
  const found = names.map(({ name, width }): Recorded | null => {
    const inside = from === '' ? `${to}${name}` : name.startsWith(from) ? `${to}${name.slice(from.length)}` : null;
    for (const candidate of inside === null ? [name] : [inside, name]) {
      const signal = byName.get(candidate);
      if (signal) {
        if (signal.width === width) return { name, signal, lo: 0, width };
        misfits.push({ name, width, wanted: signal.width });
        return null;
      }
      const part = partOf((one) => byName.get(one), candidate);
      if (part?.width === width && part.of.lsb === 0) return { name, signal: part.of, lo: part.lo, width };
    }
    return null;
  });
  return { found, misfits };
}

/** Scopes, each with its dot, of the record and of the design. */
function bestScopes(byName: ReadonlyMap<string, NamedSignal>, names: readonly RecordName[]): [string, string] {
  const scopesOf = (all: Iterable<string>): Set<string> => {
    const scopes = new Set(['']);
    for (const name of all)
      for (let i = name.indexOf('.'); i >= 0; i = name.indexOf('.', i + 1)) scopes.add(name.slice(0, i + 1));
    return scopes;
  };
  let best: [string, string] = ['', ''];
  let most = names.filter(({ name }) => fits(byName, name)).length;
  if (most === names.length) return best;
  const inDesign = scopesOf(byName.keys());
  for (const from of scopesOf(names.map(({ name }) => name))) {
    const inner = names.flatMap(({ name }) => (name.startsWith(from) ? [name.slice(from.length)] : []));
    if (inner.length <= most) continue;
    for (const to of inDesign) {
      const count = inner.filter((name) => fits(byName, `${to}${name}`)).length;
      if (count > most) {
        most = count;
        best = [from, to];
      }
    }
  }
  return best;
}

const fits = (byName: ReadonlyMap<string, NamedSignal>, name: string): boolean =>
  byName.has(name) || byName.has(signalPart(name)?.signal ?? '');

/** Places among the found ones of signals that are a clock's own, by the input of the netlist. */
export function clocksAmong({ graph, design }: Region, found: readonly (Recorded | null)[]): Map<string, number> {
  const { netlist } = design;
  const clockBits = new Map<number, string>();
  for (const { clock } of [...netlist.registers, ...netlist.memories.flatMap(({ writes }) => writes)]) {
    const node = netlist.nodes[clock];
    if (node?.op === 'input') clockBits.set(graph.bit(clock, 0), node.name);
  }
  const clocks = new Map<string, number>();
  for (const [i, one] of found.entries()) {
    if (one?.width !== 1) continue;
    const bit = graph.bit(one.signal.node, one.lo);
    const input = bit === CONSTANT ? undefined : clockBits.get(bit);
    if (input !== undefined && !clocks.has(input)) clocks.set(input, i);
  }
  return clocks;
}
