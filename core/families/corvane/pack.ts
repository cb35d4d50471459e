import {
  arityOf,
  emptyNetlist,
  type Memory,
  type NetNode,
  type Op,
  type PartCell,
  type Register,
  withArgs,
} from '../../netlist/index.ts';
import { settingOf } from '../cells.ts';
import type { Design } from '../family.ts';
import { type PinBinding, PULLS, SLEWS } from '../io.ts';
import { CLOCK_GENERATOR } from './clock-generator.ts';
import { STANDARDS } from './standards.ts';

const FORMAT = 2;
/** The same with clock generators behind it. */
const WITH_GENERATORS = 3;
/** Of the last group of a number that counts or names something. */
const MOST_WEIGHT = 128 ** 4;
/** In words: more than all block RAM of any part. */
const MOST_DEPTH = 1 << 21;
/** Order is part of the format: a number in the frames is a place in this list. docs/silicon.md, table 6 */
type FabricOp = Exclude<Op, 'wire'>;
const OPS: readonly FabricOp[] = [
  'const',
  'input',
  'reg',
  'memread',
  'not',
  'and',
  'or',
  'xor',
  'redand',
  'redor',
  'redxor',
  'add',
  'sub',
  'mul',
  'divu',
  'modu',
  'divs',
  'mods',
  'eq',
  'ltu',
  'lts',
  'shl',
  'shr',
  'sra',
  'mux',
  'concat',
  'slice',
  'sext',
];

/** Lays an optimised netlist and its pins out as frame payload. Names of inner signals do not travel. */
export function packNetlist({ netlist, pins }: Design): Uint8Array {
  const out = new Writer();
  out.number(netlist.cells.length > 0 ? WITH_GENERATORS : FORMAT);
  out.number(netlist.nodes.length);
  for (const node of netlist.nodes) {
    out.number(OPS.indexOf(node.op as FabricOp));
    out.number(node.width);
    if (node.op === 'const') out.big(node.value);
    if (node.op === 'slice') out.number(node.lo);
    if (node.op === 'memread') out.number(node.memory);
    if (node.op === 'concat') out.number(node.args.length);
    for (const arg of node.args) out.number(arg);
  }
  out.list(netlist.inputs, (port) => {
    out.text(port.name);
    out.number(port.node);
  });
  out.list(netlist.outputs, (port) => {
    out.text(port.name);
    out.number(port.node);
    out.number(port.enable === undefined ? 0 : port.enable + 1);
  });
  out.list(netlist.registers, (r) => {
    for (const value of [
      r.node,
      r.clock,
      r.edge === 'posedge' ? 1 : 0,
      r.d,
      r.reset === null ? 0 : r.reset + 1,
      r.load === null ? 0 : r.load + 1,
    ])
      out.number(value);
    out.big(r.resetValue);
    out.big(r.init);
  });
  out.list(netlist.memories, (memory) => {
    out.number(memory.width);
    out.number(memory.depth);
    const filled = memory.init.flatMap((word, address) => (word ? [{ word, address }] : []));
    out.list(filled, ({ word, address }) => {
      out.number(address);
      out.big(word);
    });
    out.list(memory.writes, (w) => {
      for (const value of [w.clock, w.edge === 'posedge' ? 1 : 0, w.enable, w.address, w.data]) out.number(value);
    });
  });
  out.list(pins, ({ port, bit, pin, standard, drive, pull, slew }) => {
    out.text(port);
    out.number(bit);
    out.text(pin);
    for (const value of [
      STANDARDS.findIndex((s) => s.name === standard),
      drive,
      PULLS.indexOf(pull),
      SLEWS.indexOf(slew),
    ])
      out.number(value);
  });
  if (netlist.cells.length > 0)
    out.list(netlist.cells, ({ path, parameters }) => {
      out.text(path);
      const { multiply, divide, outputs } = settingOf(CLOCK_GENERATOR, parameters);
      for (const value of [multiply, divide, ...outputs]) out.number(value);
    });
  return out.bytes();
}

