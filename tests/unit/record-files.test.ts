// Intel HEX and S-record against a second independent implementation: objcopy of the GNU binutils, from Debian's
// registry (it comes with the compiler that installing needs anyway). The first one, the package intel-hex, is in
// core/images.
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { flatBytes, imageOf, readImage, writeImage } from '../../core/images/index.ts';

const folder = mkdtempSync(join(tmpdir(), 'nimble-records-'));
const at = (name: string) => join(folder, name);
const present = spawnSync('objcopy', ['--version']).status === 0;
afterAll(() => rmSync(folder, { recursive: true }));

const FORMATS = [
  ['intel-hex', 'ihex'],
  ['s-record', 'srec'],
] as const;

describe.runIf(present)('beside objcopy', () => {
  test.each(FORMATS)('what we write in %s is read there as the same bytes', (format, theirs) => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 70_000 }), (bytes) => {
        const written = writeImage(imageOf(bytes), format, []);
        if (!written.ok) throw new Error(written.error.message);
        writeFileSync(at('ours'), written.value);
        execFileSync('objcopy', ['-I', theirs, '-O', 'binary', at('ours'), at('theirs.bin')]);
        expect(readFileSync(at('theirs.bin')).equals(Buffer.from(bytes))).toBe(true);
      }),
      { numRuns: 8 },
    );
  });

  test.each(FORMATS)('what is written there in %s, at an address beyond 64 KiB, is read here', (format, theirs) => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 70_000 }), fc.nat(0xffffff), (bytes, start) => {
        writeFileSync(at('plain.bin'), bytes);
        execFileSync('objcopy', [
          '-I',
          'binary',
          '-O',
          theirs,
          `--change-addresses=${start}`,
          at('plain.bin'),
          at('theirs'),
        ]);
        const read = readImage(new Uint8Array(readFileSync(at('theirs'))), []);
        expect(read).toMatchObject({ format, valid: true });
        expect(read.image.segments[0]?.start).toBe(start);
        expect(Buffer.from(flatBytes(read.image, 0xff)).subarray(start).equals(Buffer.from(bytes))).toBe(true);
      }),
      { numRuns: 8 },
    );
  });
});

test('objcopy is where it can be', () => {
  expect(present || process.platform !== 'linux').toBe(true);
});
