// The mapped design against the word-level one: both are computed, every root is compared.
import { expect } from 'vitest';
import { MEMORIES } from '../../core/families/corvane/delays.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { item } from '../../core/lists.ts';
import { isInverted, nodeOf, TRUE } from '../../core/mapping/gates/index.ts';
import { map, type Mapped } from '../../core/mapping/map.ts';
import { NODE } from '../../core/mapping/tables/index.ts';
import { isLeaf, type Netlist, type NetNode, optimise, reachableValues } from '../../core/netlist/index.ts';
import { wordValues } from './word-values.ts';

/** A design read and optimised. */
export function netlistOf(text: string, parameters: Record<string, bigint> = {}): Netlist {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { parameters });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return optimise(netlist).netlist;
}

/** Values of mapped nodes: tables and chains only, no gates. */
function bits({ logic }: Mapped, leaves: ReadonlyMap<number, number>): (literal: number) => number {
  const values = new Map<number, number>([[0, 0], ...leaves]);
  const of = (literal: number): number => {
    const value = values.get(nodeOf(literal));
    if (value === undefined) throw new Error(`node ${nodeOf(literal)} is read but nothing gives it a value`);
    return value ^ (isInverted(literal) ? 1 : 0);
  };
  const looked = (truth: number, inputs: readonly number[]): number =>
    (truth >> inputs.reduce((index, input, i) => index | (of(input * 2) << i), 0)) & 1;
  for (const [node, kind] of logic.kind.entries()) {
    if (kind === NODE.table) values.set(node, looked(item(logic.truth, node), item(logic.inputs, node)));
    if (kind !== NODE.chain) continue;
    const { cells, carryIn, sums, out } = item(logic.chains, item(logic.chainOf, node));
    let carry = of(carryIn);
    for (const [i, { inputs, propagate, generate }] of cells.entries()) {
      const passes = looked(propagate, inputs);
      const sum = item(sums, i);
      if (sum >= 0) values.set(sum, passes ^ carry);
      const generated = generate < 0 ? generate + 2 : of(item(inputs, generate >> 1) * 2) ^ (generate & 1);
      carry = passes ? carry : generated;
    }
    if (out >= 0) values.set(out, carry);
  }
  return of;
}

/** What a register, an input or a memory read holds. */
type State = (id: number, node: NetNode) => bigint;

function* randomStates(source: Netlist, rounds: number): Generator<State> {
  const reachable = reachableValues(source);
  let seed = 12345;
  const random = () => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    return BigInt(seed >>> 8);
  };
  const wide = (width: number) =>
    Array.from({ length: Math.ceil(width / 24) }, random).reduce((value, part) => (value << 24n) | part, 0n);
  for (let round = 0; round < rounds; round++)
    yield (id, node) => {
      const states = reachable.get(id);
      return states ? BigInt(item(states, Number(random() % BigInt(states.length)))) : wide(node.width);
    };
}

/** Bits that are tried in all ways. */
const MOST_BITS = 16;

/** Every state there is, where inputs, registers and memory reads have few bits together; null where they have more. */
function everyState(source: Netlist): Generator<State> | null {
  const free = source.nodes.flatMap((node, id) => (isLeaf(node) && node.op !== 'const' ? [{ id, node }] : []));
  const total = free.reduce((sum, { node }) => sum + node.width, 0);
  if (total > MOST_BITS) return null;
  const reachable = reachableValues(source);
  return (function* () {
    for (let all = 0; all < 1 << total; all++) {
      const given = new Map<number, bigint>();
      let at = 0;
      for (const { id, node } of free) {
        given.set(id, BigInt((all >> at) & ((1 << node.width) - 1)));
        at += node.width;
      }
      if ([...reachable].every(([id, states]) => states.includes(Number(given.get(id)))))
        yield (id) => given.get(id) ?? 0n;
    }
  })();
}

/** Both models, every root compared: in every state where there are few, else in random ones. */
export function expectEqual(netlist: Netlist, rounds: number): Mapped {
  const mapped = map(netlist, MEMORIES);
  const { source } = mapped.design;
  for (const state of everyState(source) ?? randomStates(source, rounds)) expectEqualIn(mapped, state);
  return mapped;
}

function expectEqualIn(mapped: Mapped, state: State): void {
  const { design } = mapped;
  const values = wordValues(design.source, state);
  const leaves = new Map<number, number>();
  const put = (list: readonly number[], value: bigint) => {
    for (const [i, bit] of list.entries())
      if (bit > TRUE) leaves.set(nodeOf(bit), Number((value >> BigInt(i)) & 1n) ^ (isInverted(bit) ? 1 : 0));
  };
  for (const { name, bits: list } of design.inputs)
    put(list, item(values, design.source.inputs.find((p) => p.name === name)?.node ?? -1));
  for (const { register, q } of design.flipFlops) put(q, item(values, register.node));
  for (const port of design.memoryPorts) if (port.kind === 'read') put(port.data, item(values, port.node));
  const of = bits(mapped, leaves);
  const word = (list: readonly number[]) => list.reduce((value, bit, i) => value | (BigInt(of(bit)) << BigInt(i)), 0n);
  const same = (found: bigint, wanted: bigint | undefined) => {
    // One assertion a bit of a large design would take longer than what it looks at.
    if (found !== wanted) expect(found).toBe(wanted);
  };
  for (const { name, bits: list } of design.outputs) {
    const port = design.source.outputs.find((p) => p.name === name);
    if (port) same(word(list), values[port.node]);
  }
  for (const { register, data, syncReset, syncValue, enable, asyncReset, asyncLoad, q } of design.flipFlops) {
    const next =
      syncReset !== null && of(syncReset) ? syncValue : enable !== null && !of(enable) ? word(q) : word(data);
    same(next, values[register.d]);
    if (register.reset !== null && asyncReset !== null) same(BigInt(of(asyncReset)), values[register.reset]);
    if (register.load !== null && asyncLoad !== null) same(word(asyncLoad), values[register.load]);
  }
  const writes = design.source.memories.flatMap((memory) => memory.writes);
  const ports = design.memoryPorts.filter(({ kind }) => kind === 'write');
  for (const [i, port] of ports.entries()) {
    const write = item(writes, i);
    same(word(port.address), values[write.address]);
    same(word(port.data), values[write.data]);
    same(BigInt(of(port.enable)), values[write.enable]);
  }
}