/** Null when the bytes are no packed design; hardware then stays dark. */
export function unpackNetlist(bytes: Uint8Array): Design | null {
  const from = new Reader(bytes);
  try {
    const format = from.number();
    if (format !== FORMAT && format !== WITH_GENERATORS) return null;
    const nodes = from.list(() => readNode(from));
    const width = (node: number) => nodes[node]?.width ?? 1;
    const port = () => {
      const name = from.text();
      const node = from.number();
      return { name, node, width: width(node) };
    };
    const inputs = from.list(port);
    for (const { name, node } of inputs) {
      if (nodes[node]?.op !== 'input') throw new RangeError('a port that is no input');
      nodes[node] = { op: 'input', width: width(node), args: [], name };
    }
    const outputs = from.list(() => {
      const out = port();
      const enable = from.number();
      return enable === 0 ? out : { ...out, enable: enable - 1 };
    });
    const registers = from.list(() => readRegister(from));
    const memories = from.list(() => readMemory(from));
    const pins = from.list((): PinBinding => {
      const [port, bit, pin] = [from.text(), from.number(), from.text()];
      const [standard, drive, pull, slew] = from.numbers(4) as [number, number, number, number];
      const known = STANDARDS[standard];
      if (!known) throw new RangeError('no such standard');
      return { port, bit, pin, standard: known.name, drive, pull: PULLS[pull] ?? 'none', slew: SLEWS[slew] ?? 'slow' };
    });
    const cells = format === WITH_GENERATORS ? from.list(() => readGenerator(from)) : [];
    return { netlist: { ...emptyNetlist(), cells, nodes, inputs, outputs, registers, memories }, pins };
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

function readGenerator(from: Reader): PartCell {
  const { module, parameters } = CLOCK_GENERATOR;
  const path = from.text();
  const names = [parameters.multiply, parameters.divide, ...parameters.outputs];
  const given = Object.fromEntries(names.map((name) => [name, from.number()]));
  return { module, path, parameters: given, at: { file: '', line: 1, column: 1 } };
}

const edgeOf = (flag: number): 'posedge' | 'negedge' => (flag ? 'posedge' : 'negedge');

function readNode(from: Reader): NetNode {
  const op = OPS[from.number()];
  if (op === undefined) throw new RangeError('no such operation');
  const width = from.number();
  if (op === 'const') return { op, width, args: [], value: from.big() };
  if (op === 'input') return { op, width, args: [], name: '' };
  const about = op === 'slice' ? { lo: from.number() } : op === 'memread' ? { memory: from.number() } : {};
  return withArgs({ op, width, ...about }, from.numbers(arityOf(op) ?? from.number()));
}

function readRegister(from: Reader): Register {
  const [node, clock, edge, d, reset, load] = from.numbers(6) as [number, number, number, number, number, number];
  return {
    node,
    clock,
    edge: edgeOf(edge),
    d,
    reset: reset === 0 ? null : reset - 1,
    load: load === 0 ? null : load - 1,
    resetValue: from.big(),
    init: from.big(),
    initialised: true,
  };
}

function readMemory(from: Reader): Memory {
  const [width, depth] = from.numbers(2) as [number, number];
  if (depth > MOST_DEPTH) throw new RangeError('a memory deeper than any part has');
  const filled = from.list(() => ({ address: from.number(), word: from.big() }));
  const words = filled.reduce((most, { address }) => Math.max(most, address + 1), 0);
  if (words > depth) throw new RangeError('a word outside its memory');
  const init = new Array<bigint>(words).fill(0n);
  for (const { address, word } of filled) init[address] = word;
  const writes = from.list(() => {
    const [clock, edge, enable, address, data] = from.numbers(5) as [number, number, number, number, number];
    return { clock, edge: edgeOf(edge), enable, address, data };
  });
  return { name: '', width, depth, init, writes };
}

/** Numbers in groups of seven bits, low group first, bit 7 set while more follow. */
class Writer {
  #bytes = new Uint8Array(1 << 14);
  #length = 0;

  byte(value: number): void {
    if (this.#length === this.#bytes.length) {
      const grown = new Uint8Array(this.#bytes.length * 2);
      grown.set(this.#bytes);
      this.#bytes = grown;
    }
    this.#bytes[this.#length++] = value;
  }

  number(value: number): void {
    for (let rest = value; ; ) {
      const low = rest % 128;
      rest = Math.floor(rest / 128);
      this.byte(rest ? low | 0x80 : low);
      if (!rest) return;
    }
  }

  big(value: bigint): void {
    for (let rest = value; ; ) {
      const low = Number(rest & 0x7fn);
      rest >>= 7n;
      this.byte(rest ? low | 0x80 : low);
      if (!rest) return;
    }
  }

  text(value: string): void {
    const bytes = new TextEncoder().encode(value);
    this.number(bytes.length);
    for (const byte of bytes) this.byte(byte);
  }

  list<T>(items: readonly T[], write: (item: T) => void): void {
    this.number(items.length);
    for (const item of items) write(item);
  }

  bytes(): Uint8Array {
    return this.#bytes.slice(0, this.#length);
  }
}

class Reader {
  readonly #bytes: Uint8Array;
  #at = 0;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
  }

  byte(): number {
    const byte = this.#bytes[this.#at++];
    if (byte === undefined) throw new RangeError('the payload ends too early');
    return byte;
  }

  number(): number {
    let value = 0;
    for (let weight = 1; weight <= MOST_WEIGHT; weight *= 128) {
      const byte = this.byte();
      value += (byte & 0x7f) * weight;
      if (!(byte & 0x80)) return value;
    }
    throw new RangeError('a number of more than 32 bits');
  }

  /** So many as are asked for: each is a byte at least, so that a count that lies comes to the end soon. */
  numbers(count: number): number[] {
    const out: number[] = [];
    while (out.length < count) out.push(this.number());
    return out;
  }

  /** Gathered as text of bits: adding the groups up one by one would take the square of their number. */
  big(): bigint {
    const groups: string[] = [];
    for (;;) {
      const byte = this.byte();
      groups.push((byte & 0x7f).toString(2).padStart(7, '0'));
      if (!(byte & 0x80)) return BigInt(`0b${groups.reverse().join('')}`);
    }
  }

  text(): string {
    return new TextDecoder().decode(Uint8Array.from(this.list(() => this.byte())));
  }

  list<T>(read: () => T): T[] {
    const out: T[] = [];
    for (let left = this.number(); left > 0; left--) out.push(read());
    return out;
  }
}
