// What a wrong line in the ports table does on the board.
import { chainOn } from '../tests/support/chain-on.ts';
import { describe, expect, test } from 'vitest';
import { build, type Project } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { loadBitstream } from '../core/operations/index.ts';
import { emptyPlan } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench } from './bench.ts';
import { BenchCable } from './cable.ts';

const SOURCE =
  'module t(input clk, input s, inout open_drain, output led, output reg [7:0] changes = 0, output seen); reg ' +
  'last = 0; always @(posedge clk) begin last <= s; if (s != last) changes <= changes + 1; end assign led = s; ' +
  "assign open_drain = s ? 1'bz : 1'b0; assign seen = open_drain; endmodule";
const CHANGES = Array.from({ length: 8 }, (_, i) => `changes[${i}],P${30 + i}`).join('\n');

async function board(pins: string, banks: Record<string, number> = {}): Promise<Bench> {
  const bench = new Bench({
    format: 'nimble-bench',
    version: 1,
    name: 't',
    tckHz: 10e6,
    referenceVolts: 3.3,
    cableNanoseconds: 18,
    nets: [],
    faults: [],
    chain: [{ kind: 'corvane', part: 'CV25' }],
    board: {
      fpga: 0,
      banks,
      oscillators: [{ name: 'X', pin: 'P1', hz: 1e6 }],
      ...{ buttons: [], displays: [], keyboards: [], sensors: [] },
      lamps: [
        { name: 'led', pin: 'P26' },
        { name: 'seen', pin: 'P27' },
        ...Array.from({ length: 8 }, (_, i) => ({ name: `c${i}`, pin: `P${30 + i}` })),
      ],
      switches: [{ name: 'S', pin: 'P5' }],
    },
  });
  const project: Project = {
    file: {
      format: 'nimble-project',
      version: 3,
      name: 't',
      part: 'CV25',
      grade: 2,
      pins: 'pins.csv',
      clocks: {},
      accepted: [],
    },
    files: [
      { name: 't.v', text: SOURCE },
      {
        name: 'pins.csv',
        text: `port,pin,standard,drive,pull,slew\n${pins.includes('clk,') ? '' : 'clk,P1\n'}${pins}\n${CHANGES}\n`,
      },
    ],
  };
  const { bitstream, messages } = build({ project, plan: emptyPlan });
  const read = readBitstream(bitstream ?? new Uint8Array(0));
  if (!read.ok) throw new Error(JSON.stringify(messages));
  const loaded = await loadBitstream(chainOn(new BenchCable(bench)), read.value, null, unwatched);
  if (!loaded.ok || !loaded.value.done) throw new Error('does not load');
  return bench;
}

function lit(bench: Bench, name: string): boolean {
  // A lamp is shown as the average since it was last looked at.
  bench.panel(1);
  bench.advance(40_000);
  return (bench.panel(50).lamps.find((lamp) => lamp.name === name)?.level ?? 0) > 0.5;
}

const changes = (bench: Bench): number => {
  bench.advance(200_000);
  bench.operate('S', false);
  bench.advance(1000);
  bench.panel(1);
  bench.advance(40_000);
  return bench
    .panel(50)
    .lamps.filter((lamp) => /^c\d/.test(lamp.name))
    .reduce((value, lamp, i) => value | (lamp.level > 0.5 ? 1 << i : 0), 0);
};

describe('on the board', () => {
  test('a lamp on its pin follows the switch, on another pin it stays dark', async () => {
    const right = await board('s,P5\nled,P26');
    right.operate('S', true);
    expect(lit(right, 'led')).toBe(true);
    const wrong = await board('s,P5\nled,P28');
    wrong.operate('S', true);
    expect(lit(wrong, 'led')).toBe(false);
  });
  test('a switch at 1.8 V read as LVCMOS33 reads by chance, as LVCMOS18 it is steady', async () => {
    const misread = await board('s,P5,LVCMOS33\nled,P26', { 0: 1.8 });
    misread.operate('S', true);
    expect(changes(misread)).toBeGreaterThan(5);
    const steady = await board('clk,P1,LVCMOS18\ns,P5,LVCMOS18\nled,P26', { 0: 1.8 });
    steady.operate('S', true);
    expect(changes(steady)).toBe(2);
  });
  test('a pull gives a pin that nothing drives its level, and a design reads back what it drives', async () => {
    const up = await board('s,P5\nopen_drain,P40,LVCMOS33,8,up\nseen,P27');
    expect(lit(up, 'seen')).toBe(false);
    up.operate('S', true);
    expect(lit(up, 'seen')).toBe(true);
    const none = await board('s,P5\nopen_drain,P40\nseen,P27');
    none.operate('S', true);
    expect(lit(none, 'seen')).toBe(false);
  });
});
