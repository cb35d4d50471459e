import { benchHands } from './cable.ts';
import { scanChain } from '../core/board/scan.ts';
// Whole operations on the simulated Lockhouse board, through nothing but its cable.
import { chainOn } from '../tests/support/chain-on.ts';
import fc from 'fast-check';
import { beforeEach, describe, expect, test } from 'vitest';
import { builtDemo, demoPlan } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { readBackMask } from '../core/families/corvane/frames.ts';
import { framesOfPart } from '../core/families/corvane/parts.ts';
import { type Bitstream, partNamed, readBitstream } from '../core/families/index.ts';
import { type Cable, ChainLink, ScanQueue } from '../core/jtag/index.ts';
import {
  armRecorder,
  type CaptureRequest,
  captureNow,
  checkLoad,
  drive,
  haltRecorder,
  keepBitstream,
  type LoadContext,
  loadBitstream,
  lookAtRecorder,
  readBoardState,
  rehearseBoot,
} from '../core/operations/index.ts';
import type { PanelMap, ProbeMap, RecorderMap } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import { ProblemError } from '../core/result.ts';
import { valueAt } from '../tests/support/captured.ts';
import type { Bench, BenchCable } from './index.ts';

function opened(bytes: Uint8Array): Bitstream {
  const read = readBitstream(bytes);
  if (!read.ok) throw new Error(read.error.message);
  return read.value;
}

const plain = builtDemo();
/** With the debouncer's counter, whose value at every clock is known. */
const counting = {
  ...demoPlan(),
  recorders: demoPlan().recorders.map((one) => ({ ...one, signals: [...one.signals, 'lockhouse.u_upper.quiet'] })),
};
const probed = builtDemo(counting);
const map = probed.probes as ProbeMap;
let bench: Bench;
let cable: BenchCable;

beforeEach(() => {
  ({ bench, cable } = lockhouse());
});

const load = async (bytes: Uint8Array, device: number | null = null) =>
  loadBitstream(chainOn(cable), opened(bytes), device, unwatched);

describe('scan', () => {
  test('three devices in order, and no power said as such', async () => {
    const scan = await scanChain(chainOn(cable));
    expect(scan.devices.map((d) => [d.index, d.part, d.irLength])).toEqual([
      [0, 'CV10', 6],
      [1, 'CV25', 6],
      [2, 'SP64', 5],
    ]);
    expect(scan.devices[1]?.candidates).toEqual(['CV25', 'CV25S']);
    bench.setPower(false);
    expect((await scanChain(chainOn(cable))).problems.map((p) => p.code)).toEqual(['no-power']);
  });
});

