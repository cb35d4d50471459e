// The wire with the firmware itself, compiled for this computer, at its other end.
import { afterEach, describe, expect, test } from 'vitest';
import type { CableOp } from '../../core/jtag/index.ts';
import { ProblemError } from '../../core/result.ts';
import { type Cycle, firmwareProgram, firmwareWith, WrittenPins } from '../../tests/support/firmware.ts';
import { framed } from './frames.ts';
import { wireTarget } from './index.ts';
import type { BytePort } from './port.ts';

const program = firmwareProgram();
const AT = { path: '/dev/tty-of-a-test', baud: 1_000_000 };

const open: { stop(): void }[] = [];
afterEach(() => {
  for (const one of open.splice(0)) one.stop();
});

async function wired(pins = new WrittenPins()) {
  const ware = await firmwareWith(program ?? '', pins);
  const pod = await wireTarget({ ...AT, open: ware.open });
  open.push(pod, ware);
  return { ...ware, pod };
}

const codeOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'fine',
    (error: unknown) => (error instanceof ProblemError ? error.problem.code : String(error)),
  );

const noise = (seed: number) => () => {
  seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
  return seed / 2 ** 32;
};

/** Scans of all kinds; each cycle's place can be told from its neighbours. */
function scans(count: number, chance: () => number): CableOp[] {
  return Array.from({ length: count }, (): CableOp => {
    const bits = 1 + Math.floor(chance() * 6000);
    const bytes = Uint8Array.from({ length: (bits + 7) >> 3 }, () => chance() * 256);
    const kind = chance();
    if (kind < 0.2)
      return { kind: 'tms', count: 1 + (bits % 40), tms: Uint8Array.from({ length: 5 }, () => chance() * 256) };
    if (kind < 0.3) return { kind: 'clock', count: bits % 700 };
    return { kind: 'shift', count: bits, tdi: bytes, capture: chance() < 0.6, exit: chance() < 0.5 };
  });
}

/** What the pins have to see, and what has to come back. */
function expected(ops: readonly CableOp[], delay: number) {
  const cycles: Cycle[] = [];
  const bit = (bytes: Uint8Array, i: number) => ((bytes[i >> 3] ?? 0) >> (i & 7)) & 1;
  const captured: number[][] = [];
  for (const op of ops) {
    if (op.kind === 'tms') for (let i = 0; i < op.count; i++) cycles.push({ tms: bit(op.tms, i), tdi: 1 });
    if (op.kind === 'clock') for (let i = 0; i < op.count; i++) cycles.push({ tms: 0, tdi: 1 });
    if (op.kind !== 'shift') continue;
    const bits: number[] = [];
    for (let i = 0; i < op.count; i++) {
      bits.push(cycles.at(-delay)?.tdi ?? 0);
      cycles.push({ tms: op.exit && i === op.count - 1 ? 1 : 0, tdi: bit(op.tdi, i) });
    }
    if (op.capture) captured.push(bits);
  }
  return { cycles, captured };
}

const bitsOf = (answers: readonly Uint8Array[], ops: readonly CableOp[]): number[][] => {
  const counts = ops.flatMap((op) => (op.kind === 'shift' && op.capture ? [op.count] : []));
  return answers.map((bytes, at) =>
    Array.from({ length: counts[at] ?? 0 }, (_, i) => ((bytes[i >> 3] ?? 0) >> (i & 7)) & 1),
  );
};

const shown = (cycles: readonly Cycle[]): string => cycles.map(({ tms, tdi }) => tms * 2 + tdi).join('');

