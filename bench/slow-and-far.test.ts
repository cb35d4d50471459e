// 100 kHz of TCK and 5 ms each way, counted in cycles and round trips: what one waits for at a desk with a slow cable.
import { expect, test } from 'vitest';
import { ChainSession } from '../core/board/index.ts';
import { FAMILIES } from '../core/families/index.ts';
import { armRecorder, drive, loadBitstream, lookAtRecorder, readRecorder, sweepTck } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { countedCable } from '../tests/support/counted-cable.ts';
import { builtCounter, COUNTER_HZ, counterBench } from '../tests/support/counter.ts';

const TCK_HZ = 100_000;
const EACH_WAY_SECONDS = 0.005;
const built = builtCounter({ bits: 18, depth: 1024 });

async function desk() {
  const { bench, cable } = counterBench(10e6);
  const memory = { answers: [], described: [] };
  const quick = ChainSession.on({ cable, hands: {}, memory, families: FAMILIES });
  const loaded = await loadBitstream(quick, built.bitstream, null, unwatched);
  expect(loaded.ok && loaded.value.done).toBe(true);
  bench.setFrequency(TCK_HZ);
  const counted = countedCable(cable, EACH_WAY_SECONDS);
  const chain = ChainSession.on({ cable: counted.cable, hands: {}, memory, families: FAMILIES });
  return { counted, chain, bench };
}

const request = (when: string) => ({
  part: built.part,
  device: null,
  map: built.map,
  recorder: null,
  when,
  before: 5,
  tckHz: TCK_HZ,
  clocks: { clk: COUNTER_HZ },
});

test('a scan takes at most 2 s', async () => {
  const { counted, chain } = await desk();
  const { answer, seconds, trips } = await counted.of(() => chain.rescan());
  expect(answer.devices).toHaveLength(2);
  console.info(`scan: ${seconds.toFixed(2)} s, ${trips} round trips`);
  expect(seconds).toBeLessThanOrEqual(2);
});

test('a capture of 1,024 samples of 18 bits is armed, looked at and taken in at most 2 s; a look is 3 round trips at most', async () => {
  const { counted, chain } = await desk();
  await chain.rescan();
  const wanted = request('count == 0x0abcd');
  const armed = await counted.of(() => armRecorder(chain, wanted));
  expect(armed.answer.ok).toBe(true);
  const looked = await counted.of(() => lookAtRecorder(chain, wanted, COUNTER_HZ));
  expect(looked.answer.ok).toBe(true);
  // The counter comes round once a second; TCK moves the bench's time.
  for (let i = 0; i < 20; i++) {
    const again = await lookAtRecorder(chain, wanted, COUNTER_HZ);
    if (again.ok && again.value.status === 'done') break;
    await chain.cable.run([{ kind: 'wait', microseconds: 200_000 }]);
  }
  const taken = await counted.of(() =>
    readRecorder(chain, wanted, { sampleRate: COUNTER_HZ, standing: null }, unwatched),
  );
  expect(taken.answer.ok && taken.answer.value.capture.samples).toBe(1024);
  const seconds = armed.seconds + looked.seconds + taken.seconds;
  console.info(
    `capture of 1,024 × 18 bits: armed ${armed.seconds.toFixed(2)} s, a look ${looked.trips} round trips, ` +
      `taken ${taken.seconds.toFixed(2)} s`,
  );
  expect(looked.trips).toBeLessThanOrEqual(3);
  expect(seconds).toBeLessThanOrEqual(2);
});

test('live levers move at least ten times a second', async () => {
  const { counted, chain } = await desk();
  await chain.rescan();
  const set = (value: bigint) =>
    drive(chain, { part: built.part, device: null, map: built.map, set: { 'top.free': value } });
  await set(1n);
  const { answer, seconds, trips, cycles } = await counted.of(async () => {
    for (let i = 0n; i < 9n; i++) await set(i);
    return set(77n);
  });
  expect(answer.ok && answer.value.reading.gauges['top.free']).toBe(77n);
  console.info(
    `levers: ${(10 / seconds).toFixed(1)} sets a second, ${cycles / 10} cycles and ${trips / 10} round trips each`,
  );
  expect(10 / seconds).toBeGreaterThanOrEqual(10);
});

test('a cable that is slower than any usual step is swept at parts of what it can', async () => {
  const { chain } = await desk();
  const slow = {
    ...chain.cable,
    tckHz: TCK_HZ,
    state: async () => ({ ...(await chain.cable.state()), mostHz: TCK_HZ }),
    run: chain.cable.run,
    setFrequency: chain.cable.setFrequency,
  };
  const memory = { answers: [], described: [] };
  const swept = await sweepTck(ChainSession.on({ cable: slow, hands: {}, memory, families: FAMILIES }), unwatched);
  expect(swept.ok && swept.value.points.length).toBeGreaterThanOrEqual(4);
  expect(swept.ok && swept.value.reliableHz).toBeGreaterThan(0);
  expect(swept.ok && swept.value.chosenHz).toBeLessThan(TCK_HZ);
});
