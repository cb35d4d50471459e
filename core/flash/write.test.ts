import { describe, expect, test } from 'vitest';
import { type Progress, unwatched } from '../progress.ts';
import { ProblemError } from '../result.ts';
import { COMMAND, FLASH_PARTS, type FlashPart, smallestErase, type SpiPort, writePieces } from './index.ts';

const part = FLASH_PARTS[0] as FlashPart;
const image = Uint8Array.from({ length: 1000 }, (_, i) => (i * 13) & 0xff);

/** A chip as a script: answers status and reads as told, keeps what was asked of it. */
function scripted(answers: {
  status?: (polls: number) => number;
  read?: (address: number, length: number) => Uint8Array;
}) {
  const asked: number[] = [];
  let polls = 0;
  let waited = 0;
  const port: SpiPort = {
    send: (bytes) => void asked.push(bytes[0] as number),
    exchange: async (command, length) => {
      const [code = 0, a = 0, b = 0, c = 0] = command;
      if (code === COMMAND.READ_STATUS) return Uint8Array.of(answers.status?.(polls++) ?? 0);
      const address = (a << 16) | (b << 8) | c;
      // Before anything is programmed the image's place holds zeros, the rest of the sector nothing.
      if (!asked.includes(COMMAND.PAGE_PROGRAM))
        return Uint8Array.from({ length }, (_, i) => (address + i < image.length ? 0 : 0xff));
      return answers.read?.(address, length) ?? image.slice(address, address + length);
    },
    wait: (us) => {
      waited += us;
    },
    flush: async () => {},
    countSent: () => {},
    later: (command, length) => port.exchange(command, length),
    bitsPerSecond: 10e6,
  };
  return { port, asked, waited: () => waited };
}

const codeOf = async (port: SpiPort) => {
  const written = await writePieces(port, part, [{ address: 0, bytes: image }], unwatched);
  return written.ok ? 'written' : written.error.code;
};

describe('writing flash', () => {
  test('enables before each change, erases the blocks, programs the pages, reads back', async () => {
    const { port, asked } = scripted({});
    expect(await codeOf(port)).toBe('written');
    expect(asked).toEqual([
      COMMAND.WRITE_ENABLE,
      COMMAND.ERASE_4K,
      ...Array.from({ length: 4 }, () => [COMMAND.WRITE_ENABLE, COMMAND.PAGE_PROGRAM]).flat(),
    ]);
  });

  test('a chip that stays busy ends in an error once its worst time has passed', async () => {
    const { port, waited } = scripted({ status: () => 1 });
    expect(await codeOf(port)).toBe('flash-busy');
    expect(waited()).toBeGreaterThan(smallestErase(part).worst);
    expect(waited()).toBeLessThan(smallestErase(part).worst * 1.5);
  });

  test('a chip that does not take the command, as a protected one, is noticed at the first block', async () => {
    const { port, asked } = scripted({ status: () => 2 });
    expect(await codeOf(port)).toBe('flash-refused');
    expect(asked).toEqual([COMMAND.WRITE_ENABLE, COMMAND.ERASE_4K]);
  });

  test('a byte that reads otherwise than written is named with its address', async () => {
    const { port } = scripted({
      read: (address, length) =>
        image.slice(address, address + length).map((byte, i) => (address + i === 700 ? byte ^ 8 : byte)),
    });
    const written = await writePieces(port, part, [{ address: 0, bytes: image }], unwatched);
    expect(written.ok ? '' : written.error.message).toMatch(
      /Verify failed at 0x2BC: 0x[0-9A-F]+ should be there, 0x[0-9A-F]+ is read/,
    );
  });

  test('tells its phases in order and how far each is, and says what a cancel leaves', async () => {
    const seen: Progress[] = [];
    await writePieces(scripted({}).port, part, [{ address: 0, bytes: image }], {
      report: (progress) => void seen.push(progress),
      cancelled: () => false,
    });
    expect([...new Set(seen.map((p) => p.phase))]).toEqual(['Comparing', 'Erasing', 'Writing', 'Verifying']);
    expect(seen.every((p) => p.done >= 0 && p.done <= p.total)).toBe(true);
    const cancelled = writePieces(scripted({}).port, part, [{ address: 0, bytes: image }], {
      report: () => {},
      cancelled: () => true,
    });
    await expect(cancelled).rejects.toBeInstanceOf(ProblemError);
    await expect(
      writePieces(scripted({}).port, part, [{ address: 0, bytes: image }], { report: () => {}, cancelled: () => true }),
    ).rejects.toThrow(/The flash is as it was/);
  });

  test('pages go ahead of what the chip says; behind one that took longer they are sent once more', async () => {
    // Polls: one after the erase, then one a page; the second page is still busy, which the chip says twice.
    const { port, asked } = scripted({ status: (poll) => (poll === 2 || poll === 5 ? 1 : 0) });
    expect(await codeOf(port)).toBe('written');
    expect(asked.filter((code) => code === COMMAND.PAGE_PROGRAM)).toHaveLength(4 + 2);
  });

  test('pages that are all FF are left as erased', async () => {
    const { port, asked } = scripted({ read: (address, length) => sparse.slice(address, address + length) });
    const sparse = new Uint8Array(4096).fill(0xff);
    sparse[3000] = 0;
    const written = await writePieces(port, part, [{ address: 0, bytes: sparse }], unwatched);
    expect(written.ok && written.value.pagesWritten).toBe(1);
    expect(asked.filter((code) => code === COMMAND.PAGE_PROGRAM)).toHaveLength(1);
  });
});
