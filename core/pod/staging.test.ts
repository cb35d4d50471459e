import { createHash } from 'node:crypto';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { type Problem, problem } from '../result.ts';
import { type CarryOut, Staging, type StageShelf } from './staging.ts';
import type { PodTarget } from './target.ts';

const TARGET = { name: 'bare', cable: {} } as unknown as PodTarget;
const BYTES = Uint8Array.of(1, 2, 3);
const DIGEST = createHash('sha256').update(BYTES).digest('hex');

/** A staging whose files run until they are let go, or asked to stop. */
function staging(run: CarryOut = async () => null) {
  const held = new Staging(TARGET, run);
  const open = (name: string) => held.open(name, BYTES.length, DIGEST);
  const whole = async (name: string): Promise<number> => {
    const opened = open(name);
    if ('refused' in opened) throw new Error(opened.refused.code);
    await held.take(opened.id, BYTES);
    await held.check(opened.id);
    return opened.id;
  };
  const state = (id: number) => held.files.find((file) => file.id === id)?.state ?? 'gone';
  return { held, open, whole, state };
}

const untilStopped: CarryOut = async (_job, _target, watch): Promise<Problem> => {
  while (!watch.cancelled()) await new Promise((resolve) => setTimeout(resolve, 1));
  return problem('cancelled', 'Cancelled. The part is empty.', 'Start it again.');
};

describe('a file that runs', () => {
  test('is asked to stop, ends as cancelled, and may be run again or dropped', async () => {
    const { held, whole, state } = staging(untilStopped);
    const id = await whole('a');
    const ended = new Promise<void>((resolve) => expect(held.execute(id, 'load', null, resolve)).toBeNull());
    expect([state(id), await held.drop(id), held.stop(99)]).toEqual(['running', false, false]);
    expect(held.stop(id)).toBe(true);
    await ended;
    expect(held.files[0]).toMatchObject({ state: 'failed', problem: { code: 'cancelled' } });
    expect(held.files[0]?.log.join('\n')).toMatch(/Asked to stop[\s\S]*Failed: Cancelled/);
    // What was asked once does not stop the next run before it begins.
    const again = new Promise<void>((resolve) => expect(held.execute(id, 'load', null, resolve)).toBeNull());
    expect([state(id), held.stop(id)]).toEqual(['running', true]);
    await again;
    expect([held.stop(id), await held.drop(id), state(id)]).toEqual([false, true, 'gone']);
  });
});

describe('places for files', () => {
  afterEach(() => void vi.restoreAllMocks());

  test('what is whole stays until somebody removes it; there is room for 64', async () => {
    const { held, open, whole, state } = staging();
    const ids = await Promise.all(Array.from({ length: 64 }, (_, i) => whole(`f${i}`)));
    expect(open('one more')).toMatchObject({ refused: { code: 'stage-full' } });
    await new Promise<void>((resolve) => void held.execute(ids[3] ?? 0, 'load', null, resolve));
    expect(open('one more')).toMatchObject({ refused: { code: 'stage-full' } });
    expect(await held.drop(ids[3] ?? 0)).toBe(true);
    expect('id' in open('one more')).toBe(true);
    expect([ids[2], ids[3]].map((id) => state(id ?? 0))).toEqual(['ready', 'gone']);
  });

  test('a file that has not arrived for ten minutes makes room, however much of it came', async () => {
    let now = 1000;
    vi.spyOn(performance, 'now').mockImplementation(() => now);
    const { held, open, state } = staging();
    const ids = Array.from({ length: 64 }, (_, i) => {
      now += 1000;
      const opened = open(`f${i}`);
      return 'id' in opened ? opened.id : -1;
    });
    now += 8 * 60_000;
    expect(open('too soon')).toMatchObject({ refused: { code: 'stage-full' } });
    await held.take(ids[0] ?? 0, BYTES);
    now += 3 * 60_000;
    expect('id' in open('late')).toBe(true);
    expect([state(ids[0] ?? 0), state(ids[1] ?? 0)]).toEqual(['arriving', 'gone']);
  });

  test('a disk that takes no more ends the sending with a reason, and nothing of the file stays', async () => {
    const removed: number[] = [];
    const full: StageShelf = {
      known: () => [],
      remember: () => {},
      place: (id) => ({
        write: () => Promise.reject(new Error('no space left on device')),
        read: async function* () {},
        remove: async () => void removed.push(id),
      }),
    };
    const held = new Staging(TARGET, async () => null, full);
    const opened = held.open('a', BYTES.length, DIGEST);
    const id = 'id' in opened ? opened.id : -1;
    expect(await held.take(id, BYTES)).toMatchObject({ code: 'stage-disk' });
    expect([held.files, removed]).toEqual([[], [id]]);
    expect(await held.check(id)).toMatchObject({ code: 'stage-file' });
  });
});
