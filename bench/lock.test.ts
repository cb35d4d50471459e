import { chainOn } from '../tests/support/chain-on.ts';
import { describe, expect, test } from 'vitest';
import { build } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { loadBitstream } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { demoProject, mendedProject } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { LevelConverter } from './converter.ts';
import { AT_REST, Water } from './water.ts';

describe('the water', () => {
  // Torricelli: dh/dt = k * sqrt(H - h) fills from 0 to H in 2 * sqrt(H) / k.
  test('fills through a sluice in the time Torricelli gives', () => {
    const water = new Water(400);
    const whole = (2 * Math.sqrt(400)) / 18;
    water.advance(whole * 0.5e6, { ...AT_REST, sluiceUpper: true });
    // Half the time leaves a quarter of the head.
    expect(water.chamber).toBeCloseTo(300, -1);
    water.advance(whole * 1.02e6, { ...AT_REST, sluiceUpper: true });
    expect(water.chamber).toBeGreaterThan(399);
    expect(water.surge).toBeNull();
  });

  test('stands still behind closed doors, and a gate opened too early is remembered with its difference', () => {
    const water = new Water(400);
    water.advance(5e6, AT_REST);
    expect(water.chamber).toBe(0);
    water.advance(5.1e6, { ...AT_REST, gateUpper: true });
    expect(water.surge).toMatchObject({ gate: 'upper', differenceCentimetres: 400 });
    water.advance(6e6, { ...AT_REST, gateUpper: true });
    expect(water.chamber).toBeCloseTo(400, 0);
    water.advance(6.1e6, AT_REST);
    water.advance(6.2e6, { ...AT_REST, gateUpper: true });
    expect(water.surge, 'what went wrong is not forgotten by what goes well').toMatchObject({
      differenceCentimetres: 400,
      calmSince: 1,
    });
  });
});

test('the converter gives the level of the channel it was asked for, highest bit first', () => {
  for (const [channel, value] of [
    [0, 0xa5c],
    [1, 0x190],
  ] as const) {
    const converter = new LevelConverter((asked) => (asked === channel ? value : 0));
    const bits: number[] = [];
    converter.look({ clock: false, select: false, in: false });
    for (let i = 0; i < 16; i++) {
      bits.push(converter.out ? 1 : 0);
      converter.look({ clock: true, select: false, in: channel === 1 });
      converter.look({ clock: false, select: false, in: false });
    }
    expect(bits.reduce((sum, bit) => sum * 2 + bit, 0)).toBe(value);
    converter.look({ clock: false, select: true, in: false });
    expect(converter.out).toBeNull();
  }
});

describe('boats through the lock', () => {
  /** Presses the buttons for so many seconds at most, until a gate opens too early; how often one opened. */
  async function passages(project: ReturnType<typeof demoProject>, seconds: number) {
    const { bench, cable } = lockhouse();
    const { bitstream } = build({ project, plan: { recorders: [], panels: [] } });
    const read = readBitstream(bitstream ?? new Uint8Array());
    if (!read.ok) throw new Error(read.error.message);
    await loadBitstream(chainOn(cable), read.value, null, unwatched);
    bench.operate('S0', true);
    let [opened, was] = [0, false];
    for (let i = 0; i < seconds * 100 && !bench.panel(1).lock?.surge; i++) {
      bench.operate(i % 20 < 10 ? 'B0' : 'B1', i % 4 < 2);
      bench.advance(10_000);
      const { lock } = bench.panel(1);
      const isOpen = lock?.motors.gateUpper === true || lock?.motors.gateLower === true;
      if (isOpen && !was) opened++;
      was = isOpen;
    }
    return { opened, surge: bench.panel(1).lock?.surge ?? null };
  }

  test('now and then a gate opens too early, and with whole levels none does', async () => {
    const torn = await passages(demoProject(), 20);
    expect(torn.opened).toBeGreaterThan(0);
    expect(torn.surge?.differenceCentimetres).toBeGreaterThan(100);
    const whole = await passages(mendedProject(), 2);
    expect(whole.opened).toBeGreaterThan(2);
    expect(whole.surge).toBeNull();
  });
});
