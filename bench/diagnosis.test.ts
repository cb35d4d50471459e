import type { Cable, ChainMemory } from '../core/jtag/index.ts';
import { FAMILIES } from '../core/families/index.ts';
import { scanChain as scanBoard } from '../core/board/scan.ts';
// Faults of the bench, and what the ladder, the bypass test and the sweep make of them.
import { chainOn } from '../tests/support/chain-on.ts';
import { describe, expect, test } from 'vitest';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { readChainFile } from '../core/chain/index.ts';
import { checkIntegrity, diagnose, reachFlash, sweepTck, withoutPod } from '../core/operations/index.ts';
import { ScanQueue, testBypass } from '../core/jtag/index.ts';
import { unwatched } from '../core/progress.ts';
import { ProblemError, problem } from '../core/result.ts';
import { readFileSync } from 'node:fs';
import { Bench, BenchCable, readBenchFile } from './index.ts';
import type { FaultName } from './faults.ts';

/** A scan on its own, with what is said of the chain. */
const scanChain = (cable: Cable, memory: ChainMemory = { answers: [], described: [] }) =>
  scanBoard({ cable, memory, families: FAMILIES });

const expected = () => {
  const read = readChainFile('c', readFileSync('demo/lockhouse/board.chain.json', 'utf8'));
  if (!read.ok) throw new Error(read.error.message);
  return read.value;
};
const failing = async (name: FaultName): Promise<string | undefined> => {
  const { bench, cable } = lockhouse();
  bench.setFault({ name }, true);
  return (await diagnose(chainOn(cable), expected())).find((rung) => rung.state === 'fail')?.name;
};
const benchOf = (file: object) => {
  const read = readBenchFile(JSON.stringify(file), 'x');
  if (!read.ok) throw new Error(read.error.message);
  const bench = new Bench(read.value);
  return { bench, cable: new BenchCable(bench) };
};

describe('the ladder', () => {
  test('a healthy board holds on every rung', async () => {
    const { cable } = lockhouse();
    const rungs = await diagnose(chainOn(cable), expected());
    expect(rungs.map((rung) => rung.state)).toEqual(rungs.map(() => 'pass'));
    expect(rungs).toHaveLength(11);
  });

  test.each<[FaultName, string]>([
    ['cable-unplugged', 'cable'],
    ['board-unpowered', 'reference'],
    ['low-reference', 'reference'],
    ['tdo-stuck-0', 'tdo'],
    ['tdo-stuck-1', 'tdo'],
    ['bit-errors', 'speed'],
    ['device-in-reset', 'path'],
    ['device-missing', 'expected'],
  ])('%s shows at the rung "%s"', async (fault, rung) => expect(await failing(fault)).toBe(rung));

  test('rungs behind the first that fails are not reached, and it says what to try in order', async () => {
    const { bench, cable } = lockhouse();
    bench.setFault({ name: 'tdo-stuck-1' }, true);
    const rungs = await diagnose(chainOn(cable));
    const at = rungs.findIndex((rung) => rung.state === 'fail');
    expect(rungs.slice(at + 1).every((rung) => rung.state === 'not-reached')).toBe(true);
    expect(rungs[at]?.tryNext.length).toBeGreaterThan(1);
  });

  test('a pod that does not answer is the first rung', async () => {
    const { cable } = lockhouse();
    const gone = problem('pod-lost', 'The connection to the pod was lost.', 'Start the pod again.');
    const rungs = await diagnose(
      chainOn(
        Object.assign(Object.create(cable) as typeof cable, {
          state: async () => {
            throw new ProblemError(gone);
          },
        }),
      ),
    );
    expect(rungs[0]).toMatchObject({ name: 'pod', state: 'fail' });
    expect(withoutPod(gone)).toEqual(rungs);
  });

  test.each<[FaultName, string]>([
    ['cable-unplugged', 'no-cable'],
    ['board-unpowered', 'no-power'],
    ['low-reference', 'low-reference'],
    ['tdo-stuck-0', 'tdo-low'],
    ['tdo-stuck-1', 'tdo-high'],
    ['device-in-reset', 'chain-open'],
  ])('a scan of %s ends in %s', async (fault, code) => {
    const { bench, cable } = lockhouse();
    bench.setFault({ name: fault }, true);
    expect((await scanChain(cable)).problems[0]?.code).toBe(code);
    bench.setFault({ name: fault }, false);
    expect((await scanChain(cable)).problems).toEqual([]);
  });
});

