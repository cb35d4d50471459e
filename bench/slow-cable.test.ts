// Slow and far cables: the whole path over a low TCK, and over a long way there and back.
import { FAMILIES } from '../core/families/index.ts';
import { describe, expect, test } from 'vitest';
import { ChainSession } from '../core/board/index.ts';
import type { Cable } from '../core/jtag/index.ts';
import {
  armRecorder,
  captureNow,
  drive,
  keepBitstream,
  loadBitstream,
  lookAtRecorder,
  rehearseBoot,
} from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { valueAt } from '../tests/support/captured.ts';
import { builtCounter, COUNTER_HZ, counterBench } from '../tests/support/counter.ts';
import { benchHands } from './cable.ts';

const { bitstream, map, part } = builtCounter();

/** The longest stretch of TCK and pause that one batch held, in seconds, and how many batches there were. */
function timed(cable: Cable): Cable & { longest: number; batches: number } {
  const wrapped = {
    longest: 0,
    batches: 0,
    get tckHz() {
      return cable.tckHz;
    },
    state: () => cable.state(),
    setFrequency: (hz: number) => cable.setFrequency(hz),
    run: (ops: Parameters<Cable['run']>[0]) => {
      const seconds = ops.reduce(
        (sum, op) =>
          sum + (op.kind === 'wait' ? op.microseconds / 1e6 : op.kind === 'trst' ? 0 : op.count / cable.tckHz),
        0,
      );
      wrapped.longest = Math.max(wrapped.longest, seconds);
      wrapped.batches++;
      return cable.run(ops);
    },
  };
  return wrapped;
}

/** A cable whose every batch is on its way for some milliseconds in each direction. */
const far = (cable: Cable, milliseconds: number): Cable => {
  const way = () => new Promise((resolve) => setTimeout(resolve, milliseconds));
  return {
    get tckHz() {
      return cable.tckHz;
    },
    state: () => way().then(() => cable.state()),
    setFrequency: (hz) => way().then(() => cable.setFrequency(hz)),
    run: async (ops) => {
      await way();
      const answers = await cable.run(ops);
      await way();
      return answers;
    },
  };
};

const request = (tckHz: number) => ({
  part,
  device: null,
  map,
  recorder: null,
  when: 'count == 0xabcd',
  before: 5,
  tckHz,
  clocks: { clk: COUNTER_HZ },
});

async function wholePath(chain: ChainSession, tckHz: number): Promise<void> {
  expect(chain.scan?.devices.map((device) => device.part)).toEqual(['SP64', part]);
  const loaded = await loadBitstream(chain, bitstream, null, unwatched, { verify: true });
  expect(loaded.ok && loaded.value).toMatchObject({ done: true, verified: true, device: 1 });
  const captured = await captureNow(chain, request(tckHz));
  if (!captured.ok) throw new Error(captured.error.message);
  const { capture } = captured.value;
  const [signal] = capture.signals;
  expect(capture.sampleRate).toBe(COUNTER_HZ);
  if (signal) for (let i = 0; i < 16; i++) expect(valueAt(capture, signal, i)).toBe(BigInt(0xabcd - 5 + i));
  const driven = await drive(chain, { part, device: null, map, set: { 'top.free': 77n } });
  expect(driven.ok && driven.value.reading.gauges['top.free']).toBe(77n);
  const kept = await keepBitstream(chain, bitstream, null, unwatched);
  expect(kept.ok && kept.value).toMatchObject({ verified: true, chip: 'Ledger LR32' });
  const boot = await rehearseBoot(chain, part, null, unwatched);
  expect(boot.ok && boot.value).toMatchObject({ done: true, fingerprint: bitstream.fingerprint });
}

describe('the whole path', () => {
  test('works at 10 kHz of TCK, and no batch takes longer than about half a second', { timeout: 120_000 }, async () => {
    const { bench, cable } = counterBench(10_000);
    const slow = timed(cable);
    const memory = { answers: [], described: [] };
    await wholePath(
      await ChainSession.open({ cable: slow, hands: benchHands(bench), memory, families: FAMILIES }),
      10_000,
    );
    expect(slow.longest).toBeLessThan(0.6);
    expect(slow.longest).toBeGreaterThan(0.4);
  });

  test('works over a cable of 50 ms there and back', { timeout: 120_000 }, async () => {
    const { bench, cable } = counterBench(10e6);
    const memory = { answers: [], described: [] };
    await wholePath(
      await ChainSession.open({ cable: far(cable, 25), hands: benchHands(bench), memory, families: FAMILIES }),
      10e6,
    );
  });

  test('scans and loads at 1 kHz', { timeout: 120_000 }, async () => {
    const { cable } = counterBench(1000);
    const chain = await ChainSession.open({
      cable,
      hands: {},
      memory: { answers: [], described: [] },
      families: FAMILIES,
    });
    const loaded = await loadBitstream(chain, bitstream, null, unwatched);
    expect(loaded.ok && loaded.value).toMatchObject({ done: true, fingerprint: bitstream.fingerprint });
  });
});