describe.skipIf(program === null)('a microcontroller on a serial line', () => {
  test('says what it is and what is wired to it', async () => {
    const pins = new WrittenPins();
    pins.can = 0b010001;
    const { pod } = await wired(pins);
    expect(pod.ready).toMatchObject({ name: 'pins of a test', leastHz: 1000, mostHz: 20_000_000 });
    expect(pod.ready.can).toEqual({
      trst: true,
      srst: false,
      reconfigure: false,
      power: false,
      measure: true,
      line: false,
    });
    expect([pod.controls?.power, pod.controls?.reconfigure, pod.controls?.reset, pod.line]).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
    expect(await pod.cable.state()).toMatchObject({ attached: true, referenceVolts: 3.3, trouble: null });
  });

  test('makes the very cycles that were asked for, and brings back what came', async () => {
    const { pod, pins } = await wired();
    const ops = scans(40, noise(1));
    const answers = await pod.cable.run(ops);
    const { cycles, captured } = expected(ops, 5);
    expect(shown(pins.cycles)).toBe(shown(cycles));
    expect(bitsOf(answers, ops)).toEqual(captured);
  });

  test.each([1, 2, 3, 4])(
    'carries each frame out once, whatever is lost or damaged on the way (%i)',
    async (seed) => {
      const { pod, pins, wire } = await wired();
      const chance = noise(seed * 7919);
      wire().weather = (bytes) => {
        const kind = chance();
        if (kind < 0.03) return null;
        if (kind < 0.1) {
          const at = Math.floor(chance() * bytes.length);
          bytes[at] = (bytes[at] ?? 0) ^ (1 << Math.floor(chance() * 8));
        } else if (kind < 0.13) return bytes.subarray(0, Math.floor(chance() * bytes.length));
        else if (kind < 0.15) return Uint8Array.from([...bytes, ...bytes]);
        return bytes;
      };
      const ops = scans(60, chance);
      const answers = await pod.cable.run(ops);
      const { cycles, captured } = expected(ops, 5);
      expect(shown(pins.cycles)).toBe(shown(cycles));
      expect(bitsOf(answers, ops)).toEqual(captured);
      expect(pod.link()?.counts.framesAgain).toBeGreaterThan(0);
    },
    60_000,
  );

  test('keeps several frames on their way, and takes 1.05 bytes a byte at most on long scans', async () => {
    const { pod, wire } = await wired();
    wire().delay = 5;
    const bytes = 12_500;
    const tdi = Uint8Array.from({ length: bytes }, (_, i) => i * 37 + (i >> 8));
    const before = pod.link()?.counts;
    await pod.cable.run([{ kind: 'shift', count: bytes * 8, tdi, capture: true, exit: true }]);
    const between = pod.link()?.counts;
    await pod.cable.run([{ kind: 'shift', count: bytes * 8, tdi, capture: false, exit: true }]);
    const after = pod.link()?.counts;
    if (!before || !between || !after) throw new Error('no session');
    expect(after.mostInFlight).toBeGreaterThanOrEqual(4);
    const each = (now: typeof before, then: typeof before) => [
      (now.bytesSent - then.bytesSent) / bytes,
      (now.bytesReceived - then.bytesReceived) / bytes,
    ];
    const [out = 9, back = 9] = each(between, before);
    expect(out).toBeLessThanOrEqual(1.05);
    expect(back).toBeLessThanOrEqual(1.05);
    // Where nothing is wanted back, what is said back counts as well.
    expect(each(after, between).reduce((sum, one) => sum + one)).toBeLessThanOrEqual(1.05);
  });

  test('holds 10 ms of round trip and more without a pause: what is under way is more than the line carries meanwhile', async () => {
    const { pod } = await wired();
    const { inBytes, outBytes } = pod.ready;
    // Ten bits a byte. (Common practice of asynchronous frames.)
    expect(Math.min(inBytes, outBytes)).toBeGreaterThan((AT.baud / 10) * 0.01);
  });

  test('power, reset and reconfigure are its pins, and TRST is', async () => {
    const { pod, pins } = await wired();
    pins.set.length = 0;
    await pod.controls?.power?.(false);
    await pod.controls?.power?.(true);
    await pod.controls?.reconfigure?.();
    await pod.controls?.reset?.();
    await pod.cable.run([
      { kind: 'trst', asserted: true },
      { kind: 'trst', asserted: false },
    ]);
    expect(pins.set.map(({ pin, level }) => `${pin}:${level}`)).toEqual([
      '4:0',
      '4:1',
      '3:0',
      '3:2',
      '2:0',
      '2:2',
      '1:0',
      '1:2',
    ]);
  });

  test('the board’s serial line goes both ways, while scans go on, and nothing is sent twice', async () => {
    const { pod, pins } = await wired();
    const { line } = pod;
    if (!line) throw new Error('no line');
    expect(await line.set({ rate: 9600, dataBits: 7, parity: 'even', stopBits: 2, flow: 'rts-cts' })).toMatchObject({
      ...{ rate: 9600, dataBits: 7, flow: 'none' },
    });
    pins.lineRoom = 10;
    const text = Uint8Array.from({ length: 100 }, (_, i) => i);
    const scan = pod.cable.run(scans(20, noise(5)));
    expect(await line.send(text)).toBe(100);
    await expect.poll(() => pins.lineSent.length).toBe(10);
    pins.lineRoom = 1000;
    await expect.poll(() => pins.lineSent.length).toBe(100);
    expect(pins.lineSent).toEqual([...text]);
    pins.lineHeard.push(...Array.from({ length: 200 }, (_, i) => i));
    const heard: number[] = [];
    await expect
      .poll(() => {
        heard.push(...line.take().frames.map(({ value }) => value));
        return heard.length;
      })
      .toBe(200);
    expect(heard).toEqual(Array.from({ length: 200 }, (_, i) => i));
    await scan;
  });
});

