import { describe, expect, test } from 'vitest';
import { COMMAND, meet, readFlash, type SpiPort, writePieces } from '../core/flash/index.ts';
import { unwatched } from '../core/progress.ts';
import { FlashChip } from './flash-chip.ts';

/** A chip on a bare SPI port with a clock of its own. */
function wired(name = 'LR32', contents: Uint8Array | null = null) {
  let now = 0;
  const chip = new FlashChip(name, contents, () => now);
  const talk = (command: Uint8Array, answerBytes: number): Uint8Array => {
    chip.select();
    const answer = new Uint8Array(answerBytes);
    for (let i = 0; i < command.length + answerBytes; i++) {
      let byte = 0;
      for (let bit = 7; bit >= 0; bit--) byte = (byte << 1) | chip.clock(((command[i] ?? 0) >> bit) & 1);
      if (i >= command.length) answer[i - command.length] = byte;
    }
    chip.deselect();
    now += (command.length + answerBytes) * 0.8;
    return answer;
  };
  const port: SpiPort = {
    send: (bytes) => void talk(bytes, 0),
    exchange: async (command, count) => talk(command, count),
    wait: (us) => void (now += us),
    flush: async () => {},
    countSent: () => {},
    later: async (command, count) => talk(command, count),
    bitsPerSecond: 10e6,
  };
  return { chip, talk, port, wait: (us: number) => void (now += us) };
}

const at = (command: number, address: number, ...data: number[]) =>
  Uint8Array.of(command, (address >> 16) & 0xff, (address >> 8) & 0xff, address & 0xff, ...data);
const enable = Uint8Array.of(COMMAND.WRITE_ENABLE);

// JEDEC JESD216 and the common command set (values from memory).
describe('a flash chip', () => {
  test('gives its identity and reads FF when erased', () => {
    const { talk } = wired();
    expect([...talk(Uint8Array.of(0x9f), 3)]).toEqual([0x4b, 0x31, 0x16]);
    expect([...talk(at(0x03, 0x1234), 3)]).toEqual([0xff, 0xff, 0xff]);
  });

  test('programs nothing without write enable, and drops the latch after each write', () => {
    const { talk, wait } = wired();
    talk(at(0x02, 0, 0x00), 0);
    expect(talk(at(0x03, 0), 1)[0]).toBe(0xff);
    talk(enable, 0);
    expect((talk(Uint8Array.of(0x05), 1)[0] as number) & 2).toBe(2);
    talk(at(0x02, 0, 0x5a), 0);
    wait(10_000);
    expect(talk(Uint8Array.of(0x05), 1)[0]).toBe(0);
    talk(at(0x02, 0, 0x00), 0);
    wait(10_000);
    expect(talk(at(0x03, 0), 1)[0]).toBe(0x5a);
  });

  test('is busy while it works and answers nothing else', () => {
    const { talk, wait } = wired();
    talk(enable, 0);
    talk(at(0x02, 0, 0x5a), 0);
    expect((talk(Uint8Array.of(0x05), 1)[0] as number) & 1).toBe(1);
    expect(talk(at(0x03, 0), 1)[0]).toBe(0xff);
    wait(10_000);
    expect(talk(at(0x03, 0), 1)[0]).toBe(0x5a);
  });

  test('programming only clears bits; erasing sets them', () => {
    const { talk, wait } = wired();
    for (const value of [0xf0, 0x3c]) {
      talk(enable, 0);
      talk(at(0x02, 7, value), 0);
      wait(10_000);
    }
    expect(talk(at(0x03, 7), 1)[0]).toBe(0xf0 & 0x3c);
    talk(enable, 0);
    talk(at(0x20, 0x0fff), 0);
    wait(1_000_000);
    expect(talk(at(0x03, 7), 1)[0]).toBe(0xff);
  });

  test('a page program wraps inside its 256 bytes', () => {
    const { talk, wait } = wired();
    talk(enable, 0);
    talk(at(0x02, 0x1fe, 1, 2, 3, 4), 0);
    wait(10_000);
    expect([...talk(at(0x03, 0x1fe), 4)]).toEqual([1, 2, 0xff, 0xff]);
    expect([...talk(at(0x03, 0x100), 2)]).toEqual([3, 4]);
  });

  test('a write cut off in the middle of a byte does not happen', () => {
    const { chip, talk } = wired();
    talk(enable, 0);
    chip.select();
    for (const byte of at(0x02, 0, 0x00)) for (let bit = 7; bit >= 0; bit--) chip.clock((byte >> bit) & 1);
    chip.clock(1);
    chip.deselect();
    expect(talk(at(0x03, 0), 1)[0]).toBe(0xff);
  });
});

