import type { Memory, Netlist, NetNode, Port, Register } from '../../core/netlist/index.ts';
import { type Levels, PAD_LEVELS } from './pads.ts';
import { isSound, MOST_DEPTH, WIDEST } from './soundness.ts';

/** One port bit on a pad. */
interface PadBinding {
  readonly port: string;
  readonly bit: number;
  readonly pin: string;
  readonly levels: Levels;
  readonly pull: 'none' | 'up' | 'down';
}

/** What a part makes of its frames: a design and its pads. */
export interface FramesDesign {
  readonly netlist: Netlist;
  readonly pads: readonly PadBinding[];
  readonly generators: readonly GeneratorFrames[];
}

/** A clock generator: its ports in the netlist are `$`, its name, a dot and the name of the port. */
export interface GeneratorFrames {
  readonly name: string;
  readonly multiply: number;
  readonly divide: number;
  /** Of the outputs a, b and c; 0 is at rest. */
  readonly dividers: readonly number[];
}

/** docs/silicon.md, table 6: an operation is its place in this line. */
const OPERATIONS =
  `const input reg memread not and or xor redand redor redxor add sub mul divu modu divs mods eq ltu lts shl shr
  sra mux concat slice sext`.split(/\s+/);
const FORMAT = 2;
const WITH_GENERATORS = 3;
const GENERATOR_OUTPUTS = 3;
/** Factors are at most so large; more is no generator. */
const MOST_FACTOR = 128;
const PULLS = ['none', 'up', 'down'] as const;
/** Arguments of each operation that does not say how many it has. */
const ARGUMENTS: Readonly<Record<string, number>> = {
  ...{ const: 0, input: 0, reg: 0, memread: 1, not: 1, redand: 1, redor: 1, redxor: 1, slice: 1, sext: 1, mux: 3 },
};
const TWO = 2;
/** Numbers that count or name something fit into 32 bits; values are as wide as a word may be. */
const MOST_PLACE = 28;
const MOST_WIDE_BYTES = (WIDEST + 6) / 7;

/** Length of the payload in bytes, then the payload. Null where it is no design: the part then stays dark. */
export function designIn(frames: Uint8Array): FramesDesign | null {
  const length = new DataView(frames.buffer, frames.byteOffset).getUint32(0);
  if (length > frames.length - 4) return null;
  const payload = new Payload(frames.subarray(4, 4 + length));
  try {
    return read(payload);
  } catch (error) {
    if (error instanceof Malformed) return null;
    throw error;
  }
}

class Malformed extends Error {}

function read(from: Payload): FramesDesign {
  const format = from.next();
  if (format !== FORMAT && format !== WITH_GENERATORS) throw new Malformed();
  const nodes = from.list(() => readNode(from));
  const widthOf = (node: number): number => nodes[node]?.width ?? 1;
  const inputs = from.list((): Port => {
    const [name, node] = [from.text(), from.next()];
    if (nodes[node]?.op !== 'input') throw new Malformed();
    nodes[node] = { op: 'input', width: widthOf(node), args: [], name };
    return { name, node, width: widthOf(node) };
  });
  const outputs = from.list((): Port => {
    const [name, node, enable] = [from.text(), from.next(), from.optional()];
    return { name, node, width: widthOf(node), ...(enable === null ? {} : { enable }) };
  });
  const registers = from.list(() => readRegister(from));
  const memories = from.list(() => readMemory(from));
  const pads = from.list((): PadBinding => {
    const [port, bit, pin] = [from.text(), from.next(), from.text()];
    const levels = PAD_LEVELS[from.next()];
    // Drive strength and slew rate change nothing that a bench could show.
    from.next();
    const pull = PULLS[from.next()] ?? 'none';
    from.next();
    if (!levels) throw new Malformed();
    return { port, bit, pin, levels, pull };
  });
  const generators = format === WITH_GENERATORS ? from.list(() => readGenerator(from)) : [];
  const netlist = { nodes, inputs, outputs, registers, memories, signals: [], origins: [], cells: [] };
  if (!isSound(netlist)) throw new Malformed();
  return { netlist, pads, generators };
}

