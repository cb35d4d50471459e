import { item, last } from '../lists.ts';
import {
  type Netlist,
  type NetNode,
  type NodeId,
  optimise,
  reachableValues,
  type Register,
  forMapping,
  inBits,
} from '../netlist/index.ts';
import { addAll, type Bits, less, multiply, reduce, shift, subtract } from './arithmetic.ts';
import { FALSE, inverted, type Literal, Network, TRUE } from './gates/index.ts';
import { termsOf } from './terms.ts';

/** What a register's flip-flops take: data, and the control pins that all bits of a word share. */
interface FlipFlops {
  readonly register: Register;
  /** Bits of the register's output. */
  readonly q: Bits;
  readonly data: Bits;
  /** Loads `syncValue` at a clock edge, whatever the enable says. */
  readonly syncReset: Literal | null;
  readonly syncValue: bigint;
  readonly enable: Literal | null;
  readonly asyncReset: Literal | null;
  readonly asyncLoad: Bits | null;
}

/** One read or write port of a memory. */
export interface MemoryPort {
  readonly memory: number;
  readonly kind: 'read' | 'write';
  readonly address: Bits;
  readonly enable: Literal;
  readonly data: Bits;
  /** Word-level node, for a read. */
  readonly node: NodeId;
  /** Clock of a write. */
  readonly clock: NodeId | null;
}

/** The values that some bits can have together, bit 0 the first of them. */
export interface Fact {
  readonly bits: Bits;
  readonly values: readonly number[];
}

interface PinBits {
  readonly name: string;
  readonly bits: Bits;
}

/** A design as single bits. `source` is the word-level netlist that nodes' origins point into. */
export interface BitDesign {
  readonly source: Netlist;
  readonly network: Network;
  readonly inputs: readonly PinBits[];
  readonly outputs: readonly PinBits[];
  readonly flipFlops: readonly FlipFlops[];
  readonly memoryPorts: readonly MemoryPort[];
  /** Words that do not have every value, by their bits. */
  readonly facts: readonly Fact[];
  /** Clocks that logic makes, by node. */
  readonly derivedClocks: ReadonlyMap<NodeId, Literal>;
}

/** Takes an optimised netlist apart into bits. */
export function blast(optimised: Netlist): BitDesign {
  const divides = optimised.nodes.some(({ op }) => op === 'divu' || op === 'modu' || op === 'divs' || op === 'mods');
  const source = forMapping(divides ? optimise(inBits(optimised), { writeOut: true }).netlist : optimised);
  const network = new Network();
  const words: Bits[] = [];
  const word = (id: NodeId): Bits => item(words, id);
  const memoryPorts: MemoryPort[] = [];
  const terms = termsOf(source);
  for (const [id, node] of source.nodes.entries()) {
    network.for = id;
    const own = terms.get(id);
    // A sum within a sum is not there itself.
    if (own !== undefined && own.length === 0) continue;
    words[id] = own
      ? addAll(
          network,
          own.map((term) => Array.from({ length: node.width }, (_, i) => word(term)[i] ?? FALSE)),
        )
      : bitsOf(node, word, network);
    if (node.op === 'memread')
      memoryPorts.push({
        memory: node.memory ?? 0,
        kind: 'read',
        address: word(item(node.args, 0)),
        enable: TRUE,
        data: word(id),
        node: id,
        clock: null,
      });
  }
  const flipFlops = source.registers.map((register) => flipFlopsOf(source, register, word, network));
  for (const [memory, { writes }] of source.memories.entries())
    for (const write of writes)
      memoryPorts.push({
        memory,
        kind: 'write',
        address: word(write.address),
        enable: item(word(write.enable), 0),
        data: word(write.data),
        node: write.data,
        clock: write.clock,
      });
  const clocks = new Set(
    [...source.registers, ...source.memories.flatMap((memory) => memory.writes)].map((user) => user.clock),
  );
  const derivedClocks = new Map(
    [...clocks].filter((id) => source.nodes[id]?.op !== 'input').map((id) => [id, item(word(id), 0)]),
  );
  const pins = (ports: Netlist['inputs']): PinBits[] => ports.map(({ name, node }) => ({ name, bits: word(node) }));
  const enables = source.outputs.flatMap(({ name, enable }) =>
    enable === undefined ? [] : [{ name: `${name} (enable)`, bits: word(enable) }],
  );
  return {
    source,
    network,
    inputs: pins(source.inputs),
    outputs: [...pins(source.outputs), ...enables],
    flipFlops,
    memoryPorts,
    facts: [...reachableValues(source)].map(([id, values]) => ({ bits: word(id), values })),
    derivedClocks,
  };
}

/**
 * The same design with other literals, such as those of what it was mapped to. `toPin` gives what goes where nothing
 * can be turned round: data of flip-flops and memories, addresses, pins; the word says what it is for.
 */
