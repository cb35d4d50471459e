import type { Memory, Netlist, NetNode, Port, Register } from '../../core/netlist/index.ts';
import { type Levels, PAD_LEVELS } from './pads.ts';

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
}

/** docs/silicon.md, table 6: an operation is its place in this line. */
const OPERATIONS =
  `const input reg memread not and or xor redand redor redxor add sub mul divu modu divs mods eq ltu lts shl shr
  sra mux concat slice sext`.split(/\s+/);
const FORMAT = 2;
const PULLS = ['none', 'up', 'down'] as const;
/** Arguments of each operation that does not say how many it has. */
const ARGUMENTS: Readonly<Record<string, number>> = {
  ...{ const: 0, input: 0, reg: 0, memread: 1, not: 1, redand: 1, redor: 1, redxor: 1, slice: 1, sext: 1, mux: 3 },
};
const TWO = 2;

/** Length of the payload in bytes, then the payload. Null where it is no design: the part then stays dark. */
export function designIn(frames: Uint8Array): FramesDesign | null {
  const length = new DataView(frames.buffer, frames.byteOffset).getUint32(0);
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
  if (from.next() !== FORMAT) throw new Malformed();
  const nodes = from.list(() => readNode(from));
  const widthOf = (node: number): number => nodes[node]?.width ?? 1;
  const inputs = from.list((): Port => {
    const [name, node] = [from.text(), from.next()];
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
  const netlist = { nodes, inputs, outputs, registers, memories, signals: [], origins: [] };
  if (!pointsInside(netlist)) throw new Malformed();
  return { netlist, pads };
}

/** Arguments are smaller than their node's number, and everything else names a node that is there. */
function pointsInside({ nodes, inputs, outputs, registers, memories }: Netlist): boolean {
  const isNode = (id: number | null | undefined) => id === null || id === undefined || id < nodes.length;
  return (
    nodes.every(({ args }, id) => args.every((arg) => arg < id)) &&
    nodes.every((node) => node.op !== 'memread' || node.memory < memories.length) &&
    [...inputs, ...outputs].every(({ node, enable }) => isNode(node) && isNode(enable)) &&
    registers.every((r) => [r.node, r.clock, r.d, r.reset, r.load].every(isNode)) &&
    memories.every(({ writes }) => writes.every((w) => [w.clock, w.enable, w.address, w.data].every(isNode)))
  );
}

function readNode(from: Payload): NetNode {
  const op = OPERATIONS[from.next()];
  if (op === undefined) throw new Malformed();
  const width = from.next();
  const value = op === 'const' ? from.wide() : 0n;
  const about = op === 'slice' || op === 'memread' ? from.next() : 0;
  const count = op === 'concat' ? from.next() : (ARGUMENTS[op] ?? TWO);
  const args = Array.from({ length: count }, () => from.next());
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
  const init = Array.from(
    { length: filled.size === 0 ? 0 : Math.max(...filled.keys()) + 1 },
    (_, at) => filled.get(at) ?? 0n,
  );
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
    let [value, place] = [0n, 0n];
    for (;;) {
      const byte = this.#byte();
      value += BigInt(byte % 128) << place;
      if (byte < 128) return value;
      place += 7n;
    }
  }

  next(): number {
    const first = this.#byte();
    return first < 128 ? first : (first % 128) + 128 * this.next();
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
    const out: T[] = [];
    for (let left = this.next(); left > 0; left--) out.push(readOne());
    return out;
  }
}
