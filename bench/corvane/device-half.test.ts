// The device's half of the Corvane family against the host's, which were written apart from docs/silicon.md.
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../../tests/support/demo.ts';
import { reverseByte } from '../../core/bits/index.ts';
import { readBootHeader, writeBootHeader } from '../../core/families/corvane/boot.ts';
import { packNetlist, unpackNetlist } from '../../core/families/corvane/pack.ts';
import { STANDARDS } from '../../core/families/corvane/standards.ts';
import { buildStream } from '../../core/families/corvane/stream.ts';
import { streamFacts } from '../../core/families/corvane/stream-facts.ts';
import { allCells, type PinBinding, readBitstream } from '../../core/families/index.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { updateIn } from './boot-header.ts';
import { ConfigStream } from './config-stream.ts';
import { designIn } from './frames.ts';
import { PAD_LEVELS, readsAs } from './pads.ts';

const print = Uint8Array.from({ length: 16 }, (_, i) => i * 7);

/** What a part hears of a stream, as it comes after so many other bits. */
function heard(stream: Uint8Array, lead = 0, pieces = 1): string[] {
  const told: string[] = [];
  const part = new ConfigStream({
    started: () => told.push('started'),
    idcode: (value) => told.push(`idcode ${value.toString(16)}`),
    fingerprint: (bytes) => told.push(`print ${Buffer.from(bytes).toString('hex')}`),
    frame: (address, data) => told.push(`frame ${address} ${data.length}`),
    checked: (isRight) => told.push(isRight ? 'right' : 'wrong'),
    malformed: () => told.push('malformed'),
    begin: () => told.push('begin'),
  });
  part.take(new Uint8Array((lead + 7) >> 3), lead);
  const shifted = Uint8Array.from(stream, reverseByte);
  const size = Math.ceil(shifted.length / pieces);
  for (let at = 0; at < shifted.length; at += size) {
    const piece = shifted.subarray(at, at + size);
    part.take(piece, piece.length * 8);
  }
  return told;
}

describe('the configuration stream', () => {
  const payload = Uint8Array.from({ length: 700 }, (_, i) => (i * 31) & 0xff);
  const stream = buildStream(0x1c025ffd, 8, print, payload);

  test('is heard in its order, wherever the start word falls and in whatever pieces it comes', () => {
    const wanted = [
      'started',
      'idcode 1c025ffd',
      `print ${Buffer.from(print).toString('hex')}`,
      ...Array.from({ length: 8 }, (_, i) => `frame ${i} 256`),
      'right',
      'begin',
    ];
    for (const lead of [0, 1, 7, 13]) expect(heard(stream, lead)).toEqual(wanted);
    expect(heard(stream, 3, 37)).toEqual(wanted);
  });

  test('with any bit turned round is not begun with', () =>
    fc.assert(
      fc.property(fc.integer({ min: 64, max: (stream.length - 12) * 8 - 1 }), (bit) => {
        const bad = stream.slice();
        bad[bit >> 3] = (bad[bit >> 3] as number) ^ (0x80 >> (bit & 7));
        const told = heard(bad);
        expect(told.includes('right') && told.includes('begin') && !told.includes('malformed')).toBe(false);
      }),
      { numRuns: 300 },
    ));

  test('cut short, or followed by more, is what both halves take it for', () =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: stream.length }), fc.uint8Array({ maxLength: 40 }), (length, more) => {
        const bytes = Uint8Array.from([...stream.subarray(0, length), ...more]);
        const told = heard(bytes);
        expect(told.includes('right') && told.includes('begin')).toBe(streamFacts(bytes).isWhole);
      }),
      { numRuns: 300 },
    ));
});

