// Parts that are talked to on a few wires: a keyboard, a display of characters, a sensor; each with a design that does.
import { describe, expect, test } from 'vitest';
import { madeBoard } from '../tests/support/made-board.ts';

const file = (name: string, text: string) => ({ name: `${name}.v`, text });
const HZ = 12e6;
const LAMPS = Array.from({ length: 16 }, (_, i) => ({ name: `L${i}`, pin: `${i < 8 ? 'A' : 'B'}${(i % 8) + 3}` }));
const lampPins = (port: string) => LAMPS.map(({ pin }, i) => `${port}[${i}],${pin}`).join('\n');

/** Keeps the last two codes of a keyboard, the newest below, read as the falls of its clock come. */
const READER = `module t(input clk, input kclk, input kdata, output [15:0] codes);
  reg [2:0] c = 7; reg [1:0] d = 3; reg [3:0] n = 0; reg [10:0] bits = 0; reg [15:0] all = 0;
  assign codes = all;
  always @(posedge clk) begin
    c <= {c[1:0], kclk}; d <= {d[0], kdata};
    if (c[2] && !c[1]) begin
      bits <= {d[1], bits[10:1]};
      n <= n == 10 ? 4'd0 : n + 1'b1;
      // Parity is odd; the stop bit is on its way in.
      if (n == 10 && ^bits[10:2] && d[1] && !bits[1]) all <= {all[7:0], bits[9:2]};
    end
  end
endmodule`;

describe('a keyboard on two wires', () => {
  const board = madeBoard({
    ...{ top: 't', files: [file('t', READER)], clocks: { clk: HZ } },
    pins: `kclk,C5\nkdata,C6\n${lampPins('codes')}\n`,
    parts: { lamps: LAMPS, keyboards: [{ name: 'K0', clock: 'C5', data: 'C6' }] },
  });
  const { bench } = board;
  const codes = () => {
    bench.panel(1);
    bench.advance(12_000);
    return bench.panel(1).lamps.reduce((sum, { level }, i) => sum + (level > 0.5 ? 2 ** i : 0), 0);
  };

  test('codes come when a key goes down, and F0 before them when it goes up (common practice)', async () => {
    await board.load();
    expect(bench.operate('K0/A', true)).toBe(true);
    codes();
    expect(codes()).toBe(0x001c);
    bench.operate('K0/A', false);
    codes();
    expect(codes()).toBe(0xf01c);
    bench.operate('K0/Up', true);
    codes();
    expect(codes()).toBe(0xe075);
    bench.operate('K0/Enter', true);
    codes();
    expect(codes()).toBe(0x755a);
    expect(bench.panel().keyboards[0]?.down).toEqual(['Up', 'Enter']);
  });

  test('a key that is held says nothing again, and one it does not have is refused', async () => {
    bench.operate('K0/Up', true);
    codes();
    expect(codes()).toBe(0x755a);
    expect([bench.operate('K0/Blank', true), bench.operate('K9/A', true)]).toEqual([false, false]);
  });
});

/** Writes a list of nine-bit words, bit 8 for characters, to a display; a word of 0 waits for two milliseconds. */
const writer = (
  words: readonly number[],
) => `module t(input clk, output reg e = 0, output reg rs = 0, output reg [3:0] d = 0);
  reg [9:0] list [0:${words.length - 1}];
  initial begin
${words.map((word, i) => `    list[${i}] = 10'd${word};`).join('\n')}
  end
  reg [15:0] step = 0; reg [7:0] at = 0; reg low = 0;
  wire [9:0] word = list[at];
  // Bit 9: only the upper half is sent, as long as the display has eight data bits.
  wire isLong = word[7:0] < 4 || word[9];
  always @(posedge clk)
    if (at != ${words.length}) begin
      rs <= word[8];
      d <= low ? word[3:0] : word[7:4];
      e <= step > 100 && step < 200;
      step <= step + 1'b1;
      if (step == (isLong ? 30000 : 2000)) begin
        step <= 0;
        low <= !(low || word[9]);
        if (low || word[9]) at <= at + 1'b1;
      end
    end