describe('writing an image', () => {
  const image = Uint8Array.from({ length: 70_000 }, (_, i) => (i % 1000 < 300 ? 0xff : (i * 7) & 0xff));

  test.each(['LR32', 'QF32'])('lands in a %s byte for byte', async (name) => {
    const { port, chip } = wired(name);
    const met = await meet(port);
    if (!met.ok) throw new Error(met.error.message);
    const { part } = met.value;
    expect(part.name).toBe(name);
    const written = await writePieces(port, part, [{ address: 0x20000, bytes: image }], unwatched);
    expect(written.ok && written.value.verified).toBe(true);
    expect(Buffer.from(chip.memory.subarray(0x20000, 0x20000 + image.length)).equals(Buffer.from(image))).toBe(true);
    expect(Buffer.from(await readFlash(port, 0x20000, image.length)).equals(Buffer.from(image))).toBe(true);
    expect(chip.memory.subarray(0, 0x20000).every((byte) => byte === 0xff)).toBe(true);
  });

  test('is refused before anything is erased when it does not fit', async () => {
    const { chip, port } = wired();
    const met = await meet(port);
    if (!met.ok) throw new Error(met.error.message);
    const { part } = met.value;
    const written = await writePieces(port, part, [{ address: 0x3fff00, bytes: new Uint8Array(300) }], unwatched);
    expect(written.ok ? 'written' : written.error.code).toBe('flash-too-large');
    expect(chip.changes).toBe(0);
  });

  test('leaves the chips beside it as they are', async () => {
    const [one, other] = [wired(), wired()];
    const met = await meet(one.port);
    if (!met.ok) throw new Error(met.error.message);
    const image = new Uint8Array(300).fill(0x5a);
    await writePieces(one.port, met.value.part, [{ address: 0, bytes: image }], unwatched);
    expect(one.chip.memory.subarray(0, 300)).toEqual(image);
    expect(other.chip.memory.subarray(0, 300)).toEqual(new Uint8Array(300).fill(0xff));
    expect(wired().chip.memory[0]).toBe(0xff);
  });

  test('may begin anywhere: what shares a sector with it stays, and writing it again changes nothing', async () => {
    const before = new Uint8Array(4 * 2 ** 20).fill(0xff).fill(0x11, 0x1000, 0x3000);
    const { chip, port } = wired('LR32', before.slice());
    const met = await meet(port);
    if (!met.ok) throw new Error(met.error.message);
    const { part } = met.value;
    const image = Uint8Array.from({ length: 5000 }, (_, i) => (i * 7) & 0xff);
    const first = await writePieces(port, part, [{ address: 0x1234, bytes: image }], unwatched);
    expect(first.ok && first.value).toMatchObject({ sectorsErased: 2, sectorsKept: 0, verified: true });
    const wanted = before.slice();
    wanted.set(image, 0x1234);
    expect(Buffer.from(chip.memory).equals(Buffer.from(wanted))).toBe(true);
    const changes = chip.changes;
    const again = await writePieces(port, part, [{ address: 0x1234, bytes: image }], unwatched);
    expect(again.ok && again.value).toEqual({ sectorsErased: 0, pagesWritten: 0, sectorsKept: 2, verified: true });
    expect(chip.changes).toBe(changes);
  });

  test('a silent port and an unknown chip are told apart', async () => {
    const answering = (byte: number): SpiPort => ({
      send: () => {},
      exchange: async (_, count) => new Uint8Array(count).fill(byte),
      wait: () => {},
      flush: async () => {},
      countSent: () => {},
      later: async (_, count) => new Uint8Array(count).fill(byte),
      bitsPerSecond: 10e6,
    });
    const codes = await Promise.all(
      [0xff, 0x00, 0x33].map(async (byte) => {
        const found = await meet(answering(byte));
        return found.ok ? 'known' : found.error.code;
      }),
    );
    expect(codes).toEqual(['flash-silent', 'flash-silent', 'flash-unknown']);
  });
});
