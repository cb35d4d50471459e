import referenceCrc from 'crc-32';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../../../tests/support/demo.ts';
import { run } from '../../../tests/support/fabric.ts';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';
import { Simulator } from '../../sim/fabric/index.ts';
import { reverseByte, setBit } from '../../bits/index.ts';
import { caseDrawing } from '../cases/index.ts';
import { FAMILIES, type PinBinding, readBitstream, writeBitstream } from '../index.ts';
import { misordered } from './order-hint.ts';
import { packNetlist, unpackNetlist } from './pack.ts';
import { START_WORD, buildStream, StreamDecoder } from './stream.ts';
import { streamFacts } from './stream-facts.ts';

const print = Uint8Array.from({ length: 16 }, (_, i) => i * 7);
type StreamEvent = Parameters<ConstructorParameters<typeof StreamDecoder>[0]>[0];

const decode = (stream: Uint8Array, lead = 0): StreamEvent[] => {
  const events: StreamEvent[] = [];
  const decoder = new StreamDecoder((event) => events.push(event));
  decoder.bits(new Uint8Array((lead + 7) >> 3), lead);
  decoder.bits(stream.map(reverseByte), stream.length * 8);
  return events;
};

describe('the configuration stream', () => {
  const payload = Uint8Array.from({ length: 700 }, (_, i) => (i * 31) & 0xff);
  const stream = buildStream(0x1c025ffd, 8, print, payload);

  test('a file in another bit or byte order is recognised, and what turns it round is named', () => {
    const word = (bytes: Uint8Array, order: readonly number[]) =>
      bytes.map((_, i) => bytes[i - (i % 4) + (order[i % 4] as number)] as number);
    expect(misordered(stream)).toBeNull();
    expect(misordered(stream.map(reverseByte))).toMatch(/--reverse-bits/);
    expect(misordered(word(stream, [1, 0, 3, 2]))).toMatch(/16-bit word.*--swap-bytes 2/);
    expect(misordered(word(stream, [3, 2, 1, 0]))).toMatch(/32-bit word.*--swap-bytes 4/);
    expect(misordered(new Uint8Array(100))).toBeNull();
    expect(streamFacts(stream)).toEqual({
      idcode: 0x1c025ffd,
      fingerprint: [...print].map((byte) => byte.toString(16).padStart(2, '0')).join(''),
      isWhole: true,
    });
    expect(streamFacts(stream.subarray(0, 1000))).toMatchObject({ isWhole: false });
  });

  test('passes in pieces of any number of bits as it does a bit at a time', () => {
    const inPieces = (sizes: Iterable<number>, lead: number) => {
      const events: StreamEvent[] = [];
      const decoder = new StreamDecoder((event) => events.push(event));
      const all = new Uint8Array(((lead + 7) >> 3) + stream.length + 1);
      const bit = (i: number) => ((stream[i >> 3] ?? 0) >> (7 - (i & 7))) & 1;
      for (let i = 0; i < stream.length * 8; i++) if (bit(i)) setBit(all, lead + i, 1);
      const next = sizes[Symbol.iterator]();
      for (let at = 0; at < lead + stream.length * 8; ) {
        const size = Math.max(1, next.next().value ?? 5000);
        const piece = Array.from({ length: size }, (_, i) => ((all[(at + i) >> 3] ?? 0) >> ((at + i) & 7)) & 1);
        const packed = new Uint8Array((size + 7) >> 3);
        for (const [i, one] of piece.entries()) setBit(packed, i, one as 0 | 1);
        decoder.bits(packed, Math.min(size, lead + stream.length * 8 - at));
        at += size;
      }
      return events;
    };
    const one = inPieces(Array<number>(9000).fill(1), 0);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 700 }), { maxLength: 30 }), fc.nat(17), (sizes, lead) => {
        expect(inPieces(sizes, lead)).toEqual(one);
      }),
      { numRuns: 20 },
    );
  });

  test('tells part, fingerprint, frames, check and start in this order, wherever the start word falls', () => {
    for (const lead of [0, 1, 7, 13]) {
      const events = decode(stream, lead);
      expect(events.map((event) => event.kind)).toEqual([
        'start-word',
        'ident',
        'print',
        ...Array<string>(8).fill('frame'),
        'check',
        'start',
      ]);
      expect(events[1]).toEqual({ kind: 'ident', idcode: 0x1c025ffd });
      expect(events.find((event) => event.kind === 'check')).toEqual({ kind: 'check', good: true });
    }
  });

  test('its CRC is CRC-32 of everything between start word and check packet', () => {
    const view = new DataView(stream.buffer);
    const start = stream.findIndex((_, i) => i % 4 === 0 && view.getUint32(i) === START_WORD) + 4;
    const check = stream.length - 8 - 4 - 8;
    expect(view.getUint32(check + 4)).toBe(referenceCrc.buf(stream.subarray(start, check)) >>> 0);
  });

  test('any flipped bit keeps the part from starting with it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 64, max: (stream.length - 12) * 8 - 1 }), (bit) => {
        const bad = stream.slice();
        bad[bit >> 3] = (bad[bit >> 3] as number) ^ (0x80 >> (bit & 7));
        const events = decode(bad);
        const good =
          events.some((e) => e.kind === 'check' && e.good) &&
          events.some((e) => e.kind === 'start') &&
          !events.some((e) => e.kind === 'malformed');
        expect(good).toBe(false);
      }),
      { numRuns: 400 },
    );
  });
});

