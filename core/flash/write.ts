import { stopIfCancelled, type Watch } from '../progress.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { COMMAND, PAGE_BYTES, STATUS_BUSY, STATUS_WRITE_ENABLED, withAddress } from './commands.ts';
import type { FlashPart } from './identity.ts';
import type { SpiPort } from './port.ts';

export interface WriteReport {
  readonly sectorsErased: number;
  readonly pagesWritten: number;
  readonly verified: boolean;
}

const READ_CHUNK = 1 << 15;

/** The phase in which what the chip held is lost. */
export const ERASING = 'Erasing';

/**
 * Erases the blocks an image covers, programs its pages, reads everything back and compares. `address` must be the start of a
 * block. Content of the last block behind the image is lost.
 */
export async function writeFlash(port: SpiPort, part: FlashPart, address: number, image: Uint8Array, watch: Watch): Promise<Result<WriteReport>> {
  if (address % part.erase.bytes !== 0) return fail(problem('flash-alignment', `Address ${hex(address)} is not the start of an erase block of ${part.erase.bytes / 1024} KiB.`, 'Choose a multiple of the block size.'));
  if (address + image.length > part.bytes) return fail(problem('flash-too-large', `The image ends at ${hex(address + image.length)}, the chip at ${hex(part.bytes)}. Nothing was erased.`, 'Choose a smaller image or a larger chip.'));
  const erased = await eraseBlocks(port, part, address, image.length, watch);
  if (!erased.ok) return erased;
  const written = await programPages(port, part, address, image, watch);
  if (!written.ok) return written;
  const verified = await verify(port, address, image, watch);
  if (!verified.ok) return verified;
  return ok({ sectorsErased: erased.value, pagesWritten: written.value, verified: true });
}

async function eraseBlocks(port: SpiPort, part: FlashPart, address: number, length: number, watch: Watch): Promise<Result<number>> {
  const blocks = Math.ceil(length / part.erase.bytes);
  for (let block = 0; block < blocks; block++) {
    stopIfCancelled(watch, `${block} of ${blocks} blocks are erased; the old image is gone.`);
    const at = address + block * part.erase.bytes;
    watch.report({ phase: ERASING, done: block * part.erase.bytes, total: blocks * part.erase.bytes, unit: 'B' });
    const ready = await changing(port, withAddress(part.erase.command, at), part.erase.typical, part.erase.worst, `erasing at ${hex(at)}`);
    if (!ready.ok) return ready;
  }
  return ok(blocks);
}

async function programPages(port: SpiPort, part: FlashPart, address: number, image: Uint8Array, watch: Watch): Promise<Result<number>> {
  let written = 0;
  for (let at = 0; at < image.length; at += PAGE_BYTES) {
    const page = image.subarray(at, at + PAGE_BYTES);
    if (page.every((byte) => byte === 0xff)) continue;
    stopIfCancelled(watch, `${at} of ${image.length} bytes are written; the board will not boot from this image.`);
    watch.report({ phase: 'Writing', done: at, total: image.length, unit: 'B' });
    const command = new Uint8Array(4 + page.length);
    command.set(withAddress(COMMAND.PAGE_PROGRAM, address + at));
    command.set(page, 4);
    const ready = await changing(port, command, part.page.typical, part.page.worst, `programming at ${hex(address + at)}`);
    if (!ready.ok) return ready;
    port.countSent(page.length);
    written++;
  }
  return ok(written);
}

/** Write enable, a command that changes the chip, then status until it is no longer busy or its worst time has passed. */
async function changing(port: SpiPort, command: Uint8Array, typical: number, worst: number, what: string): Promise<Result<null>> {
  port.send(Uint8Array.of(COMMAND.WRITE_ENABLE));
  port.send(command);
  let waited = typical;
  port.wait(typical);
  for (;;) {
    const [status = 0xff] = await port.exchange(Uint8Array.of(COMMAND.READ_STATUS), 1);
    if ((status & STATUS_BUSY) === 0) {
      if ((status & STATUS_WRITE_ENABLED) === 0) return ok(null);
      return fail(problem('flash-refused', `The chip did not carry out ${what}: it is still enabled for writing.`, 'The area may be protected. Check the protection bits and the write-protect pin.'));
    }
    if (waited > worst) return fail(problem('flash-busy', `The chip was still busy ${Math.round(waited / 1000)} ms after ${what}; its worst time is ${Math.round(worst / 1000)} ms.`, 'Power-cycle the board and write again.', 'If it happens at the same address again, the block is worn out.'));
    const step = Math.max(20, Math.round(typical / 8));
    port.wait(step);
    waited += step;
  }
}

async function verify(port: SpiPort, address: number, image: Uint8Array, watch: Watch): Promise<Result<null>> {
  for (let at = 0; at < image.length; at += READ_CHUNK) {
    stopIfCancelled(watch, 'The image is written but not verified.');
    watch.report({ phase: 'Verifying', done: at, total: image.length, unit: 'B' });
    const expected = image.subarray(at, at + READ_CHUNK);
    const actual = await readFlash(port, address + at, expected.length);
    const wrong = expected.findIndex((byte, i) => byte !== actual[i]);
    if (wrong >= 0)
      return fail(problem('flash-verify', `Verify failed at ${hex(address + at + wrong)}: ${hex(expected[wrong] as number)} was written, ${hex(actual[wrong] as number)} is read.`, 'Write again.', 'If the same address fails again, the block is bad.'));
  }
  return ok(null);
}

export const readFlash = (port: SpiPort, address: number, length: number): Promise<Uint8Array> => port.exchange(withAddress(COMMAND.READ, address), length);

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
