// The serial line of a board, from Verilog to bytes at the pod and back: over speeds, faults and flow control.
import { describe, expect, test } from 'vitest';
import type { LineSettings } from '../core/serial/index.ts';
import { fittingSettings, type PulseRun, USUAL_LINE } from '../core/serial/index.ts';
import { type MadeBoard, madeBoard } from '../tests/support/made-board.ts';
import { RECEIVER, SENDER, teller } from '../tests/support/serial-designs.ts';

const [TX, RX, RTS, CTS] = ['A2', 'B2', 'C2', 'D2'];
const HZ = 12e6;
const TEXT = 'Ready at 3 cm, 100 %.\r\n';

const file = (name: string, text: string) => ({ name: `${name}.v`, text });
const LINE = { serial: { tx: TX, rx: RX, rts: RTS, cts: CTS } };
const PINS = `line,${TX}\n`;

function telling(clocks: number, rest: { hz?: number; faults?: object[] } = {}): MadeBoard {
  const top = `module t(input clk, output line);
    teller #(.CLOCKS(${clocks})) u(.clk(clk), .again(1'b1), .hold(1'b0), .line(line));
  endmodule`;
  return madeBoard({
    ...{ top: 't', files: [file('t', top), file('teller', teller(TEXT)), file('sender', SENDER)], pins: PINS },
    ...{ clocks: { clk: rest.hz ?? HZ }, parts: LINE, faults: rest.faults ?? [] },
  });
}

function port({ bench }: MadeBoard) {
  if (!bench.serial) throw new Error('no line');
  return bench.serial;
}

/** What the pod has heard since the last time, in so many milliseconds. */
function heard(board: MadeBoard, milliseconds: number) {
  board.bench.advance(milliseconds * 1000);
  const { frames, pulses, lost } = port(board).take();
  return { text: String.fromCharCode(...frames.map(({ value }) => value)), frames, pulses, lost };
}

const at = (rate: number, more: Partial<LineSettings> = {}): LineSettings => ({ ...USUAL_LINE, rate, ...more });