describe('load', () => {
  test('ends with DONE high, the design running, and at most 1.01 TCK cycles a payload bit', async () => {
    const loaded = await load(plain.bitstream);
    expect(loaded.ok && loaded.value).toMatchObject({
      done: true,
      device: 1,
      problem: null,
      fingerprint: plain.fingerprint,
      status: { done: true, source: 'jtag', crcError: false },
    });
    if (loaded.ok) expect(loaded.value.tckCycles / loaded.value.payloadBits).toBeLessThanOrEqual(1.01);
    bench.advance(2_000_000);
    const beat = bench.panel(1).lamps.find((lamp) => lamp.name === 'L7');
    expect(beat?.hertz).toBeCloseTo(12e6 / 2 ** 23, 3);
  });

  test('a flipped bit ends in a CRC error with DONE low, and the next load works', async () => {
    const bad = plain.bitstream.slice();
    bad[bad.length >> 1] = (bad[bad.length >> 1] as number) ^ 4;
    const failed = await load(bad);
    expect(failed.ok && failed.value).toMatchObject({
      done: false,
      status: { crcError: true, done: false },
      problem: { code: 'crc-error' },
    });
    expect((await load(plain.bitstream)).ok && bench.panel().done).toEqual({ 0: false, 1: true });
  });

  test('what a disturbed cable may have done is tried once more, and said', async () => {
    let broken = 1;
    const flaky: Cable = {
      state: () => cable.state(),
      setFrequency: (hz) => cable.setFrequency(hz),
      tckHz: cable.tckHz,
      run: (ops) => {
        const long = ops.some((op) => op.kind === 'shift' && op.count > 100_000);
        if (long && broken-- > 0) bench.setFault({ name: 'load-corrupted' }, true);
        return cable.run(ops).finally(() => bench.setFault({ name: 'load-corrupted' }, false));
      },
    };
    const loaded = await loadBitstream(chainOn(flaky), opened(plain.bitstream), null, unwatched, { verify: true });
    expect(loaded.ok && loaded.value).toMatchObject({
      done: true,
      attempts: 2,
      firstProblem: { code: 'crc-error' },
      verified: true,
      problem: null,
    });
    bench.setFault({ name: 'load-corrupted' }, true);
    const failed = await load(plain.bitstream);
    expect(failed.ok && failed.value).toMatchObject({ done: false, attempts: 2, problem: { code: 'crc-error' } });
  });

  test('read back, the memory is what was written, but for the run-time marks in the last frame; at most 1.03 TCK cycles a bit', async () => {
    await load(plain.bitstream);
    const part = partNamed('CV25');
    if (!part) throw new Error('no part');
    const link = async () => {
      const queue = new ScanQueue(cable);
      queue.reset();
      return new ChainLink(queue, [6, 6, 5], 1);
    };
    const good = await link();
    expect(await part.family.verify(good, opened(plain.bitstream), unwatched)).toEqual({
      ok: true,
      value: framesOfPart('CV25') * 2048,
    });
    expect(good.queue.counts.tckCycles / good.queue.counts.payloadBits).toBeLessThanOrEqual(1.03);
    const other = await part.family.verify(await link(), opened(probed.bitstream), unwatched);
    expect(!other.ok && other.error.message).toMatch(/^Frame 0, byte \d+: 0x[0-9A-F]{2} was written/);
    expect(readBackMask(framesOfPart('CV25')).filter((byte) => byte === 0)).toHaveLength(256);
  });

  test('the checks before it pass, warn or stop, each with its reason', async () => {
    const context = {
      boardPart: { part: 'CV25', package: null },
      buildPrint: plain.fingerprint,
      stale: ['rtl/chamber.v'],
      madeAt: 1,
      sourcesSavedAt: 2,
      running: null,
    };
    const checks = async (bytes: Uint8Array, place: number | null = 1, change: Partial<LoadContext> = {}) =>
      checkLoad(opened(bytes), place, await cable.state(), await scanChain(chainOn(cable)), { ...context, ...change });
    const says = async (...wanted: Parameters<typeof checks>) =>
      Object.fromEntries((await checks(...wanted)).map((check) => [check.name, check.state]));
    expect(await says(plain.bitstream)).toEqual({
      pod: 'pass',
      power: 'pass',
      device: 'pass',
      part: 'warn',
      package: 'pass',
      size: 'pass',
      crc: 'pass',
      fingerprint: 'pass',
      fresh: 'warn',
      age: 'warn',
    });
    expect(await says(plain.bitstream, 0)).toMatchObject({ device: 'pass', part: 'stop' });
    expect(await says(plain.bitstream, 9)).toMatchObject({ device: 'stop' });
    expect(
      (await checks(builtDemo(undefined, 'CV60').bitstream, null)).find(({ name }) => name === 'device')?.message,
    ).toBe('No device in the chain is a CV60.');
    expect(await says(probed.bitstream)).toMatchObject({ fingerprint: 'warn' });
    expect(await says(plain.bitstream, 1, { boardPart: { part: 'CV60', package: null } })).toMatchObject({
      package: 'stop',
    });
    const bad = plain.bitstream.slice();
    bad[bad.length >> 1] = (bad[bad.length >> 1] as number) ^ 4;
    expect(await says(bad)).toMatchObject({ crc: 'stop', size: 'pass' });
    bench.setPower(false);
    expect(await says(plain.bitstream)).toMatchObject({ power: 'stop', device: 'stop' });
    expect(checkLoad(opened(plain.bitstream), null, null, null, context)[0]).toMatchObject({
      name: 'pod',
      state: 'stop',
    });
  });

  test('a part that is not there, or not in that place, is refused before a bit is shifted into it', async () => {
    const other = builtDemo(undefined, 'CV60');
    const codes = [await load(other.bitstream), await load(plain.bitstream, 0), await load(plain.bitstream, 9)].map(
      (r) => (r.ok ? 'loaded' : r.error.code),
    );
    expect(codes).toEqual(['part-not-in-chain', 'wrong-part', 'no-device']);
  });

  test('a stream for another part inside the right envelope is refused by the part itself', async () => {
    const other = opened(builtDemo(undefined, 'CV60').bitstream);
    const loaded = await loadBitstream(chainOn(cable), { ...other, part: 'CV25' }, null, unwatched);
    expect(loaded.ok && loaded.value).toMatchObject({
      done: false,
      status: { idcodeMismatch: true },
      problem: { code: 'idcode-mismatch' },
    });
  });

  test('the other FPGA of the chain can be loaded too', async () => {
    const small = await load(builtDemo(undefined, 'CV10').bitstream);
    expect(small.ok && small.value).toMatchObject({ done: true, device: 0 });
  });

  test('a cancel stops between two pieces, and the next load works', async () => {
    let reports = 0;
    const cancelled = loadBitstream(chainOn(cable), opened(plain.bitstream), null, {
      report: () => void reports++,
      cancelled: () => reports > 3,
    });
    await expect(cancelled).rejects.toBeInstanceOf(ProblemError);
    const state = await readBoardState(chainOn(cable), 'CV25', null);
    expect(state.ok && state.value.done).toBe(false);
    expect((await load(plain.bitstream)).ok).toBe(true);
  });
});