describe('the chain of one session', () => {
  const open = async () => {
    const { bench, cable } = counterBench(10e6);
    const counted = timed(cable);
    const chain = await ChainSession.open({
      cable: counted,
      hands: {},
      memory: { answers: [], described: [] },
      families: FAMILIES,
    });
    await loadBitstream(chain, bitstream, null, unwatched);
    return { bench, chain, counted };
  };

  test('is scanned once; each use looks again with one data scan', async () => {
    const { chain, counted } = await open();
    const before = [counted.batches, chain.scan] as const;
    expect((await chain.link(part, null)).ok).toBe(true);
    expect(counted.batches).toBe(before[0] + 1);
    expect(chain.scan).toBe(before[1]);
  });

  test('a look at an armed recorder is one batch on the cable, whatever it tells', async () => {
    const { chain, counted } = await open();
    // A counter does not stand on one value for two samples.
    const waiting = { ...request(10e6), when: 'count == 5 for 2 samples' };
    const armed = await armRecorder(chain, waiting);
    expect(armed).toEqual({ ok: true, value: { sampleRate: COUNTER_HZ, standing: null } });
    const batches = counted.batches;
    const looked = await lookAtRecorder(chain, waiting, COUNTER_HZ);
    expect(counted.batches).toBe(batches + 1);
    expect(looked.ok && looked.value.status).toBe('waiting');
    expect(looked.ok && looked.value.look?.hertz).toBeGreaterThan(COUNTER_HZ * 0.99);
    expect(looked.ok && looked.value.look?.hertz).toBeLessThan(COUNTER_HZ * 1.01);
  });

  test('another chain behind the same cable is noticed before anything is shifted into it', async () => {
    const { bench, chain } = await open();
    bench.setFault({ name: 'device-missing', device: 0 }, true);
    expect((await chain.link(part, 1)).ok).toBe(false);
    expect(chain.scan?.devices).toHaveLength(1);
    expect((await chain.link(part, null)).ok).toBe(true);
  });

  test('a board that was switched off is told as that, and found again when it is on', async () => {
    const { bench, chain } = await open();
    bench.setPower(false);
    expect(await chain.link(part, null)).toMatchObject({ ok: false, error: { code: 'no-power' } });
    expect(await lookAtRecorder(chain, request(10e6), COUNTER_HZ)).toMatchObject({ error: { code: 'no-power' } });
    bench.setPower(true);
    expect((await chain.link(part, null)).ok).toBe(true);
  });

  test('what a person says of it afterwards makes it scan again', async () => {
    const { chain, counted } = await open();
    const batches = counted.batches;
    chain.remember({ answers: [{ index: 0, idcode: null, irLength: 5 }], described: [] });
    await chain.link(part, null);
    expect(counted.batches).toBeGreaterThan(batches + 1);
  });
});

test('without a power switch the person at the desk is asked, and the reference voltage tells when it was done', async () => {
  const { bench, cable } = counterBench(10e6);
  const chain = await ChainSession.open({
    cable,
    hands: {},
    memory: { answers: [], described: [] },
    families: FAMILIES,
  });
  await keepBitstream(chain, bitstream, null, unwatched);
  const asked: string[] = [];
  const boot = await rehearseBoot(chain, part, null, {
    cancelled: () => false,
    report: ({ phase }) => {
      if (asked.at(-1) !== phase) asked.push(phase);
      if (phase === 'Switch the board off') bench.setPower(false);
      if (phase === 'Switch the board on') bench.setPower(true);
    },
  });
  expect(asked).toEqual(expect.arrayContaining(['Switch the board off', 'Switch the board on']));
  expect(boot.ok && boot.value).toMatchObject({ done: true, fingerprint: bitstream.fingerprint });
  expect(await rehearseBoot(chain, part, null, unwatched, 'reconfigure')).toMatchObject({
    ok: false,
    error: { code: 'no-reconfigure' },
  });
});