describe('the frames', () => {
  const PIN: PinBinding = {
    port: 'd',
    bit: 3,
    pin: 'P7',
    standard: 'LVCMOS 2.5 V',
    drive: 4,
    pull: 'up',
    slew: 'fast',
  };
  const framed = (payload: Uint8Array) => {
    const frames = new Uint8Array(payload.length + 4 + 9);
    new DataView(frames.buffer).setUint32(0, payload.length);
    frames.set(payload, 4);
    return frames;
  };

  test('hold a design that does what the source does, on its pins', () => {
    const text = `module m(input clk, input rst, input [39:0] d, output reg [39:0] q, output [7:0] r, output [3:0] f);
      reg [7:0] mem [0:15]; reg [3:0] a = 3; initial begin mem[3] = 8'h5a; mem[4] = 8'hc3; end
      always @(posedge clk or posedge rst)
        if (rst) q <= 40'h1234567890; else q <= d * 3 - {q[0], q[39:1]};
      always @(negedge clk) begin a <= a + 1; if (d[0]) mem[a] <= d[15:8]; end
      assign r = mem[a] ^ {8{^d}}; assign f = d[4] ? 4'bz : d[3:0] % 3;
    endmodule`;
    const { netlist } = elaborate([{ name: 'm.v', text }]);
    if (!netlist) throw new Error('does not elaborate');
    const small = optimise(netlist).netlist;
    const design = designIn(framed(packNetlist({ netlist: small, pins: [PIN] })));
    if (!design) throw new Error('is not read');
    expect(design.pads.map(({ levels, ...pad }) => ({ ...pad, levels: levels.name }))).toEqual([
      { port: 'd', bit: 3, pin: 'P7', pull: 'up', levels: 'LVCMOS 2.5 V' },
    ]);
    const [source, part] = [new Simulator(small), new Simulator(design.netlist)];
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.bigInt({ min: 0n, max: (1n << 40n) - 1n }), fc.boolean()), { maxLength: 30 }),
        (steps) => {
          for (const [d, rst] of steps) {
            for (const sim of [source, part]) {
              sim.setInput('d', d);
              sim.setInput('rst', rst ? 1n : 0n);
              sim.step(sim.domain('clk'));
              sim.step(sim.domain('clk', 'negedge'));
            }
            for (const port of ['q', 'r', 'f']) expect(part.getOutput(port)).toEqual(source.getOutput(port));
          }
        },
      ),
      { numRuns: 30 },
    );
  });

  test('of the demo are read alike by both halves', () => {
    const read = readBitstream(builtDemo().bitstream);
    if (!read.ok) throw new Error(read.error.message);
    const frames: Uint8Array[] = [];
    const nothing = () => {};
    const part = new ConfigStream({
      ...{ started: nothing, idcode: nothing, fingerprint: nothing },
      ...{ checked: nothing, malformed: nothing, begin: nothing },
      frame: (address, data) => {
        frames[address] = data.slice();
      },
    });
    part.take(Uint8Array.from(read.value.stream, reverseByte), read.value.stream.length * 8);
    const memory = Uint8Array.from(Buffer.concat(frames));
    const [device, host] = [
      designIn(memory),
      unpackNetlist(memory.subarray(4, 4 + new DataView(memory.buffer).getUint32(0))),
    ];
    expect(device?.netlist).toEqual(host?.netlist);
    expect(device?.pads.map(({ port, bit, pin }) => [port, bit, pin])).toEqual(
      host?.pins.map(({ port, bit, pin }) => [port, bit, pin]),
    );
  });

  test('with clock generators are read alike by both halves; factors that no cell has leave the part dark', () => {
    const made = (a: number, multiply = 32) => {
      const { netlist } = elaborate(
        [
          {
            name: 'm.v',
            text: `module m(input clk, output reg [3:0] q); wire f;
              corvane_clock_generator #(.MULTIPLY(${multiply}), .DIVIDE(2), .DIVIDE_A(${a}), .DIVIDE_C(7)) u (
                .clock_in(clk), .clock_a(f));
              always @(posedge f) q <= q + 1; endmodule`,
          },
        ],
        { cells: allCells() },
      );
      if (!netlist) throw new Error('does not elaborate');
      return packNetlist({ netlist: optimise(netlist).netlist, pins: [] });
    };
    const [device, host] = [designIn(framed(made(8))), unpackNetlist(made(8))];
    expect(device?.generators).toEqual([{ name: 'u', multiply: 32, divide: 2, dividers: [8, 0, 7] }]);
    expect(host?.netlist.cells[0]?.parameters).toEqual({
      ...{ MULTIPLY: 32, DIVIDE: 2, DIVIDE_A: 8, DIVIDE_B: 0, DIVIDE_C: 7 },
    });
    expect(device?.netlist.inputs).toEqual(host?.netlist.inputs);
    for (const wrong of [made(200), made(8, 0), made(8, 1000)]) expect(designIn(framed(wrong))).toBeNull();
    // Cut anywhere it is no design, and nothing is thrown.
    const whole = made(8);
    for (let length = 1; length < whole.length; length++)
      expect(designIn(framed(whole.subarray(0, length)))).toBeNull();
  });

  test('that hold no design leave the part dark, and throw nothing', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
        const design = designIn(framed(bytes));
        if (design) for (const { args } of design.netlist.nodes) expect(Math.max(0, ...args)).toBeLessThan(1e9);
      }),
    );
    const { netlist } = elaborate([
      { name: 'm.v', text: 'module m(input a, b, output y); assign y = a & b; endmodule' },
    ]);
    if (!netlist) throw new Error('does not elaborate');
    const good = packNetlist({ netlist: optimise(netlist).netlist, pins: [PIN] });
    fc.assert(
      fc.property(fc.nat({ max: good.length - 1 }), fc.nat({ max: 255 }), (at, byte) => {
        const bad = good.slice();
        bad[at] = byte;
        const design = designIn(framed(bad));
        // Whatever is taken for a design points at nothing outside itself.
        for (const { node } of design?.netlist.outputs ?? [])
          expect(node).toBeLessThan(design?.netlist.nodes.length ?? 0);
      }),
      { numRuns: 500 },
    );
  });
});