describe('keep', () => {
  test('without it a power-cycle leaves an empty FPGA; with it the board boots by itself', async () => {
    await load(plain.bitstream);
    const before = await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), 'CV25', null, unwatched);
    expect(before.ok && before.value).toMatchObject({ done: false, fingerprint: null });
    const kept = await keepBitstream(chainOn(cable), opened(plain.bitstream), null, unwatched);
    expect(kept.ok && kept.value).toMatchObject({
      chip: 'Ledger LR32',
      device: 1,
      sectorsErased: 0,
      verified: true,
      bootSource: 'flash',
    });
    if (kept.ok) expect(kept.value.tckCycles / kept.value.payloadBits).toBeLessThanOrEqual(1.1);
    const after = await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), 'CV25', null, unwatched);
    expect(after.ok && after.value).toMatchObject({
      done: true,
      fingerprint: plain.fingerprint,
      status: { source: 'flash' },
    });
  });

  test('the boot switch at JTAG leaves the FPGA empty, and the status says why', async () => {
    await keepBitstream(chainOn(cable), opened(plain.bitstream), null, unwatched);
    bench.setBootSource('jtag');
    const boot = await rehearseBoot(chainOn(cable, { hands: benchHands(bench) }), 'CV25', null, unwatched);
    expect(boot.ok && boot.value).toMatchObject({ done: false, status: { bootSource: 'jtag' } });
  });

  test('what was kept outlives the process: another bench with the same flash boots', async () => {
    await keepBitstream(chainOn(cable), opened(plain.bitstream), null, unwatched);
    const again = lockhouse(bench.flashContents);
    again.bench.advance(1_000_000);
    const state = await readBoardState(chainOn(again.cable), 'CV25', null);
    expect(state.ok && state.value.fingerprint).toBe(plain.fingerprint);
  });
});