describe('the speed of the cable', () => {
  test('a bit is late when half a period is shorter than its way', async () => {
    const { bench, cable } = lockhouse();
    bench.setFault({ name: 'bit-errors', aboveHz: 4e6 }, true);
    await cable.setFrequency(1e6);
    expect(await testBypass(new ScanQueue(cable), 3, 17, 5000)).toEqual({ bits: 5000, errors: 0, firstError: null });
    await cable.setFrequency(10e6);
    const fast = await testBypass(new ScanQueue(cable), 3, 17, 5000);
    expect(fast.errors).toBeGreaterThan(2000);
    const checked = await checkIntegrity(chainOn(cable), 1000);
    expect(checked.ok && checked.value).toMatchObject({ bits: 1000, hz: 10e6 });
    expect(checked.ok && checked.value.errors).toBeGreaterThan(300);
  });

  test('the sweep finds the limit and sets a frequency with a margin', async () => {
    for (const limit of [4e6, 9e6, 21e6]) {
      const { bench, cable } = lockhouse();
      bench.setFault({ name: 'bit-errors', aboveHz: limit }, true);
      const sweep = await sweepTck(chainOn(cable), unwatched);
      if (!sweep.ok) throw new Error(sweep.error.message);
      const { reliableHz, chosenHz, points } = sweep.value;
      expect(reliableHz).toBeLessThanOrEqual(limit);
      expect(reliableHz ?? 0).toBeGreaterThan(limit * 0.6);
      expect(chosenHz ?? 0).toBeLessThanOrEqual(0.7 * (reliableHz ?? 0));
      expect((await cable.state()).tckHz).toBe(chosenHz);
      expect(points.filter((point) => point.hz > limit * 1.2).every((point) => point.errors > 0)).toBe(true);
      expect((await scanChain(cable)).problems).toEqual([]);
    }
  });

  test('cancelled, it leaves the frequency as it was', async () => {
    const { cable } = lockhouse();
    const { tckHz } = await cable.state();
    await expect(sweepTck(chainOn(cable), { report: () => {}, cancelled: () => true })).rejects.toMatchObject({
      problem: { code: 'cancelled' },
    });
    expect((await cable.state()).tckHz).toBe(tckHz);
  });
});

