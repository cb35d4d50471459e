// A second family of FPGAs, for tests alone: another instruction register, another stream, another status, another
// case, no flash. The host's half.
import { type Bits, bitAt } from '../../core/bits/index.ts';
import type { Family, Fpga, Part } from '../../core/families/index.ts';
import { jsonIntegers } from '../../core/json-integers.ts';
import { fail, ok, problem } from '../../core/result.ts';

export const PEBBLE = { name: 'PB4', idcode: 0x2004a0a1, irLength: 4, roomBytes: 60_000 } as const;

/** Opcodes and status bits, as a data sheet would list them: what both halves share. */
export const PEBBLE_OPCODE = { IDCODE: 2, CONFIG: 4, STATUS: 6, PRINT: 7, USER: 9, RUN: 12 } as const;
export const PEBBLE_STATUS = { RUNS: 0, WRONG_SUM: 1, WRONG_PART: 2, BEGUN: 3 } as const;

/** Mark (2 bytes), IDCODE (4), fingerprint (16), length (4), the design as JSON, sum of all that (4); little-endian. */
const HEAD_BYTES = 26;
const MARK = [0x50, 0x42];

const sumOf = (bytes: Uint8Array): number => bytes.reduce((sum, byte) => (sum + byte) >>> 0, 0);
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

const fpga: Fpga = {
  name: 'Pebble',
  get parts() {
    return PARTS;
  },
  usualPart: PEBBLE.name,
  grades: [5],
  standards: [{ name: 'LVCMOS 3.3 V', supply: 3.3, drives: [6] }],
  drawing: () => ({
    name: 'T8',
    style: 'quad',
    body: 4,
    pitch: 1,
    pins: Array.from({ length: 8 }, (_, i) => ({
      name: `X${i}`,
      x: i < 4 ? -0.5 : 4.5,
      y: (i % 4) + 0.5,
      kind: 'io' as const,
      bank: 7,
      clock: i === 0,
    })),
  }),
  delays: () => ({
    ...{ lut: 1, carry: 0.1, chainEnds: 0.5, clockToOut: 1, setup: 0.5 },
    ...{ memoryClockToOut: 3, memorySetup: 1, tableMemory: 1, route: 1, routeGrowth: 0.2 },
    ...{ padIn: 1, padOut: 2, clockIn: 1.5 },
  }),
  memories: { shapes: [[128, 4]], leastBlockBits: 64, tableWords: 16 },
  stream: {
    bytes: () => PEBBLE.roomBytes,
    make: (_part, { netlist, pins }, fingerprint) => {
      const design = { netlist: { ...netlist, signals: [], origins: [] }, pins };
      const text = new TextEncoder().encode(JSON.stringify(jsonIntegers.serialize(design)));
      if (HEAD_BYTES + text.length + 4 > PEBBLE.roomBytes)
        return fail(problem('does-not-fit', `${text.length} bytes are too many for a PB4.`, 'Make it smaller.'));
      const bytes = new Uint8Array(PEBBLE.roomBytes);
      const view = viewOf(bytes);
      bytes.set(MARK);
      view.setUint32(2, PEBBLE.idcode, true);
      bytes.set(fingerprint, 6);
      view.setUint32(22, text.length, true);
      bytes.set(text, HEAD_BYTES);
      const end = HEAD_BYTES + text.length;
      view.setUint32(end, sumOf(bytes.subarray(0, end)), true);
      return ok(bytes);
    },
    facts: (bytes) => {
      if (bytes.length < HEAD_BYTES || MARK.some((byte, i) => bytes[i] !== byte))
        return { idcode: null, fingerprint: null, isWhole: false };
      const view = viewOf(bytes);
      const end = HEAD_BYTES + view.getUint32(22, true);
      return {
        idcode: view.getUint32(2, true),
        fingerprint: Buffer.from(bytes.subarray(6, 22)).toString('hex'),
        isWhole: end + 4 <= bytes.length && view.getUint32(end, true) === sumOf(bytes.subarray(0, end)),
      };
    },
    misordered: () => null,
    ports: () => [],
  },
  status: { opcode: PEBBLE_OPCODE.STATUS, length: 4, decode: statusOf },
  print: {
    opcode: PEBBLE_OPCODE.PRINT,
    length: 128,
    decode: (bits) => {
      const text = Buffer.from(bits.bytes.subarray(0, 16)).toString('hex');
      return /^0*$/.test(text) ? null : text;
    },
  },
  configure: async (link, { stream }, watch) => {
    const { queue } = link;
    const before = queue.counts;
    watch.report({ phase: 'Loading', done: 0, total: stream.length * 8, unit: 'bit' });
    link.select(PEBBLE_OPCODE.CONFIG);
    link.write({ length: stream.length * 8, bytes: stream });
    queue.countPayload(stream.length * 8);
    link.select(PEBBLE_OPCODE.RUN);
    queue.clock(8);
    link.select(PEBBLE_OPCODE.STATUS);
    const status = statusOf(await link.readNow(4));
    const counts = {
      tckCycles: queue.counts.tckCycles - before.tckCycles,
      payloadBits: queue.counts.payloadBits - before.payloadBits,
    };
    const trouble = status.done ? null : problem('sum', 'The part found a wrong sum in the stream.', 'Load again.');
    return { done: status.done, status, counts, problem: trouble };
  },
  verify: async () => ok(0),
  scriptLoad: (script, { stream }) => {
    script.select(PEBBLE_OPCODE.CONFIG);
    script.data({ length: stream.length * 8, bytes: stream });
    script.select(PEBBLE_OPCODE.RUN);
    script.wait({ clocks: 8 });
    script.select(PEBBLE_OPCODE.STATUS);
    const one = { length: 4, bytes: Uint8Array.of(1) };
    script.data({ length: 4, bytes: new Uint8Array(1) }, { tdo: one, care: one });
  },
  flash: null,
  clockGenerator: null,
};