test('the boot header is read by the part as the host writes it, and not when a bit of it is wrong', () => {
  const flash = (header: Uint8Array) => {
    const memory = new Uint8Array(1 << 16).fill(0xff);
    memory.set(header, memory.length - 4096);
    return memory;
  };
  fc.assert(
    fc.property(fc.nat({ max: 0xffffff }), fc.nat({ max: 127 }), (update, bit) => {
      const header = writeBootHeader(update);
      expect(updateIn(flash(header))).toBe(update);
      header[bit >> 3] = (header[bit >> 3] as number) ^ (1 << (bit & 7));
      expect([updateIn(flash(header)), readBootHeader(header)]).toEqual([null, null]);
    }),
  );
  expect(updateIn(flash(new Uint8Array(0)))).toBeNull();
});

describe('levels', () => {
  // JESD8C, JESD8-5, JESD8-7, values from memory.
  test.each([
    [0, 3.3, 2.0, 0.8],
    [1, 2.5, 1.7, 0.7],
    [2, 1.8, 1.17, 0.63],
  ])('of standard %i at %f V', (place, supply, high, low) => {
    const levels = PAD_LEVELS[place];
    if (!levels) throw new Error('no such standard');
    expect([
      readsAs(levels, high + 1e-9, supply),
      readsAs(levels, low - 1e-9, supply),
      readsAs(levels, (high + low) / 2, supply),
    ]).toEqual([true, false, null]);
  });

  test('stand in the order of the stream, the same for host and part, as the data sheet lists them', () => {
    const table = readFileSync('docs/silicon.md', 'utf8').split('Table 8')[1] ?? '';
    const listed = [...table.matchAll(/^\| (LVCMOS [^|]+?) \|/gm)].map(([, name]) => name);
    expect(PAD_LEVELS.map(({ name }) => name)).toEqual(listed);
    expect(STANDARDS.map(({ name }) => name)).toEqual(listed);
  });
});

describe('frames that hold no design', () => {
  const text = `module m(input clk, input rst, input [39:0] d, output reg [39:0] q, output [7:0] r, output [3:0] f);
    reg [7:0] mem [0:15]; initial mem[3] = 8'h5a;
    always @(posedge clk or posedge rst) if (rst) q <= 0; else q <= d * 3 - {q[0], q[39:1]};
    always @(negedge clk) if (d[0]) mem[d[3:0]] <= d[15:8] >>> d[2:0];
    assign r = mem[q[3:0]]; assign f = d[4] ? 4'bz : d[3:0] % 3;
  endmodule`;
  const { netlist } = elaborate([{ name: 'm.v', text }]);
  if (!netlist) throw new Error('does not elaborate');
  const payload = packNetlist({ netlist: optimise(netlist).netlist, pins: [] });
  const framed = (bytes: readonly number[]) => {
    const frames = new Uint8Array(bytes.length + 4);
    new DataView(frames.buffer).setUint32(0, bytes.length);
    frames.set(bytes, 4);
    return frames;
  };
  const LARGE = [0xff, 0xff, 0xff, 0xff, 0x0f];

  test('leave a part dark, or make one that runs; nothing in them is taken on trust', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(payload.length - 1), fc.constantFrom(...Array.from({ length: 256 }, (_, i) => i))), {
          minLength: 1,
          maxLength: 4,
        }),
        fc.boolean(),
        (changes, isLarge) => {
          const bytes: number[] = [...payload];
          for (const [at, value] of changes) bytes.splice(at, 1, ...(isLarge ? LARGE : [value]));
          unpackNetlist(Uint8Array.from(bytes));
          const design = designIn(framed(bytes));
          if (!design) return;
          const part = new Simulator(design.netlist);
          for (const [i] of part.domains.entries()) part.step(i, 3);
          for (const { name } of design.netlist.outputs) part.getOutput(name);
        },
      ),
      { numRuns: 1500 },
    ));

  test.each([
    ['a count of billions', [2, ...LARGE]],
    ['a number without end', [2, ...new Array<number>(300_000).fill(0x80)]],
    ['a word of a hundred thousand bits in two bits', [2, 1, 0, 2, ...new Array<number>(15_000).fill(0xff), 1]],
    ['a memory of billions of words', [2, 0, 0, 0, 0, 1, 8, ...LARGE, 1, ...LARGE, 1, 0, 0]],
    ['a length that goes beyond', [2]],
  ])('%s', (name, bytes) => {
    const frames = framed(bytes);
    if (name.startsWith('a length')) new DataView(frames.buffer).setUint32(0, 1 << 30);
    expect(designIn(frames)).toBeNull();
    if (!name.startsWith('a word')) expect(unpackNetlist(Uint8Array.from(bytes))).toBeNull();
  });
});