endmodule`;

describe('a display of characters', () => {
  const text = (chars: string) => [...chars].map((char) => 0x100 + char.charCodeAt(0));
  const BEGIN = [0x230, 0x230, 0x230, 0x220, 0x28, 0x0c, 0x01, 0x06];
  const made = (words: readonly number[]) =>
    madeBoard({
      ...{ top: 't', files: [file('t', writer(words))], clocks: { clk: HZ } },
      pins: 'e,A2\nrs,B2\nd[0],C2\nd[1],D2\nd[2],C5\nd[3],C6\n',
      parts: { displays: [{ name: 'D0', enable: 'A2', select: 'B2', data: ['C2', 'D2', 'C5', 'C6'] }] },
    });

  test('what a design writes stands in both rows, from the place it chose', async () => {
    const board = made([...BEGIN, ...text('Lock 7'), 0x80 + 0x40 + 3, ...text('400 cm')]);
    await board.load();
    board.bench.advance(60_000);
    expect(board.bench.panel().displays[0]).toMatchObject({
      isOn: true,
      rows: ['Lock 7          ', '   400 cm       '],
    });
  });

  test('it is dark without the word that turns it on, and forgets all without supply', async () => {
    const board = made([...BEGIN.filter((word) => word !== 0x0c), ...text('x')]);
    await board.load();
    board.bench.advance(60_000);
    expect(board.bench.panel().displays[0]).toMatchObject({
      isOn: false,
      rows: [`x${' '.repeat(15)}`, ' '.repeat(16)],
    });
    board.bench.setPower(false);
    expect(board.bench.panel().displays[0]?.rows[0]).toBe(' '.repeat(16));
  });

  test('going left, the second row behind the first, and characters of its own as blocks', async () => {
    const board = made([...BEGIN, 0x80 + 39, ...text('ab'), 0x04, 0x80 + 5, ...text('21'), 0x06, 0x80 + 9, 0x100 + 3]);
    await board.load();
    board.bench.advance(80_000);
    expect(board.bench.panel().displays[0]?.rows).toEqual(['    12   ▯      ', `b${' '.repeat(15)}`]);
  });
});

/** Reads a converter on SPI again and again: sixteen bits, mode 0, 500 kHz. */
const SAMPLER = `module t(input clk, input miso, output sck, output reg cs_n = 1, output [15:0] n);
  reg [10:0] tick = 0; reg [15:0] bits = 0, kept = 0;
  assign n = kept;
  assign sck = !cs_n && tick >= 300 && tick < 684 && ((tick - 300) % 24) >= 12;
  always @(posedge clk) begin
    tick <= tick + 1'b1;
    cs_n <= !(tick >= 20 && tick < 700);
    if (tick >= 300 && tick < 684 && (tick - 300) % 24 == 12) bits <= {bits[14:0], miso};
    if (tick == 720) kept <= bits;
  end
endmodule`;

test('a sensor is read over SPI, and says what hands set, within its limits', async () => {
  const wiring = { name: 'T0', clock: 'C5', select: 'C6', out: 'D2', low: 100, high: 3000, value: 700, unit: 'mV' };
  const board = madeBoard({
    ...{ top: 't', files: [file('t', SAMPLER)], clocks: { clk: HZ } },
    pins: `sck,C5\ncs_n,C6\nmiso,D2\n${lampPins('n')}\n`,
    parts: { lamps: LAMPS, sensors: [wiring] },
  });
  await board.load();
  const { bench } = board;
  const reads = () => {
    bench.advance(2000);
    bench.panel(1);
    bench.advance(2000);
    return bench.panel(1).lamps.reduce((sum, { level }, i) => sum + (level > 0.5 ? 2 ** i : 0), 0);
  };
  expect(reads()).toBe(700);
  expect(bench.turn('T0', 2345)).toBe(true);
  expect(reads()).toBe(2345);
  bench.turn('T0', 9000);
  expect(reads()).toBe(3000);
  expect(bench.panel().sensors[0]).toMatchObject({ value: 3000, unit: 'mV' });
  expect(bench.turn('T1', 1)).toBe(false);
});