const PARTS: readonly Part[] = [
  {
    name: PEBBLE.name,
    family: fpga,
    idcode: PEBBLE.idcode,
    irLength: PEBBLE.irLength,
    idcodeOpcode: PEBBLE_OPCODE.IDCODE,
    luts: 4000,
    blockRams: 64,
    clockGenerators: 0,
    packages: ['T8'],
    flashStopsDesign: false,
  },
];

function statusOf(bits: Bits) {
  const flag = (bit: number) => bitAt(bits, bit) === 1;
  const done = flag(PEBBLE_STATUS.RUNS);
  return {
    startSeen: flag(PEBBLE_STATUS.BEGUN),
    idcodeMismatch: flag(PEBBLE_STATUS.WRONG_PART),
    crcError: flag(PEBBLE_STATUS.WRONG_SUM),
    memoryClear: true,
    done,
    source: done ? ('jtag' as const) : ('none' as const),
    bootSource: 'jtag' as const,
    enabled: false,
    checked: true,
    fellBack: false,
    fromUpdate: false,
    raw: `0x${(bits.bytes[0] ?? 0).toString(16)}`,
  };
}

export const pebble: Family = {
  name: 'Pebble',
  devices: [
    {
      name: PEBBLE.name,
      idcode: PEBBLE.idcode,
      irLength: PEBBLE.irLength,
      irCapture: 1,
      idcodeOpcode: PEBBLE_OPCODE.IDCODE,
      tells: 'for tests',
    },
  ],
  packagesOf: (part) => (part === PEBBLE.name ? ['T8'] : []),
  drawing: fpga.drawing,
  describe: () => null,
  debug: (part) =>
    part === PEBBLE.name
      ? {
          opcode: PEBBLE_OPCODE.USER,
          late: 0,
          isNamed: false,
          runs: { ...fpga.status, decode: (bits) => statusOf(bits).done },
        }
      : null,
  fpga,
};