describe('capture', () => {
  const request = (change: Partial<CaptureRequest>): CaptureRequest => ({
    part: 'CV25',
    device: null,
    map,
    recorder: null,
    when: '',
    before: 0,
    tckHz: bench.file.tckHz,
    clocks: { clk: 12e6 },
    ...change,
  });
  const recorder = map.cores[0] as RecorderMap;
  const quiet = 'lockhouse.u_upper.quiet';

  test('the trigger is where it was asked for, and what led to it is there', async () => {
    await load(probed.bitstream);
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(0, 1, 100, 512, 1022, 1023), async (before) => {
        let looks = 0;
        const outcome = await captureNow(chainOn(cable), request({ when: `${quiet} == 5000`, before }), async () => {
          bench.operate('B0', true);
          bench.advance(1000);
          return ++looks < 50;
        });
        bench.operate('B0', false);
        bench.advance(5000);
        if (!outcome.ok) throw new Error(outcome.error.message);
        const { capture } = outcome.value;
        const signal = capture.signals.find((s) => s.name === quiet);
        if (!signal) throw new Error('not captured');
        // The debouncer counts up by one a clock: every sample is known from the trigger's.
        for (const at of [0, Math.floor(capture.samples / 2), capture.samples - 1])
          expect(valueAt(capture, signal, at)).toBe(BigInt(5000 + at - before));
        expect(capture.samples).toBe(recorder.depth);
        expect(capture.sampleRate).toBe(12e6);
        expect(outcome.value.tckCycles / outcome.value.payloadBits).toBeLessThanOrEqual(
          1.03 + 1000 / outcome.value.payloadBits,
        );
      }),
      { numRuns: 6 },
    );
  });

  test('a core that is no recorder of this release is not armed', async () => {
    await load(probed.bitstream);
    const panel = map.cores.find((core) => core.kind === 'panel')?.core ?? 0;
    const mistaken: ProbeMap = { ...map, cores: [{ ...recorder, core: panel }] };
    const refused = await captureNow(chainOn(cable), request({ map: mistaken }));
    expect(refused.ok ? 'armed' : refused.error.code).toBe('trigger-old');
  });

  test('it waits until the button is pressed', async () => {
    await load(probed.bitstream);
    let looks = 0;
    const outcome = await captureNow(chainOn(cable), request({ when: 'want_upper == 1', before: 10 }), async () => {
      if (++looks === 5) bench.operate('B0', true);
      bench.advance(10_000);
      return looks < 50;
    });
    expect(looks).toBeGreaterThanOrEqual(5);
    expect(outcome.ok && outcome.value.capture.triggerIndex).toBe(10);
  });

  test('a condition that never comes true ends in words, and the recorder can be armed again', async () => {
    await load(probed.bitstream);
    const never = await captureNow(chainOn(cable), request({ when: 'state == 7' }), async () => false);
    expect(never.ok ? 'captured' : never.error.code).toBe('no-trigger');
    expect((await captureNow(chainOn(cable), request({}), async () => true)).ok).toBe(true);
  });

  test('what has triggered but is not full is stopped and read: all it stored from before the trigger on, and nothing older', async () => {
    // A recorder that stores only while the button's debouncer counts, and can be divided.
    const plan = demoPlan();
    const keeping = builtDemo({
      ...plan,
      recorders: plan.recorders.map((one) => ({
        ...one,
        signals: [...one.signals, quiet],
        qualifier: true,
        segments: 4,
      })),
    });
    await load(keeping.bitstream);
    const probes = keeping.probes as ProbeMap;
    for (const [segments, before] of [
      [1, 20],
      [4, 20],
    ] as const) {
      const wanted = request({ map: probes, when: `${quiet} == 100`, keep: `${quiet} != 0`, before, segments });
      const armed = await armRecorder(chainOn(cable), wanted);
      if (!armed.ok) throw new Error(armed.error.message);
      const untriggered = await lookAtRecorder(chainOn(cable), wanted);
      expect(untriggered.ok && untriggered.value.status).toBe('filling');
      // Pressed for 150 counts: 99 before the trigger, then about 50 more.
      bench.operate('B0', true);
      bench.advance(12.5);
      bench.operate('B0', false);
      bench.advance(50);
      const triggered = await lookAtRecorder(chainOn(cable), wanted);
      expect(triggered.ok && triggered.value.status).toBe('triggered');
      const read = await haltRecorder(chainOn(cable), wanted, armed.value, unwatched);
      if (!read.ok) throw new Error(read.error.message);
      const { capture } = read.value;
      const signal = capture.signals.find((one) => one.name === quiet) as (typeof capture.signals)[number];
      const values = Array.from({ length: capture.samples }, (_, i) => Number(valueAt(capture, signal, i)));
      expect(values.slice(0, before + 1)).toEqual(Array.from({ length: before + 1 }, (_, i) => 100 - before + i));
      expect(capture.samples).toBeGreaterThan(before + 10);
      expect(capture.samples).toBeLessThan(recorder.depth / segments);
      expect(values.every((value, i) => value === 100 - before + i)).toBe(true);
      expect(capture.triggerIndex).toBe(before);
      const after = await lookAtRecorder(chainOn(cable), wanted);
      expect(after.ok && after.value.status).toBe('idle');
    }
  });

  test('what has not triggered holds nothing to read, and is disarmed', async () => {
    await load(probed.bitstream);
    const wanted = request({ when: 'state == 7' });
    await armRecorder(chainOn(cable), wanted);
    const read = await haltRecorder(chainOn(cable), wanted, { sampleRate: 12e6, standing: null }, unwatched);
    expect(read.ok ? 'read' : read.error.code).toBe('nothing-recorded');
  });

  test('the rate of the sampling clock is right at a TCK of 100 kHz as it is at 10 MHz', async () => {
    await load(probed.bitstream);
    for (const tckHz of [10e6, 1e6, 100e3]) {
      await cable.setFrequency(tckHz);
      const armed = await armRecorder(chainOn(cable), request({ tckHz, clocks: {} }));
      expect(armed.ok && Math.abs(armed.value.sampleRate / 12e6 - 1)).toBeLessThan(1e-3);
    }
  });

  test('another build on the board, an empty FPGA and a design without cores are told apart', async () => {
    const codeOf = async () => {
      const outcome = await captureNow(chainOn(cable), request({}));
      return outcome.ok ? 'captured' : outcome.error.code;
    };
    expect(await codeOf()).toBe('done-low');
    await load(plain.bitstream);
    expect(await codeOf()).toBe('no-hub');
    const otherPlan = demoPlan();
    await load(
      builtDemo({ ...otherPlan, recorders: otherPlan.recorders.map((r) => ({ ...r, depth: 256 })) }).bitstream,
    );
    expect(await codeOf()).toBe('fingerprint-differs');
  });
});