describe('any chain', () => {
  test('a hundred plain devices, a third of them without IDCODE, at a cost that grows with their number', async () => {
    const chain = (count: number) =>
      Array.from({ length: count }, (_, i) => ({
        kind: 'generic',
        idcode: i % 3 === 0 ? null : `0x${(0x10000401 | (i << 12)).toString(16)}`,
        irLength: 2 + ((i * 7) % 11),
        irCapture: `0b${'01'.padStart(2 + ((i * 7) % 11), '0')}`,
      }));
    const { cable } = benchOf({ chain: chain(100) });
    const scan = await scanChain(cable);
    expect(scan.problems).toEqual([]);
    expect(scan.devices.map((device) => [device.idcode === null, device.irLength])).toEqual(
      chain(100).map((device) => [device.idcode === null, device.irLength]),
    );
    const half = await scanChain(benchOf({ chain: chain(50) }).cable);
    expect(scan.tckCycles / half.tckCycles).toBeLessThan(3);
  });

  test('the yard: versions, twins, devices without IDCODE and unknown ones', async () => {
    const { cable } = benchOf(JSON.parse(readFileSync('demo/benches/chain-yard.bench.json', 'utf8')) as object);
    const scan = await scanChain(cable);
    expect(scan.problems).toEqual([]);
    expect(scan.devices.map((device) => [device.part, device.irLength])).toEqual([
      ['CV10', 6],
      [null, 4],
      ['CV25', 6],
      [null, 8],
      ['CV25', 6],
      ['SP64', 5],
      ['CV60', 6],
    ]);
    expect(scan.devices[2]?.candidates).toEqual(['CV25', 'CV25S']);
    const answered = await scanChain(cable, {
      answers: [{ index: 2, idcode: 0x1c025ffd, part: 'CV25S' }],
      described: [{ name: 'BRIDGE', idcode: 0x0a7c1ff9, irLength: 8 }],
    });
    expect([answered.devices[2]?.part, answered.devices[2]?.candidates, answered.devices[3]?.part]).toEqual([
      'CV25S',
      ['CV25S'],
      'BRIDGE',
    ]);
  });

  test('a length given by hand that does not fit is noticed', async () => {
    const { cable } = benchOf({
      chain: [
        { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
        { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
      ],
    });
    expect((await scanChain(cable)).problems[0]?.code).toBe('ir-ambiguous');
    expect(
      (await scanChain(cable, { answers: [{ index: 0, idcode: null, irLength: 4 }], described: [] })).problems,
    ).toEqual([]);
    expect(
      (await scanChain(cable, { answers: [{ index: 0, idcode: null, irLength: 5 }], described: [] })).problems[0]?.code,
    ).toBe('ir-length');
  });

  test('lengths given by hand are tried on the neighbours: a wrong split is noticed although its sum fits', async () => {
    const chain = [
      { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
      { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
      { kind: 'sprig' },
    ];
    const answers = (first: number, second: number) => [
      { index: 0, idcode: null, irLength: first },
      { index: 1, idcode: null, irLength: second },
    ];
    expect((await scanChain(benchOf({ chain }).cable, { answers: answers(4, 4), described: [] })).problems).toEqual([]);
    expect(
      (
        await scanChain(benchOf({ chain: [chain[0], chain[2], chain[1]] }).cable, {
          answers: [
            { index: 0, idcode: null, irLength: 4 },
            { index: 2, idcode: null, irLength: 4 },
          ],
          described: [],
        })
      ).problems,
    ).toEqual([]);
    expect(
      (
        await scanChain(
          benchOf({
            chain: [chain[0], { kind: 'generic', idcode: '0x05064ffb', irLength: 7, irCapture: '0b0000101' }, chain[1]],
          }).cable,
          { answers: [{ index: 0, idcode: null, irLength: 4 }], described: [] },
        )
      ).problems[0]?.code,
    ).toBe('ir-length');
  });

  test('what was said of a chain is heeded by every operation on its cable', async () => {
    const { cable } = benchOf({
      chain: [
        { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
        { kind: 'generic', idcode: null, irLength: 4, irCapture: '0b0101' },
      ],
    });
    expect((await scanChain(cable)).problems[0]?.code).toBe('ir-ambiguous');
    const memory = { answers: [{ index: 0, idcode: null, irLength: 4 }], described: [] };
    expect((await scanChain(cable, memory)).devices.map((device) => device.irLength)).toEqual([4, 4]);
    expect(await reachFlash(chainOn(cable, { memory }), null)).toMatchObject({
      ok: false,
      error: { code: 'no-device' },
    });
  });

  test('faults can be in the file; one with a manufacturer code of nobody is told', async () => {
    const { cable } = benchOf({ chain: [{ kind: 'generic', idcode: '0x000000ff', irLength: 4 }], faults: [] });
    expect((await scanChain(cable)).problems[0]?.code).toBe('idcode-illegal');
    expect(
      (await scanChain(benchOf({ chain: [{ kind: 'sprig' }], faults: ['tdo-stuck-0'] }).cable)).problems[0]?.code,
    ).toBe('tdo-low');
    expect(
      (
        await scanChain(
          benchOf({ chain: [{ kind: 'sprig' }, { kind: 'sprig' }], faults: [{ name: 'device-missing', device: 0 }] })
            .cable,
        )
      ).devices,
    ).toHaveLength(1);
  });
});
