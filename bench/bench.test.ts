import { chainOn } from '../tests/support/chain-on.ts';
import { readFileSync } from 'node:fs';
import { beforeEach, describe, expect, test } from 'vitest';
import { builtDemo, mendedProject } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { build, type Project } from '../core/build/index.ts';
import { INSTRUCTION } from '../core/families/corvane/index.ts';
import { type Part, partNamed, readBitstream, readNow } from '../core/families/index.ts';
import { type ChainLink, ScanQueue } from '../core/jtag/index.ts';
import { loadBitstream } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

const CORVANE = (partNamed('CV25') as Part).family;

const HEADER = '{ "format": "nimble-bench", "version": 1, "name": "x", ';

let bench: Bench;
let cable: BenchCable;

beforeEach(() => {
  ({ bench, cable } = lockhouse());
});

async function load(bytes: Uint8Array): Promise<void> {
  const read = readBitstream(bytes);
  if (!read.ok) throw new Error(read.error.message);
  const loaded = await loadBitstream(chainOn(cable), read.value, null, unwatched);
  if (!loaded.ok || !loaded.value.done) throw new Error('does not load');
}

function built(text: string, pins: string): Uint8Array {
  const project: Project = {
    file: {
      format: 'nimble-project',
      version: 3,
      grade: 2,
      accepted: [],
      name: 't',
      part: 'CV25',
      pins: 'pins.csv',
      clocks: {},
    },
    files: [
      { name: 't.v', text },
      { name: 'pins.csv', text: pins },
    ],
  };
  const { bitstream, messages } = build({ project, plan: { recorders: [], panels: [] } });
  if (!bitstream) throw new Error(messages.map((m) => m.message).join());
  return bitstream;
}

function mended(): Uint8Array {
  const { bitstream } = build({ project: mendedProject(), plan: { recorders: [], panels: [] } });
  if (!bitstream) throw new Error('does not build');
  return bitstream;
}

const digits = () => {
  const glyphs = [0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f];
  return bench
    .panel(1)
    .digits.map((row) => glyphs.indexOf(row.slice(0, 7).reduce((sum, level, i) => sum | (level > 0.5 ? 1 << i : 0), 0)))
    .reverse()
    .join('');
};
const shown = () => {
  bench.panel(1);
  bench.advance(20_000);
  return digits();
};
const lit = (name: string) => (bench.panel(1).lamps.find((lamp) => lamp.name === name)?.level ?? 0) > 0.5;

describe('the board', () => {
  test('is dark without a design, whatever is pressed', () => {
    bench.operate('B0', true);
    bench.advance(100_000);
    const { lamps, digits: rows, done } = bench.panel(1);
    expect(lamps.every((lamp) => lamp.level === 0)).toBe(true);
    expect(rows.flat().every((level) => level === 0)).toBe(true);
    expect(done).toEqual({ 0: false, 1: false });
    expect(bench.operate('B7', true)).toBe(false);
  });

  test('a lamp on another pin than the design drives stays dark', async () => {
    await load(built('module t(output y); assign y = 1; endmodule', 'y,P40\n'));
    bench.advance(10_000);
    expect(bench.panel(1).lamps.some((lamp) => lamp.level > 0)).toBe(false);
    await load(built('module t(output y); assign y = 1; endmodule', 'y,P26\n'));
    bench.panel(1);
    bench.advance(10_000);
    expect([lit('L0'), lit('L1')]).toEqual([true, false]);
  });

  test('a switch that was up before the load is up for the new design', async () => {
    bench.operate('S0', true);
    await load(built('module t(input s, output y); assign y = s; endmodule', 's,P10\ny,P26\n'));
    bench.panel(1);
    bench.advance(10_000);
    expect(lit('L0')).toBe(true);
    bench.operate('S0', false);
    bench.panel(1);
    bench.advance(10_000);
    expect(lit('L0')).toBe(false);
  });

  test('a lamp that is on for a quarter of the time is a quarter bright', async () => {
    await load(
      built(
        'module t(input clk, output y); reg [15:0] c = 0; always @(posedge clk) c <= c + 1; assign y = c[15:14] ' +
          '== 0; endmodule',
        'clk,P1\ny,P26\n',
      ),
    );
    bench.panel(1);
    bench.advance(2_000_000);
    expect(bench.panel(1).lamps[0]?.level).toBeCloseTo(0.25, 1);
  });

  test('both oscillators run at their own rates', async () => {
    await load(
      built(
        'module t(input a, input b, output x, output y); reg [17:0] p = 0, q = 0; always @(posedge a) p <= p + ' +
          '1; always @(posedge b) q <= q + 1; assign x = p[17]; assign y = q[17]; endmodule',
        'a,P1\nb,P2\nx,P26\ny,P27\n',
      ),
    );
    bench.advance(600_000);
    const [x, y] = bench.panel(1).lamps;
    // Common practice: bit n of a free-running counter at f is a square wave of f / 2^(n+1).
    expect(x?.hertz).toBeCloseTo(12e6 / 2 ** 18, 0);
    expect(y?.hertz).toBeCloseTo(10e6 / 2 ** 18, 0);
  });
});