describe('a serial line', () => {
  test('what a design says arrives whole, from its first byte on, each at its time', async () => {
    for (const [rate, clocks] of [
      [115_200, 104],
      [9600, 1250],
      [3_000_000, 4],
    ] as const) {
      const board = telling(clocks);
      await port(board).set(at(rate));
      await board.load();
      const { text, frames, lost } = heard(board, (30 * 12 * 1000) / rate);
      expect(text.startsWith(TEXT)).toBe(true);
      expect(frames.every(({ trouble }) => trouble === null)).toBe(true);
      expect(lost).toBe(0);
      // One more clock for each byte: the sender looks for the next one when it is not busy any more.
      const apart = frames.slice(1, TEXT.length).map((frame, i) => frame.at - (frames[i]?.at ?? 0));
      for (const one of apart) expect(one).toBeCloseTo(((10 * clocks + 1) * 1e6) / HZ, 2);
    }
  });

  test('at a wrong speed frames are broken, and the pulses say which speed it is', async () => {
    const board = telling(104);
    await port(board).set(at(38_400));
    await board.load();
    const { frames, pulses } = heard(board, 20);
    expect(frames.some(({ trouble }) => trouble !== null)).toBe(true);
    const fit = fittingSettings([pulses as PulseRun]);
    expect(fit?.settings).toEqual({ rate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 });
    expect((fit?.rate ?? 0) / (HZ / 104)).toBeCloseTo(1, 3);
  });

  test('a board that is 6 % off is heard as such, and as text at what was measured', async () => {
    const board = telling(104, { faults: [{ name: 'serial-off-speed', percent: 6 }] });
    await board.load();
    const off = heard(board, 20);
    expect(off.frames.some(({ trouble }) => trouble !== null)).toBe(true);
    const fit = fittingSettings([off.pulses as PulseRun]);
    expect((fit?.rate ?? 0) / ((HZ / 104) * 1.06)).toBeCloseTo(1, 3);
    await port(board).set({ ...USUAL_LINE, ...fit?.settings });
    heard(board, 3);
    expect(heard(board, 20).text).toContain(TEXT);
  });

  test('what is sent to the design comes back from it, at any usual speed', async () => {
    for (const [rate, clocks] of [
      [115_200, 104],
      [19_200, 625],
      [1_000_000, 12],
    ] as const) {
      const top = `module t(input clk, input rx, output line, output ask);
        wire [7:0] data; wire got;
        reg [7:0] kept = 0; reg full = 0; wire busy;
        receiver #(.CLOCKS(${clocks})) u_in(.clk(clk), .line(rx), .data(data), .got(got));
        sender #(.CLOCKS(${clocks})) u_out(.clk(clk), .data(kept ^ 8'h20), .go(full && !busy), .busy(busy), .line(line));
        always @(posedge clk) if (got) begin kept <= data; full <= 1; end else if (!busy) full <= 0;
        assign ask = 0;
      endmodule`;
      const board = madeBoard({
        ...{ top: 't', files: [file('t', top), file('sender', SENDER), file('receiver', RECEIVER)] },
        ...{ pins: `${PINS}rx,${RX}\nask,${RTS}\n`, clocks: { clk: HZ }, parts: LINE },
      });
      await port(board).set(at(rate, { flow: 'rts-cts' }));
      await board.load();
      heard(board, 1);
      expect(await port(board).send(new TextEncoder().encode('echo THIS'))).toBe(9);
      expect(heard(board, (12 * 10 * 1000) / rate).text).toBe('ECHO\0this');
    }
  });

  test('a board that asks for a pause on RTS is not sent to, and goes on where it was', async () => {
    const top = `module t(input clk, input rx, output reg ask = 0, output [7:0] n);
      wire [7:0] data; wire got;
      reg [20:0] rest = 0;
      reg [7:0] all = 0;
      receiver u_in(.clk(clk), .line(rx), .data(data), .got(got));
      always @(posedge clk) begin
        if (got) begin all <= all + 1; ask <= 1; rest <= 0; end
        else if (ask) begin rest <= rest + 1; if (rest == 120000) ask <= 0; end
      end
      assign n = all;
    endmodule`;
    const lamps = Array.from({ length: 8 }, (_, i) => ({ name: `L${i}`, pin: `A${i + 3}` }));
    const board = madeBoard({
      ...{ top: 't', files: [file('t', top), file('receiver', RECEIVER)], clocks: { clk: HZ } },
      pins: `rx,${RX}\nask,${RTS}\n${lamps.map(({ pin }, i) => `n[${i}],${pin}`).join('\n')}\n`,
      parts: { ...LINE, lamps },
    });
    await port(board).set(at(115_200, { flow: 'rts-cts' }));
    await board.load();
    heard(board, 1);
    await port(board).send(new Uint8Array(5));
    const count = () => {
      board.bench.advance(20_000);
      const { lamps: seen } = board.bench.panel(1);
      return seen.reduce((sum, { level }, i) => sum + (level > 0.5 ? 2 ** i : 0), 0);
    };
    // Each byte costs its frame and the pause of 10 ms behind it.
    board.bench.advance(5000);
    expect(port(board).state).toMatchObject({ waits: true });
    expect(port(board).state.queued).toBeGreaterThan(2);
    for (let i = 0; i < 4; i++) count();
    expect(count()).toBe(5);
    expect(port(board).state).toMatchObject({ waits: false, queued: 0 });
  });

  test('a board that says XOFF is not sent to until it says XON, and neither is text', async () => {
    const board = telling(104);
    await port(board).set(at(115_200, { flow: 'xon-xoff' }));
    await board.load();
    const said = heard(board, 10).text;
    expect(said).toContain(TEXT);
    const line = port(board);
    const frame = (value: number, from: number) => {
      const bits = [0, ...Array.from({ length: 8 }, (_, i) => (value >>> i) & 1), 1];
      for (const [i, bit] of bits.entries()) line.moved(from + i * 8.68, bit);
    };
    const now = board.bench.time;
    line.released(now);
    line.look(now + 200, () => {});
    line.take();
    frame(0x13, now + 300);
    line.look(now + 500, () => {});
    await line.send(Uint8Array.of(1, 2));
    expect([line.state.waits, line.take().frames.length]).toEqual([true, 0]);
    frame(0x11, now + 600);
    line.look(now + 800, () => {});
    expect(line.state.waits).toBe(false);
  });

  test('a flood is bounded: what nobody takes is counted as lost, and the newest is kept', async () => {
    const board = telling(4);
    await port(board).set(at(3_000_000));
    await board.load();
    const { frames, lost } = heard(board, 400);
    expect(frames.length).toBeLessThanOrEqual(1 << 16);
    expect(frames.length + lost).toBeGreaterThan(110_000);
    expect(lost).toBeGreaterThan(0);
  });

  test('a clock that an output follows costs nothing while it stands: no edge, no news', async () => {
    const top = 'module t(input clk, output line); reg r = 1; always @(posedge clk) r <= 1; assign line = r; endmodule';
    const board = madeBoard({ top: 't', files: [file('t', top)], pins: PINS, clocks: { clk: HZ }, parts: LINE });
    await board.load();
    expect(heard(board, 100)).toMatchObject({ frames: [], pulses: null });
    expect(port(board).nextLook).toBe(Number.POSITIVE_INFINITY);
  });

  test('a design without a clock passes the line on: what comes in goes out', async () => {
    const top = 'module t(input rx, output line); assign line = rx; endmodule';
    const board = madeBoard({ top: 't', files: [file('t', top)], pins: `${PINS}rx,${RX}\n`, parts: LINE });
    await port(board).set(at(9600));
    await board.load();
    heard(board, 5);
    await port(board).send(new TextEncoder().encode('through'));
    expect(heard(board, 20).text).toBe('through');
  });

  test('a break is a break, on both sides', async () => {
    const top = 'module t(input rx, output line); assign line = rx; endmodule';
    const board = madeBoard({ top: 't', files: [file('t', top)], pins: `${PINS}rx,${RX}\n`, parts: LINE });
    await board.load();
    heard(board, 5);
    await port(board).holdLow(3);
    const { frames } = heard(board, 20);
    expect(frames.map(({ trouble }) => trouble)).toEqual(['break']);
  });
});
