// Pins by boundary scan on the simulated Lockhouse: SAMPLE, EXTEST, and the wiring test with its faults.
import { chainOn } from '../tests/support/chain-on.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { countingVectors } from '../core/boundary/counting.ts';
import { BoundaryScan, testInterconnect } from '../core/boundary/index.ts';
import { familyOf, placedPorts, readBitstream, knownFrom } from '../core/families/index.ts';
import { type Cable, ScanQueue } from '../core/jtag/index.ts';
import { describedChain, loadBitstream, lookAfterLoad } from '../core/operations/index.ts';
import { readBsdl } from '../core/bsdl/index.ts';
import { unwatched } from '../core/progress.ts';
import type { Fault } from './faults.ts';

const opened = readBitstream(builtDemo().bitstream);
if (!opened.ok) throw new Error(opened.error.message);
const bitstream = opened.value;

async function scanOf(cable: Cable): Promise<BoundaryScan> {
  const devices = await describedChain(chainOn(cable), []);
  if (!devices) throw new Error('a length is not known');
  return new BoundaryScan(new ScanQueue(cable), devices);
}

async function running() {
  const { bench, cable } = lockhouse();
  const loaded = await loadBitstream(chainOn(cable), bitstream, null, unwatched);
  if (!loaded.ok || !loaded.value.done) throw new Error('does not load');
  return { bench, cable, scan: await scanOf(cable) };
}

// IEEE 1149.1: SAMPLE does not disturb the system, EXTEST drives from the update latches, reset gives the pins back
// (values from memory).
describe('pins', () => {
  test('SAMPLE sees switches, outputs and ticking clocks while the design runs on', async () => {
    const { bench, scan } = await running();
    const at = async (pin: string) => (await scan.sample()).find((one) => one.place === 1 && one.pin === pin);
    expect(await at('P13')).toMatchObject({ level: 0, driven: false, port: 'IO_P13' });
    bench.operate('S3', true);
    expect(await at('P13')).toMatchObject({ level: 1 });
    expect(await at('P26')).toMatchObject({ driven: true });
    bench.advance(2_000_000);
    expect(bench.panel(1).lamps.find((lamp) => lamp.name === 'L7')?.hertz).toBeGreaterThan(1);
    const seen = new Set<number | null | undefined>();
    for (let i = 0; i < 40; i++) seen.add((await at('P1'))?.level);
    expect(seen).toEqual(new Set([0, 1]));
  });

  test('EXTEST drives a lamp, leaves the others off, and release gives the pins back to the design', async () => {
    const { bench, scan } = await running();
    expect(scan.set(1, 'P27', 1)).toBe(true);
    expect(scan.set(1, 'P14', 1)).toBe(true);
    expect(scan.set(1, 'P99', 1)).toBe(false);
    await scan.apply();
    bench.advance(300_000);
    const lit = bench
      .panel(1)
      .lamps.filter((lamp) => lamp.level > 0.5)
      .map((lamp) => lamp.name);
    expect(lit).toEqual(['L1']);
    expect((await scan.apply()).find((one) => one.place === 1 && one.pin === 'P27')).toMatchObject({
      level: 1,
      driven: true,
    });
    await scan.release();
    bench.advance(3_000_000);
    const lamps = bench.panel(1).lamps;
    expect(lamps.find((lamp) => lamp.name === 'L1')?.level).toBe(0);
    expect(lamps.find((lamp) => lamp.name === 'L7')?.hertz).toBeGreaterThan(1);
  });

  test('after a load the clock pins are watched, and one that stands still is told', async () => {
    const { bench, cable, scan } = await running();
    const ports = placedPorts(bitstream);
    const clocks = ports.filter(({ isClock }) => isClock).map(({ port, pin }) => ({ port, pin }));
    expect(clocks).toEqual([
      { port: 'clk', pin: 'P1' },
      { port: 'clk10', pin: 'P2' },
    ]);
    expect(ports.find((one) => one.pin === 'P27')).toMatchObject({ width: expect.any(Number) as number });
    const look = () => lookAfterLoad(chainOn(cable), 'CV25', 1, null, scan.devices, clocks);
    expect(await look()).toEqual({
      cores: { kind: 'none' },
      clocks: [
        { port: 'clk', pin: 'P1', ticks: true },
        { port: 'clk10', pin: 'P2', ticks: true },
      ],
    });
    bench.setFault({ name: 'clock-stopped' }, true);
    expect((await look()).clocks).toEqual([
      { port: 'clk', pin: 'P1', ticks: false },
      { port: 'clk10', pin: 'P2', ticks: false },
    ]);
  });

  test('a description makes an unknown device known', () => {
    const entity = readBsdl(familyOf('SP64')?.describe('SP64', 'Q64') ?? '').entity;
    expect(entity && knownFrom(entity)).toMatchObject({
      name: 'SP64',
      idcode: 0x05064ffb,
      irLength: 5,
      irCapture: 0b00101,
      idcodeOpcode: 0b00010,
    });
  });
});