export function withLiterals(
  design: BitDesign,
  to: (literal: Literal) => Literal,
  toPin: (literal: Literal, word: NodeId) => Literal,
): BitDesign {
  const each = (bits: Bits): Bits => bits.map(to);
  const pin = (bits: Bits, word: NodeId): Bits => bits.map((bit) => toPin(bit, word));
  const outputs = new Map(design.source.outputs.map(({ name, node }) => [name, node]));
  const some = (literal: Literal | null): Literal | null => (literal === null ? null : to(literal));
  return {
    ...design,
    inputs: design.inputs.map((one) => ({ ...one, bits: each(one.bits) })),
    outputs: design.outputs.map((one) => ({ ...one, bits: pin(one.bits, outputs.get(one.name) ?? -1) })),
    flipFlops: design.flipFlops.map((ff) => ({
      ...ff,
      q: each(ff.q),
      data: pin(ff.data, ff.register.node),
      syncReset: some(ff.syncReset),
      enable: some(ff.enable),
      asyncReset: some(ff.asyncReset),
      asyncLoad: ff.asyncLoad === null ? null : each(ff.asyncLoad),
    })),
    memoryPorts: design.memoryPorts.map((port) => ({
      ...port,
      address: pin(port.address, port.node),
      enable: to(port.enable),
      data: port.kind === 'read' ? each(port.data) : pin(port.data, port.node),
    })),
    derivedClocks: new Map([...design.derivedClocks].map(([clock, literal]) => [clock, to(literal)])),
  };
}

function bitsOf(node: NetNode, word: (id: NodeId) => Bits, network: Network): Bits {
  const { width } = node;
  const arg = (i: number): Bits => word(item<NodeId>(node.args, i));
  const each = (f: (x: Literal, y: Literal) => Literal): Bits => arg(0).map((x, i) => f(x, item(arg(1), i)));
  const leaves = (): Bits => Array.from({ length: width }, () => network.leaf());
  switch (node.op) {
    case 'const':
      return Array.from({ length: width }, (_, i) => ((node.value >> BigInt(i)) & 1n ? TRUE : FALSE));
    case 'input':
    case 'reg':
    case 'memread':
      return leaves();
    case 'not':
      return arg(0).map(inverted);
    case 'and':
      return each((x, y) => network.and(x, y));
    case 'or':
      return each((x, y) => network.or(x, y));
    case 'xor':
      return each((x, y) => network.xor(x, y));
    case 'redand':
      return [reduce(network, arg(0), (x, y) => network.and(x, y), TRUE)];
    case 'redor':
      return [reduce(network, arg(0), (x, y) => network.or(x, y), FALSE)];
    case 'redxor':
      return [reduce(network, arg(0), (x, y) => network.xor(x, y), FALSE)];
    case 'sub':
      return subtract(network, arg(0), arg(1));
    case 'mul':
      return multiply(network, arg(0), arg(1));
    case 'eq':
      return [
        reduce(
          network,
          each((x, y) => inverted(network.xor(x, y))),
          (x, y) => network.and(x, y),
          TRUE,
        ),
      ];
    case 'ltu':
      return [less(network, arg(0), arg(1))];
    case 'lts':
      return [less(network, flipped(arg(0)), flipped(arg(1)))];
    case 'shl':
      return shift(network, arg(0), arg(1), 'up', FALSE);
    case 'shr':
      return shift(network, arg(0), arg(1), 'down', FALSE);
    case 'sra':
      return shift(network, arg(0), arg(1), 'down', last(arg(0)));
    case 'mux':
      return arg(1).map((then, i) => network.mux(item(arg(0), 0), then, item(arg(2), i)));
    case 'concat':
      return node.args.flatMap((id) => word(id));
    case 'slice':
      return arg(0).slice(node.lo, node.lo + width);
    case 'sext':
      return Array.from({ length: width }, (_, i) => item(arg(0), Math.min(i, arg(0).length - 1)));
    default:
      throw new RangeError(`${node.op} is not part of an optimised netlist`);
  }
}

/** Signed order is unsigned order with the sign bits turned round. */
const flipped = (bits: Bits): Bits => [...bits.slice(0, -1), inverted(last(bits))];

/** Peels a synchronous reset and then an enable off the next value: flip-flops have pins for both. */
function flipFlopsOf(source: Netlist, register: Register, word: (id: NodeId) => Bits, network: Network): FlipFlops {
  network.for = register.node;
  let at = register.d;
  const choice = (): { condition: Literal; then: NodeId; otherwise: NodeId } | null => {
    const { op, args } = item(source.nodes, at);
    return op === 'mux'
      ? { condition: item(word(item(args, 0)), 0), then: item(args, 1), otherwise: item(args, 2) }
      : null;
  };
  let syncReset: Literal | null = null;
  let syncValue = 0n;
  let enable: Literal | null = null;
  const reset = choice();
  const constant = (id: NodeId): bigint | null => {
    const node = item(source.nodes, id);
    return node.op === 'const' ? node.value : null;
  };
  const [whenTrue, whenFalse] = reset ? [constant(reset.then), constant(reset.otherwise)] : [null, null];
  if (reset && whenTrue !== null) [syncReset, syncValue, at] = [reset.condition, whenTrue, reset.otherwise];
  else if (reset && whenFalse !== null) [syncReset, syncValue, at] = [inverted(reset.condition), whenFalse, reset.then];
  const held = choice();
  if (held?.otherwise === register.node) [enable, at] = [held.condition, held.then];
  else if (held?.then === register.node) [enable, at] = [inverted(held.condition), held.otherwise];
  return {
    register,
    q: word(register.node),
    data: word(at),
    syncReset,
    syncValue,
    enable,
    asyncReset: register.reset === null ? null : item(word(register.reset), 0),
    asyncLoad: register.load === null ? null : word(register.load),
  };
}
