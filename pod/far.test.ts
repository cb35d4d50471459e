// The pod at the other end of a bad line.
import { afterEach, describe, expect, test } from 'vitest';
import { loadBitstream } from '../core/operations/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { unwatched } from '../core/progress.ts';
import { ProblemError } from '../core/result.ts';
import { chainOn } from '../tests/support/chain-on.ts';
import { builtDemo } from '../tests/support/demo.ts';
import { farLoadSeconds, farPod } from '../tests/support/far-pod.ts';

const bitstream = () => {
  const read = readBitstream(builtDemo().bitstream);
  if (!read.ok) throw new Error(read.error.message);
  return read.value;
};

describe('a pod far away', () => {
  let close = async () => {};
  afterEach(() => close());

  test('is loaded through 250 ms each way', async () => {
    let state = '';
    await farLoadSeconds(250, async (client) => {
      state = (await loadBitstream(chainOn(client), bitstream(), null, unwatched)).ok ? 'done' : 'failed';
    });
    expect(state).toBe('done');
  }, 60_000);

  test('whose answers come garbled is given up with a reason, and the next connection works', async () => {
    const far = await farPod();
    close = far.close;
    const first = await far.client();
    await first.lease();
    far.wire.weather = { kind: 'noisy', oneIn: 1, way: 'back' };
    const told = await (async () => {
      try {
        for (let i = 0; i < 50; i++) await first.state();
        return 'nothing';
      } catch (error) {
        return error instanceof ProblemError ? error.problem.code : String(error);
      }
    })();
    expect(['pod-garbled', 'pod-lost']).toContain(told);
    far.wire.clear();
    far.wire.cut();
    const second = await far.client();
    await expect
      .poll(
        async () =>
          second.lease().then(
            () => 'mine',
            () => 'taken',
          ),
        { timeout: 15_000 },
      )
      .toBe('mine');
    expect((await second.state()).attached).toBe(true);
    second.close();
  }, 60_000);
});