describe('drive', () => {
  const panel = map.cores.find((core): core is PanelMap => core.kind === 'panel') as PanelMap;
  const move = async (set: Record<string, bigint | null>) => {
    const driven = await drive(chainOn(cable), { part: 'CV25', device: null, map, set });
    if (!driven.ok) throw new Error(driven.error.message);
    return driven.value.reading;
  };

  test('a lever on a free signal reaches the board', async () => {
    await load(probed.bitstream);
    expect((await move({})).levers['lockhouse.level_trim']).toEqual({ value: 0n, released: false });
    const reading = await move({ 'lockhouse.level_trim': 123n });
    expect(reading.levers['lockhouse.level_trim']).toEqual({ value: 123n, released: false });
    bench.panel(1);
    bench.advance(100_000);
    const [ones, tens, hundreds] = bench
      .panel(1)
      .digits.map((row) => row.slice(0, 7).reduce((sum, level, i) => sum | (level > 0.5 ? 1 << i : 0), 0));
    expect([hundreds, tens, ones]).toEqual([0x06, 0x5b, 0x4f]); // 1 2 3
  });

  test('a lever on a driven signal overrides it until it is released', async () => {
    await load(probed.bitstream);
    const name = 'lockhouse.u_sequencer.call_lower';
    expect((await move({})).levers[name]?.released).toBe(true);
    expect((await move({ [name]: 1n })).levers[name]).toEqual({ value: 1n, released: false });
    bench.advance(1000);
    expect((await move({})).gauges['lockhouse.state']).toBe(4n); // the lower gate opens at once: the chamber is empty
    expect((await move({ [name]: null })).levers[name]?.released).toBe(true);
  });

  test('unknown levers are refused by name', async () => {
    await load(probed.bitstream);
    const driven = await drive(chainOn(cable), { part: 'CV25', device: null, map, set: { 'lockhouse.nothing': 1n } });
    expect(driven.ok ? 'moved' : driven.error.code).toBe('no-lever');
    expect(panel.levers.map((lever) => lever.enable)).toEqual([null, 0]);
  });
});
