import { byteAt, item } from '../lists.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { COMMAND, PAGE_BYTES, STATUS_BUSY, STATUS_WRITE_ENABLED, withAddress } from './commands.ts';
import type { FlashPart } from './identity.ts';
import { joinPlans, type Piece, planPieces, stretchesOf, type WritePlan } from './plan.ts';
import type { SpiPort } from './port.ts';

export interface WriteReport {
  /** Blocks erased, of whatever size. */
  readonly sectorsErased: number;
  readonly pagesWritten: number;
  /** Sectors that held the right bytes already. */
  readonly sectorsKept: number;
  readonly verified: boolean;
}

/** A stretch is read in pieces of about a tenth of a second, within these bounds. */
const READ_SECONDS = 0.1;
const [LEAST_CHUNK, MOST_CHUNK] = [1 << 10, 1 << 16];
/** Pages that are sent without waiting for what the chip says of the first. */
const MOST_AHEAD = 16;
const AHEAD_SECONDS = 0.3;
const UNIQUE_ID_BYTES = 8;

/** The phase in which what the chip held is lost. */
export const ERASING = 'Erasing';
/** The phase in which it is overwritten, where nothing had to be erased. */
export const WRITING = 'Writing';

/**
 * What writing pieces would do, after reading the sectors they touch, but for what is `known` to stand there. Changes
 * nothing.
 */
export async function planWriting(
  port: SpiPort,
  part: FlashPart,
  pieces: readonly Piece[],
  watch: Watch,
  known: Piece | null = null,
): Promise<Result<WritePlan>> {
  const outside = pieces.find(({ address, bytes }) => address < 0 || address + bytes.length > part.bytes);
  if (outside)
    return fail(
      problem('flash-too-large', { address: hex(outside.address + outside.bytes.length), bytes: hex(part.bytes) }),
    );
  const stretches = stretchesOf(part, pieces);
  const total = stretches.reduce((sum, { length }) => sum + length, 0);
  const plans: WritePlan[] = [];
  let read = 0;
  for (const stretch of stretches) {
    const before = read;
    const isKnown =
      known !== null &&
      stretch.start >= known.address &&
      stretch.start + stretch.length <= known.address + known.bytes.length;
    const current = isKnown
      ? known.bytes.slice(stretch.start - known.address, stretch.start - known.address + stretch.length)
      : await readWatched(port, stretch.start, stretch.length, 'Comparing', {
          ...watch,
          report: (progress) => watch.report({ ...progress, done: before + progress.done, total }),
        });
    plans.push(planPieces(part, pieces, stretch, current));
    read += stretch.length;
  }
  return ok(joinPlans(part, plans));
}

/**
 * Reads the sectors that pieces touch, erases and programs only those that differ, reads them back and compares. What
 * shares a sector with a piece is written back as it was. Broken off anywhere, the same call goes on: what stands
 * already is found equal.
 */
export async function writePieces(
  port: SpiPort,
  part: FlashPart,
  pieces: readonly Piece[],
  watch: Watch,
): Promise<Result<WriteReport>> {
  const plan = await planWriting(port, part, pieces, watch);
  return plan.ok ? carryOut(port, part, plan.value, pieces, watch) : plan;
}

/** Carries a plan out, then verifies the pieces, if anything was to be done. */
export async function carryOut(
  port: SpiPort,
  part: FlashPart,
  plan: WritePlan,
  pieces: readonly Piece[],
  watch: Watch,
): Promise<Result<WriteReport>> {
  const erased = await eraseBlocks(port, plan.erases, watch);
  if (!erased.ok) return erased;
  const written = await programPages(port, part, plan.pages, watch);
  if (!written.ok) return written;
  const changed = plan.erases.length + plan.pages.length > 0;
  const verified = changed ? await verifyPieces(port, pieces, watch) : ok(null);
  if (!verified.ok) return verified;
  return ok({
    sectorsErased: plan.erases.length,
    pagesWritten: plan.pages.length,
    sectorsKept: plan.sectors.filter((sector) => sector.action === 'keep').length,
    verified: true,
  });
}

export async function eraseBlocks(port: SpiPort, erases: WritePlan['erases'], watch: Watch): Promise<Result<number>> {
  const total = erases.reduce((sum, { type }) => sum + type.bytes, 0);
  let done = 0;
  for (const [i, { address, type }] of erases.entries()) {
    stopIfCancelled(
      watch,
      `${i} of ${erases.length} blocks are erased; what they held is gone. Writing again goes on from there.`,
    );
    watch.report({ phase: ERASING, done, total, unit: 'B' });
    await watch.beforeChange?.();
    const ready = await changing(
      port,
      withAddress(type.command, address),
      type.typical,
      type.worst,
      `erasing at ${hex(address)}`,
    );
    if (!ready.ok) return ready;
    done += type.bytes;
  }
  return ok(erases.length);
}