describe.skipIf(program === null)('what goes wrong with it', () => {
  const held = async (pod: Awaited<ReturnType<typeof wireTarget>>) =>
    codeOf(pod.cable.run([{ kind: 'wait', microseconds: 20_000_000 }]));

  test('pulled out in the middle: named, and found again by itself', async () => {
    const { pod, pins, wire } = await wired();
    const work = held(pod);
    await new Promise((resolve) => setTimeout(resolve, 50));
    wire().pull();
    expect(await work).toBe('wire-unplugged');
    expect(await codeOf(pod.cable.run([{ kind: 'clock', count: 1 }]))).toBe('wire-unplugged');
    expect((await pod.cable.state()).trouble?.code).toBe('wire-unplugged');
    await expect.poll(() => codeOf(pod.cable.run([{ kind: 'clock', count: 3 }])), { timeout: 10_000 }).toBe('fine');
    expect(pins.cycles.length).toBe(3);
    expect(await pod.cable.state()).toMatchObject({ attached: true, trouble: null });
  }, 20_000);

  test('silent in the middle: named after 3 s', async () => {
    const { pod, wire } = await wired();
    const work = held(pod);
    wire().weather = () => null;
    expect(await work).toBe('wire-silent');
  }, 20_000);

  test('started anew in the middle: named, and spoken to anew', async () => {
    // A chip that starts anew knows no session; here the session is ended behind the host's back.
    const { pod, wire } = await wired();
    const work = held(pod);
    await new Promise((resolve) => setTimeout(resolve, 20));
    wire().port.write(framed(Uint8Array.of(4)));
    expect(await work).toBe('wire-restarted');
    await expect.poll(() => codeOf(pod.cable.run([{ kind: 'clock', count: 1 }])), { timeout: 10_000 }).toBe('fine');
  }, 20_000);

  test('where the host falls silent, the pins are let go of, and the supply stays', async () => {
    const { pod, pins, wire } = await wired();
    pins.set.length = 0;
    wire().weather = (bytes, way) => (way === 'out' ? null : bytes);
    await expect
      .poll(() => pins.set.map(({ pin, level }) => `${pin}:${level}`), { timeout: 8000 })
      .toEqual([...['0:2', '1:2', '2:2', '3:2']]);
    wire().weather = null;
    await expect.poll(() => codeOf(pod.cable.run([{ kind: 'clock', count: 1 }])), { timeout: 10_000 }).toBe('fine');
  }, 30_000);

  test('an answer of the wrong length, or work it does not know, ends the session with a reason', async () => {
    const { pod } = await wired();
    expect(await codeOf(pod.link()?.send([{ bytes: Uint8Array.of(0xc0), answer: 1 }]) ?? Promise.reject())).toBe(
      'wire-garbled',
    );
    const other = await wired();
    const unknown = other.pod.link()?.send([{ bytes: Uint8Array.of(0x9f, 0), answer: 0 }]);
    expect(await codeOf(unknown ?? Promise.reject())).toBe('wire-fault');
  });
});

describe('something else at that path', () => {
  const portThat = (answer: (bytes: Uint8Array) => Uint8Array | null): BytePort => {
    let hear: (bytes: Uint8Array) => void = () => {};
    return {
      write: (bytes) => {
        const said = answer(bytes);
        if (said) setTimeout(() => hear(said), 1);
      },
      close: () => {},
      onBytes: (listener) => {
        hear = listener;
      },
      onGone: () => {},
    };
  };
  const met = (answer: (bytes: Uint8Array) => Uint8Array | null) =>
    wireTarget({ ...AT, open: async () => portThat(answer) }).then(
      () => null,
      (error: unknown) => (error instanceof ProblemError ? error.problem : null),
    );

  test('nothing at all, a modem, an echo, and rubbish are told apart', async () => {
    const [silent, modem, echo, rubbish] = await Promise.all([
      met(() => null),
      met(() => new TextEncoder().encode('ERROR\r\n')),
      met((bytes) => bytes),
      met(() => Uint8Array.of(0xfe, 0x7e, 0, 0x81)),
    ]);
    expect(silent?.code).toBe('wire-silent');
    expect([modem?.code, modem?.message]).toEqual(['wire-not-ours', expect.stringContaining('“ERROR')]);
    expect(echo?.code).toBe('wire-not-ours');
    expect([rubbish?.code, rubbish?.message]).toEqual(['wire-not-ours', expect.stringContaining('fe 7e 00 81')]);
  }, 15_000);

  test('a firmware of another version is named with both', async () => {
    const said = await met((bytes) => {
      if (bytes.length < 5) return null;
      // The session's number stands behind kind and version; the stuffing leaves it where it has no zero.
      const hello = [...bytes];
      const plain: number[] = [];
      for (let at = 0; at < hello.length - 1; ) {
        const block = hello[at] ?? 1;
        plain.push(...hello.slice(at + 1, at + block));
        at += block;
        if (at < hello.length - 1) plain.push(0);
      }
      return framed(Uint8Array.from([0x81, ...plain.slice(2, 6), 7, ...new Array<number>(16).fill(1)]));
    });
    expect(said).toMatchObject({ code: 'wire-version', about: { theirs: 7, ours: 1 } });
  });
});