// P. T. Wagner, Interconnect testing with boundary scan, ITC 1987: numbers from 1, then their complements (value from
// memory).
describe('the counting sequence', () => {
  test('of five nets is 001, 010, 011, 100, 101 and then its complement', () => {
    const vectors = countingVectors(5);
    const numbers = [0, 1, 2, 3, 4].map((net) =>
      vectors.slice(0, 3).reduce((sum, vector, bit) => sum + (vector[net] ? 1 << bit : 0), 0),
    );
    expect(numbers).toEqual([1, 2, 3, 4, 5]);
    expect(vectors.slice(3)).toEqual(vectors.slice(0, 3).map((vector) => vector.map((level) => !level)));
  });
  test('any two nets differ, none is constant, in 2·⌈log2(n + 2)⌉ vectors', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), (nets) => {
        const vectors = countingVectors(nets);
        expect(vectors.length).toBe(2 * Math.ceil(Math.log2(nets + 2)));
        const sequences = Array.from({ length: nets }, (_, net) =>
          vectors.map((vector) => (vector[net] ? '1' : '0')).join(''),
        );
        expect(new Set(sequences).size).toBe(nets);
        for (const sequence of sequences) expect(/^(0+|1+)$/.test(sequence)).toBe(false);
      }),
    );
  });
});

describe('the wiring test', () => {
  const nets = lockhouse().bench.file.nets;
  const test1 = async (...faults: Fault[]) => {
    const { bench, cable } = lockhouse();
    for (const fault of faults) bench.setFault(fault, true);
    return testInterconnect(await scanOf(cable), nets, () => {});
  };

  test('finds nothing on a good board', async () =>
    expect(await test1()).toMatchObject({ faults: [], untested: [], tested: nets.map((net) => net.name) }));
  test.each<[string, Fault, object]>([
    [
      'a wired-and',
      { name: 'net-short-and', nets: ['GATE_CMD', 'SPARE_B'] },
      { kind: 'short', nets: ['GATE_CMD', 'SPARE_B'], as: 'wired-and', pins: ['1.P77', '0.P3', '1.P80', '0.P6'] },
    ],
    [
      'a wired-or',
      { name: 'net-short-or', nets: ['GATE_ACK', 'SPARE_A'] },
      { kind: 'short', nets: ['GATE_ACK', 'SPARE_A'], as: 'wired-or' },
    ],
    [
      'three nets at once',
      { name: 'net-short-and', nets: ['GATE_CLK', 'GATE_CMD', 'GATE_ACK'] },
      { kind: 'short', nets: ['GATE_CLK', 'GATE_CMD', 'GATE_ACK'], as: 'wired-and' },
    ],
    [
      'a net at ground',
      { name: 'net-stuck', nets: ['SPARE_A'], level: 0 },
      { kind: 'stuck', net: 'SPARE_A', level: 0 },
    ],
    [
      'a net at the supply',
      { name: 'net-stuck', nets: ['SUP_OK'], level: 1 },
      { kind: 'stuck', net: 'SUP_OK', level: 1 },
    ],
    ['a pin without solder', { name: 'net-open', pin: '0.P10' }, { kind: 'open', net: 'SUP_RST', pins: ['0.P10'] }],
    [
      'a pin without solder that also drives',
      { name: 'net-open', pin: '2.P2' },
      { kind: 'open', net: 'SUP_RST', pins: ['2.P2'] },
    ],
  ])('%s is named with its nets and pins', async (_, fault, found) =>
    expect((await test1(fault)).faults).toMatchObject([found]),
  );

  test('two faults are told apart', async () => {
    const { faults } = await test1(
      { name: 'net-short-or', nets: ['GATE_CLK', 'GATE_CMD'] },
      { name: 'net-stuck', nets: ['SUP_OK'], level: 0 },
    );
    expect(faults.map((fault) => fault.kind).sort()).toEqual(['short', 'stuck']);
  });

  test('nets that cannot be tested are named with the reason, and pins are given back when it is cancelled', async () => {
    const { bench, cable, scan } = await running();
    const result = await testInterconnect(
      scan,
      [
        { name: 'LONELY', pins: ['1.P76'] },
        { name: 'NOWHERE', pins: ['7.P1', '8.P1'] },
      ],
      () => {},
    );
    expect(result.untested.map(({ net }) => net)).toEqual(['LONELY', 'NOWHERE']);
    await expect(
      testInterconnect(await scanOf(cable), nets, () => {
        throw new Error('stop');
      }),
    ).rejects.toThrow('stop');
    bench.advance(3_000_000);
    expect(bench.panel(1).lamps.find((lamp) => lamp.name === 'L7')?.hertz).toBeGreaterThan(1);
  });
});