const PIN: PinBinding = { port: 'd', bit: 3, pin: 'P7', standard: 'LVCMOS 2.5 V', drive: 4, pull: 'up', slew: 'fast' };

describe('the packed design', () => {
  test('does the same after packing and unpacking', () => {
    const { netlist } = elaborate([
      {
        name: 'm.v',
        text: `module m(input clk, input [39:0] d, output reg [39:0] q, output [7:0] r);
      reg [7:0] mem [0:15]; reg [3:0] a = 3; initial begin mem[3] = 8'h5a; mem[4] = 8'hc3; end
      always @(posedge clk) begin a <= a + 1; q <= d * 3 - {q[0], q[39:1]}; if (d[0]) mem[a] <= d[15:8]; end
      assign r = mem[a]; endmodule`,
      },
    ]);
    if (!netlist) throw new Error('does not elaborate');
    const small = optimise(netlist).netlist;
    const copy = unpackNetlist(packNetlist({ netlist: small, pins: [PIN] }));
    expect(copy?.pins).toEqual([PIN]);
    if (!copy) return;
    const [first, second] = [new Simulator(small), new Simulator(copy.netlist)];
    for (let step = 0; step < 50; step++) {
      for (const sim of [first, second]) {
        sim.setInput('d', BigInt(step) * 0x123456789n);
        sim.step(sim.domain('clk'));
      }
      expect([second.getOutput('q'), second.getOutput('r')]).toEqual([first.getOutput('q'), first.getOutput('r')]);
    }
  });

  test('bytes that are no design are told as such, never thrown', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => void unpackNetlist(bytes)));
  });
});

describe('.nbits files', () => {
  const file = writeBitstream({
    part: 'CV25',
    package: 'Q100',
    top: 'm',
    fingerprint: '0'.repeat(32),
    stream: Uint8Array.of(1, 2, 3),
  });
  const codeOf = (bytes: Uint8Array) => {
    const read = readBitstream(bytes);
    return read.ok ? 'good' : read.error.code;
  };

  test('are read back as written', () => {
    const read = readBitstream(file);
    expect(read.ok && read.value).toEqual({
      part: 'CV25',
      package: 'Q100',
      top: 'm',
      fingerprint: '0'.repeat(32),
      stream: Uint8Array.of(1, 2, 3),
    });
  });

  test('say what is wrong with them', () => {
    expect(codeOf(Uint8Array.of(1, 2, 3))).toBe('not-a-bitstream');
    expect(codeOf(new Uint8Array(0))).toBe('not-a-bitstream');
    for (let length = 6; length < file.length; length++)
      expect(codeOf(file.slice(0, length))).toBe('bitstream-truncated');
    const damaged = file.slice();
    damaged[20] = (damaged[20] as number) ^ 1;
    expect(codeOf(damaged)).toBe('bitstream-damaged');
    expect(
      codeOf(writeBitstream({ part: 'CV99', package: null, top: 'm', fingerprint: '', stream: new Uint8Array(1) })),
    ).toBe('unknown-part');
  });

  test('the same sources give the same bytes', () => {
    expect(Buffer.from(builtDemo().bitstream).equals(Buffer.from(builtDemo().bitstream))).toBe(true);
  });
});

test('packages have as many user pins as the data sheet says, each named once', () => {
  const sizes: Readonly<Record<string, number>> = { Q64: 48, Q100: 78, B196: 150 };
  const names = FAMILIES.flatMap((family) => family.devices.flatMap(({ name }) => family.packagesOf(name)));
  expect([...new Set(names)].sort()).toEqual(Object.keys(sizes).sort());
  for (const [name, size] of Object.entries(sizes)) {
    const pins = caseDrawing(name).pins.flatMap((pin) => (pin.kind === 'io' ? [pin.name] : []));
    expect(pins).toHaveLength(size);
    expect(new Set(pins).size).toBe(pins.length);
  }
});

test('outputs that no clock drives follow their inputs', () => {
  const sim = run('module m(input [3:0] a, output y); assign y = ~&a; endmodule');
  // Common practice: an inverted AND is lit unless all inputs are 1.
  for (let a = 0n; a < 16n; a++) {
    sim.setInput('a', a);
    expect(sim.getOutput('y')).toBe(a === 15n ? 0n : 1n);
  }
});