async function programPages(
  port: SpiPort,
  part: FlashPart,
  pages: WritePlan['pages'],
  watch: Watch,
): Promise<Result<null>> {
  const total = pages.length * PAGE_BYTES;
  const { typical, worst } = part.page;
  const most = Math.max(1, Math.min(MOST_AHEAD, Math.floor((port.bitsPerSecond * AHEAD_SECONDS) / (PAGE_BYTES * 8))));
  for (let at = 0; at < pages.length; ) {
    stopIfCancelled(
      watch,
      `${at} of ${pages.length} pages are written; this image is not whole. Writing again goes on from there.`,
    );
    watch.report({ phase: WRITING, done: at * PAGE_BYTES, total, unit: 'B' });
    await watch.beforeChange?.();
    const some = pages.slice(at, at + most);
    const states = some.map((page) => programLater(port, page, typical));
    await port.flush();
    for (const [i, { address, data }] of some.entries()) {
      const [status = 0xff] = await item(states, i);
      const what = `programming at ${hex(address)}`;
      const isBusy = (status & STATUS_BUSY) !== 0;
      const ready = isBusy ? await settled(port, typical, worst, what) : taken(status, what);
      if (!ready.ok) return ready;
      port.countSent(data.length);
      at++;
      // A chip that is busy does not hear what was sent meanwhile: the pages behind are sent once more.
      if (isBusy) break;
    }
  }
  return ok(null);
}

/** Queues one page, the time it takes, and a look whether it is done. */
function programLater(
  port: SpiPort,
  { address, data }: WritePlan['pages'][number],
  typical: number,
): Promise<Uint8Array> {
  const command = new Uint8Array(4 + data.length);
  command.set(withAddress(COMMAND.PAGE_PROGRAM, address));
  command.set(data, 4);
  port.send(Uint8Array.of(COMMAND.WRITE_ENABLE));
  port.send(command);
  port.wait(typical);
  return port.later(Uint8Array.of(COMMAND.READ_STATUS), 1);
}

const chunkOf = ({ bitsPerSecond }: SpiPort): number =>
  Math.max(LEAST_CHUNK, Math.min(MOST_CHUNK, 2 ** Math.floor(Math.log2((bitsPerSecond * READ_SECONDS) / 8))));

/** Reads a long stretch in pieces, with progress. */
export async function readWatched(
  port: SpiPort,
  address: number,
  length: number,
  phase: string,
  watch: Watch,
): Promise<Uint8Array> {
  const out = new Uint8Array(length);
  const chunk = chunkOf(port);
  for (let at = 0; at < length; at += chunk) {
    stopIfCancelled(watch, 'The flash is as it was.');
    watch.report({ phase, done: at, total: length, unit: 'B' });
    out.set(await readFlash(port, address + at, Math.min(chunk, length - at)), at);
  }
  return out;
}

/**
 * Write enable, a command that changes the chip, then status until it is no longer busy or its worst time has passed.
 */
async function changing(
  port: SpiPort,
  command: Uint8Array,
  typical: number,
  worst: number,
  what: string,
): Promise<Result<null>> {
  port.send(Uint8Array.of(COMMAND.WRITE_ENABLE));
  port.send(command);
  port.wait(typical);
  const [status = 0xff] = await port.exchange(Uint8Array.of(COMMAND.READ_STATUS), 1);
  return (status & STATUS_BUSY) === 0 ? taken(status, what) : settled(port, typical, worst, what);
}

/** Asks a busy chip until it is done, or its worst time has passed; its typical time has. */
async function settled(port: SpiPort, typical: number, worst: number, what: string): Promise<Result<null>> {
  const step = Math.max(20, Math.round(typical / 8));
  for (let waited = typical + step; ; waited += step) {
    port.wait(step);
    const [status = 0xff] = await port.exchange(Uint8Array.of(COMMAND.READ_STATUS), 1);
    if ((status & STATUS_BUSY) === 0) return taken(status, what);
    if (waited > worst)
      return fail(problem('flash-busy', { waited: Math.round(waited / 1000), what, worst: Math.round(worst / 1000) }));
  }
}

/** Whether a chip that is not busy has carried the command out: one that did not is still enabled for writing. */
function taken(status: number, what: string): Result<null> {
  if ((status & STATUS_WRITE_ENABLED) === 0) return ok(null);
  return fail(problem('flash-refused', { what }));
}

/**
 * Reads pieces back and compares. Of two that overlap, the later one counts; the caller has seen to it that none do.
 */
export async function verifyPieces(port: SpiPort, pieces: readonly Piece[], watch: Watch): Promise<Result<null>> {
  const total = pieces.reduce((sum, { bytes }) => sum + bytes.length, 0);
  let done = 0;
  const chunk = chunkOf(port);
  for (const { address, bytes } of pieces)
    for (let at = 0; at < bytes.length; at += chunk) {
      stopIfCancelled(watch, 'What the flash holds was not compared to its end.');
      watch.report({ phase: 'Verifying', done, total, unit: 'B' });
      const expected = bytes.subarray(at, at + chunk);
      const actual = await readFlash(port, address + at, expected.length);
      const wrong = expected.findIndex((byte, i) => byte !== actual[i]);
      if (wrong >= 0)
        return fail(
          problem('flash-verify', {
            address: hex(address + at + wrong),
            expected: hex(byteAt(expected, wrong)),
            actual: hex(byteAt(actual, wrong)),
          }),
        );
      done += expected.length;
    }
  return ok(null);
}

/**
 * Eight bytes that tell this chip from all others of its kind; null where the chip has none. Opcode 4B, four dummy
 * bytes: common practice.
 */
export async function readUniqueId(port: SpiPort): Promise<string | null> {
  const bytes = await port.exchange(Uint8Array.of(COMMAND.UNIQUE_ID, 0, 0, 0, 0), UNIQUE_ID_BYTES);
  const silent = bytes.every((byte) => byte === 0xff) || bytes.every((byte) => byte === 0);
  return silent ? null : [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}

export const readFlash = (port: SpiPort, address: number, length: number): Promise<Uint8Array> =>
  port.exchange(withAddress(COMMAND.READ, address), length);

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