function readGenerator(from: Payload): GeneratorFrames {
  const [name, multiply, divide] = [from.text(), from.next(), from.next()];
  const dividers = from.times(GENERATOR_OUTPUTS, () => from.next());
  const isFactor = (value: number): boolean => value >= 1 && value <= MOST_FACTOR;
  if (!isFactor(multiply) || !isFactor(divide) || !dividers.every((one) => one === 0 || isFactor(one)))
    throw new Malformed();
  return { name, multiply, divide, dividers };
}

function readNode(from: Payload): NetNode {
  const op = OPERATIONS[from.next()];
  if (op === undefined) throw new Malformed();
  const width = from.next();
  const value = op === 'const' ? from.wide() : 0n;
  const about = op === 'slice' || op === 'memread' ? from.next() : 0;
  const count = op === 'concat' ? from.next() : (ARGUMENTS[op] ?? TWO);
  const args = from.times(count, () => from.next());
  const node = { op, width, args, ...extraOf(op, value, about) };
  return node as unknown as NetNode;
}

function extraOf(op: string, value: bigint, about: number): object {
  if (op === 'const') return { value };
  if (op === 'input') return { name: '' };
  return op === 'slice' ? { lo: about } : op === 'memread' ? { memory: about } : {};
}

const edgeOf = (rising: number): Register['edge'] => (rising === 1 ? 'posedge' : 'negedge');

function readRegister(from: Payload): Register {
  const [node, clock, rising, d] = [from.next(), from.next(), from.next(), from.next()];
  const [reset, load] = [from.optional(), from.optional()];
  const [resetValue, init] = [from.wide(), from.wide()];
  return { node, clock, edge: edgeOf(rising), d, reset, load, resetValue, init, initialised: true };
}

function readMemory(from: Payload): Memory {
  const [width, depth] = [from.next(), from.next()];
  const filled = new Map(from.list(() => [from.next(), from.wide()] as const));
  let words = 0;
  for (const at of filled.keys()) words = Math.max(words, at + 1);
  if (depth > MOST_DEPTH || words > depth) throw new Malformed();
  const init = Array.from({ length: words }, (_, at) => filled.get(at) ?? 0n);
  const writes = from.list(() => {
    const [clock, rising, enable, address, data] = [from.next(), from.next(), from.next(), from.next(), from.next()];
    return { clock, edge: edgeOf(rising), enable, address, data };
  });
  return { name: '', width, depth, init, writes };
}

/** Numbers of seven bits a byte, low group first, bit 7 set while more follow; lists and texts begin with a length. */
class Payload {
  readonly #bytes: Iterator<number>;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes.values();
  }

  #byte(): number {
    const { value, done } = this.#bytes.next();
    if (done) throw new Malformed();
    return value;
  }

  /** A number of any width. */
  wide(): bigint {
    const groups: number[] = [];
    for (;;) {
      const byte = this.#byte();
      groups.push(byte % 128);
      if (byte < 128) break;
      if (groups.length > MOST_WIDE_BYTES) throw new Malformed();
    }
    return groups.length < 8 ? groups.reduceRight((value, group) => (value << 7n) + BigInt(group), 0n) : joined(groups);
  }

  next(): number {
    let value = 0;
    for (let place = 0; place <= MOST_PLACE; place += 7) {
      const byte = this.#byte();
      value += (byte % 128) * 2 ** place;
      if (byte < 128) return value;
    }
    throw new Malformed();
  }

  /** A number, or null for the 0 that stands for none. */
  optional(): number | null {
    const value = this.next();
    return value === 0 ? null : value - 1;
  }

  text(): string {
    return new TextDecoder().decode(Uint8Array.from(this.list(() => this.#byte())));
  }

  list<T>(readOne: () => T): T[] {
    return this.times(this.next(), readOne);
  }

  /** Each takes a byte at least, so that a count that lies comes to the end soon. */
  times<T>(count: number, readOne: () => T): T[] {
    const out: T[] = [];
    for (let left = count; left > 0; left--) out.push(readOne());
    return out;
  }
}

/** Groups of seven bits, low first, as one number: by bits in text, since adding them up would take the square. */
const joined = (groups: readonly number[]): bigint =>
  BigInt(
    `0b${groups
      .map((group) => group.toString(2).padStart(7, '0'))
      .reverse()
      .join('')}`,
  );
