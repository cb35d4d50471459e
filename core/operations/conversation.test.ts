import { describe, expect, test } from 'vitest';
import { changesIn, spokenBits } from '../../tests/support/serial-model.ts';
import { heardOf } from '../../tests/support/heard.ts';
import type { LineAccess } from '../pod/index.ts';
import { unwatched } from '../progress.ts';
import { readable, USUAL_LINE } from '../serial/index.ts';
import { Conversation, sendAll } from './index.ts';

const bytesOf = (text: string) => new TextEncoder().encode(text);

describe('a conversation', () => {
  test('lines come out of messages, and what is lost is noted where it was', () => {
    const talk = new Conversation();
    talk.heard(heardOf(0, bytesOf('one\ntw')), 1000);
    talk.heard({ ...heardOf(12, bytesOf('o\n')), lost: 6 }, 1001);
    expect(talk.log.linesFrom(1, 9).map(({ bytes }) => readable(bytes, false))).toEqual([
      ...['one', 'tw', '6 bytes came faster than they were taken, and are lost', 'o'],
    ]);
  });

  test('a text is waited for, across messages; in vain it says so; it can be given up', async () => {
    const talk = new Conversation();
    const ready = talk.waitFor('ready', 5000);
    talk.heard(heardOf(0, bytesOf('rea')), 0);
    talk.heard(heardOf(3, bytesOf('dy\n')), 0);
    expect(await ready.found).toBe(true);
    expect(await talk.waitFor('never', 20).found).toBe(false);
    const given = talk.waitFor('x', 60_000);
    given.stop();
    expect(await given.found).toBe(false);
  });

  test('what fits is told from the pulses of many messages, and forgotten when asked to', () => {
    const talk = new Conversation();
    expect(talk.fit).toBeNull();
    const changes = changesIn(
      `${spokenBits([...bytesOf('level 0400 cm\r\n')], { dataBits: 8, parity: 'none', stopBits: 1 })}110`,
      1e9 / 57_600,
    );
    const nanoseconds = changes.slice(1).map(({ at }, i) => at - (changes[i]?.at ?? 0));
    for (let i = 0; i < 3; i++) talk.heard({ ...heardOf(i, bytesOf('?')), pulses: { level: 0, nanoseconds } }, 0);
    expect(talk.fit?.settings).toEqual({ rate: 57_600, dataBits: 8, parity: 'none', stopBits: 1 });
    talk.forgetPulses();
    expect(talk.fit).toBeNull();
  });

  test('a file goes as the line takes it, and nothing of it waits once it is given up', async () => {
    const got: number[] = [];
    let dropped = 0;
    const line: LineAccess = {
      setLine: async (settings) => settings,
      sendOnLine: async (bytes) => {
        const taken = bytes.subarray(0, got.length % 3 === 0 ? 7 : 0);
        got.push(...(taken.length > 0 ? taken : [-1]));
        return taken.length;
      },
      holdLineLow: async () => {},
      dropOnLine: async () => {
        dropped++;
      },
      listenToLine: async () => ({ next: 0, settings: USUAL_LINE }),
    };
    const bytes = Uint8Array.from({ length: 50 }, (_, i) => i);
    const steps: number[] = [];
    await sendAll(line, bytes, { ...unwatched, report: ({ done }) => void steps.push(done) });
    expect(got.filter((value) => value >= 0)).toEqual([...bytes]);
    expect([steps[0], steps.at(-1)]).toEqual([0, 50]);
    let looks = 0;
    const watch = { report: () => {}, cancelled: () => ++looks > 3 };
    await expect(sendAll(line, bytes, watch)).rejects.toThrow('have left for the pod');
    expect(dropped).toBe(1);
  });
});