describe('the lock', () => {
  test('takes a boat down: fills, opens above, empties, opens below, counts one', async () => {
    await load(builtDemo().bitstream);
    bench.operate('S0', true);
    expect(shown()).toBe('0000');
    bench.operate('B0', true);
    bench.advance(5000);
    bench.operate('B0', false);
    const seen = new Set<string>();
    for (let i = 0; i < 120; i++) {
      bench.panel(1);
      bench.advance(10_000);
      const { lamps } = bench.panel(1);
      seen.add(['L0', 'L1', 'L2'].filter((name) => (lamps.find((l) => l.name === name)?.level ?? 0) > 0.5).join());
    }
    expect([...seen].filter((s) => s !== '')).toEqual(['L0', 'L1', 'L2']);
    expect(shown()).toBe('0000');
    bench.operate('S1', true);
    expect(shown()).toBe('0001');
  });

  test('never has both gates open, nor a gate open at the wrong level, however the buttons are pressed', async () => {
    await load(mended());
    bench.operate('S0', true);
    let random = 12345;
    const chance = () => {
      random = (Math.imul(random, 1103515245) + 12345) & 0x7fffffff;
      return random / 0x7fffffff;
    };
    let opened = 0;
    let before = '';
    for (let i = 0; i < 200; i++) {
      for (const name of ['B0', 'B1']) bench.operate(name, chance() < 0.3);
      bench.panel(1);
      bench.advance(9000);
      const gates = bench
        .panel(1)
        .lamps.slice(1, 3)
        .map((lamp) => lamp.level);
      expect(Math.min(...gates)).toBe(0);
      const open = gates.map((share) => (share === 1 ? '1' : '0')).join('');
      if (open !== '00' && open === before) opened++;
      before = open;
    }
    expect(bench.panel(1).lock?.surge).toBeNull();
    expect(opened).toBeGreaterThan(20);
  });

  test('stops at once while reset is pressed', async () => {
    await load(builtDemo().bitstream);
    bench.operate('B0', true);
    bench.advance(300_000);
    bench.panel(1);
    bench.advance(5000);
    expect(lit('L0')).toBe(true);
    bench.operate('B3', true);
    bench.panel(1);
    bench.advance(5000);
    expect(lit('L0')).toBe(false);
  });
});

describe('a Corvane', () => {
  const link = async (): Promise<ChainLink> => {
    const made = await chainOn(cable).link('CV25', null);
    if (!made.ok) throw new Error(made.error.message);
    return made.value;
  };

  test('is not ready until its memory is clear, and a stream without ISC_ENABLE changes nothing', async () => {
    await load(builtDemo().bitstream);
    const device = await link();
    device.select(INSTRUCTION.ISC_PROGRAM);
    device.write({ length: 800, bytes: new Uint8Array(100).fill(0xa5) });
    expect((await readNow(device, CORVANE.status)).done).toBe(true);
    device.select(INSTRUCTION.ISC_ENABLE);
    expect(await readNow(device, CORVANE.status)).toMatchObject({ memoryClear: false, done: false, enabled: true });
    device.queue.wait(200);
    expect((await readNow(device, CORVANE.status)).memoryClear).toBe(true);
  });

  test('USERCODE is the beginning of the fingerprint', async () => {
    const demo = builtDemo();
    await load(demo.bitstream);
    const device = await link();
    device.select(INSTRUCTION.USERCODE);
    const bits = await device.readNow(32);
    const text = [...bits.bytes]
      .map((byte) =>
        Number.parseInt([...byte.toString(2).padStart(8, '0')].reverse().join(''), 2)
          .toString(16)
          .padStart(2, '0'),
      )
      .join('');
    expect(text).toBe(demo.fingerprint.slice(0, 8));
  });

  test('forgets its design without power, and the TAP starts anew', async () => {
    await load(builtDemo().bitstream);
    bench.setPower(false);
    bench.advance(1000);
    bench.setPower(true);
    const queue = new ScanQueue(cable);
    queue.reset();
    await queue.flush();
    expect((await readNow(await link(), CORVANE.status)).done).toBe(false);
  });
});

describe('bench files', () => {
  const messageOf = (text: string) => {
    const read = readBenchFile(text, 'x.bench.json');
    return read.ok ? 'good' : read.error.message;
  };

  test('say what is wrong with them, and where', () => {
    expect(messageOf(readFileSync('demo/benches/lockhouse.bench.json', 'utf8'))).toBe('good');
    expect(messageOf('{')).toMatch(/x\.bench\.json is no JSON/);
    expect(messageOf('{"format":"nimble-bench","version":9}')).toMatch(/version/);
    expect(
      messageOf(`${HEADER}"chain": [{"kind":"corvane","part":"CV99"}], "board": {"fpga":0,"oscillators":[]} }`),
    ).toMatch(/chain\.0\.part/);
    expect(messageOf(`${HEADER}"chain": [{"kind":"sprig"}], "board": {"fpga": -1,"oscillators":[]} }`)).toMatch(
      /board\.fpga/,
    );
  });

  test('a board of one device needs no padding', async () => {
    const read = readBenchFile(
      `${HEADER}"chain": [{"kind":"corvane","part":"CV25"}], "board": ` +
        '{"fpga":0,"oscillators":[{"name":"X","pin":"P1","hz":1000000}]} }',
      'x',
    );
    if (!read.ok) throw new Error(read.error.message);
    bench = new Bench(read.value);
    cable = new BenchCable(bench);
    await load(builtDemo().bitstream);
    expect(bench.panel().done).toEqual({ 0: true });
  });
});
