import { chainOn } from '../tests/support/chain-on.ts';
import { planWriting, writePieces } from '../core/flash/index.ts';
// Flash faults of the bench: each is refused or told before more is lost.
import referenceCrc from 'crc-32';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { readBitstream } from '../core/families/index.ts';
import {
  blankCheck,
  crcOfFlash,
  eraseFlash,
  fillFlash,
  keepBitstream,
  reachFlash,
  readFromFlash,
  verifyFlash,
} from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import type { FaultName } from './faults.ts';

const opened = readBitstream(builtDemo().bitstream);
if (!opened.ok) throw new Error(opened.error.message);
const bitstream = opened.value;

async function reached(fault?: FaultName) {
  const { bench, cable } = lockhouse();
  if (fault) bench.setFault({ name: fault }, true);
  return { bench, cable, flash: await reachFlash(chainOn(cable), null) };
}

describe('a chip is asked first', () => {
  test('its identity, its own table, its status, and where the FPGA boots from', async () => {
    const { flash } = await reached();
    expect(flash.ok && flash.value).toMatchObject({
      device: 1,
      bootSource: 'flash',
      isProtected: false,
      part: { name: 'LR32' },
      parameters: { bytes: 4 << 20, revision: '1.6' },
    });
    if (flash.ok) expect(flash.value.parameters?.erases).toEqual(flash.value.part.erases);
  });
  test.each<[FaultName, string]>([
    ['flash-wrong-maker', 'flash-disagrees'],
    ['flash-protected', 'flash-protected'],
    ['flash-busy', 'flash-busy'],
  ])('%s ends in %s, and nothing was changed', async (fault, code) => {
    const { bench, cable } = await reached(fault);
    const kept = await keepBitstream(chainOn(cable), bitstream, null, unwatched);
    expect(kept.ok ? 'kept' : kept.error.code).toBe(code);
    if (fault !== 'flash-busy') expect(bench.flashChanges).toBe(0);
  });
  test('a bad sector is found by the verify and named', async () => {
    const { cable } = await reached('flash-bad-sector');
    const kept = await keepBitstream(chainOn(cable), bitstream, null, unwatched);
    expect(!kept.ok && kept.error).toMatchObject({
      code: 'flash-verify',
      message: expect.stringMatching(/0x2345/) as string,
    });
  });
  test('a device without a flash, and a part that is not there, are refused', async () => {
    const { cable } = lockhouse();
    expect(await reachFlash(chainOn(cable), 0)).toMatchObject({ ok: false, error: { code: 'flash-silent' } });
    expect(await reachFlash(chainOn(cable), null, 'CV60')).toMatchObject({
      ok: false,
      error: { code: 'part-not-in-chain' },
    });
    expect(await reachFlash(chainOn(cable), 0, 'CV25')).toMatchObject({ ok: false, error: { code: 'wrong-part' } });
  });
});

describe('one step at a time', () => {
  test('plan, write, verify, read, erase, blank; unchanged content costs the compare alone', async () => {
    const { bench, flash } = await reached();
    if (!flash.ok) throw new Error(flash.error.message);
    const chip = flash.value;
    const image = bitstream.stream.subarray(0, 20_000);
    const plan = await planWriting(chip.port, chip.part, [{ address: 0, bytes: image }], unwatched);
    expect(plan.ok && plan.value.erases).toEqual([]);
    expect(bench.flashChanges).toBe(0);
    expect(await writePieces(chip.port, chip.part, [{ address: 0, bytes: image }], unwatched)).toMatchObject({
      ok: true,
      value: { verified: true, sectorsErased: 0 },
    });
    expect(await verifyFlash(chip, [{ address: 0, bytes: image }], unwatched)).toMatchObject({ ok: true });
    expect(await readFromFlash(chip, 100, 50, unwatched)).toEqual({ ok: true, value: image.slice(100, 150) });
    const changes = bench.flashChanges;
    const before = chip.counts();
    expect(await writePieces(chip.port, chip.part, [{ address: 0, bytes: image }], unwatched)).toMatchObject({
      ok: true,
      value: { sectorsErased: 0, pagesWritten: 0, sectorsKept: 5 },
    });
    expect(bench.flashChanges).toBe(changes);
    const after = chip.counts();
    expect((after.tckCycles - before.tckCycles) / (after.payloadBits - before.payloadBits)).toBeLessThanOrEqual(1.03);
    expect(await blankCheck(chip, 0, 4096, unwatched)).not.toEqual({ ok: true, value: null });
    expect(await eraseFlash(chip, 100, 4096, unwatched)).toMatchObject({
      ok: false,
      error: { code: 'flash-alignment' },
    });
    expect(await eraseFlash(chip, 0, 4096, unwatched)).toEqual({ ok: true, value: { sectorsErased: 1 } });
    expect(await blankCheck(chip, 0, 4096, unwatched)).toEqual({ ok: true, value: null });
    expect(await fillFlash(chip, 10, 300, 0x5a, unwatched)).toMatchObject({
      ok: true,
      value: { sectorsErased: 0, pagesWritten: 2 },
    });
    // CRC-32/ISO-HDLC of 300 bytes 5A, from the reference library crc-32.
    expect(await crcOfFlash(chip, 10, 300, unwatched)).toEqual({
      ok: true,
      value: (referenceCrc.buf(new Uint8Array(300).fill(0x5a)) >>> 0).toString(16).padStart(8, '0'),
    });
    expect(await eraseFlash(chip, 4 << 20, 4096, unwatched)).toMatchObject({
      ok: false,
      error: { code: 'flash-too-large' },
    });
  });
});
