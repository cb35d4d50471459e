import { z } from 'zod';
import { crc32 } from '../bits/index.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { StreamFor } from './family.ts';
import { FAMILIES, partNamed } from './lookup.ts';

/** A built design as it travels in a `.nbits` file: what it is for, and the stream that configures the part. */
export interface Bitstream extends StreamFor {
  /** Case that its pins belong to; null in a file of version 1, which does not say. */
  readonly package: string | null;
  readonly top: string;
}

const MAGIC = [0x4e, 0x42, 0x49, 0x54, 0x53, 0x00]; // "NBITS", 0
const VERSION = 2;
/** Version 2 added the package. */
const VERSIONS: readonly number[] = [1, VERSION];
const FIXED = 12;
const LONGEST_HEADER = 1 << 16;

/** docs/formats.md, section 1 */
export function writeBitstream({ part, package: packageName, top, fingerprint, stream }: Bitstream): Uint8Array {
  const header = new TextEncoder().encode(
    JSON.stringify({ part, package: packageName, top, fingerprint, streamBytes: stream.length }),
  );
  const bytes = new Uint8Array(FIXED + header.length + 4 + stream.length);
  const view = new DataView(bytes.buffer);
  bytes.set(MAGIC);
  view.setUint16(6, VERSION);
  view.setUint32(8, header.length);
  bytes.set(header, FIXED);
  view.setUint32(FIXED + header.length, crc32(bytes.subarray(0, FIXED + header.length)));
  bytes.set(stream, FIXED + header.length + 4);
  return bytes;
}

/**
 * Reads a file's envelope. The stream itself is not checked here: that is the part's own business, and it reports it.
 */
export function readBitstream(bytes: Uint8Array, families = FAMILIES): Result<Bitstream, Problem> {
  if (!MAGIC.every((byte, i) => bytes[i] === byte)) return fail(problem('not-a-bitstream'));
  if (bytes.length < FIXED) return fail(truncated(bytes.length, FIXED));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const version = view.getUint16(6);
  if (!VERSIONS.includes(version))
    return fail(problem('bitstream-version', { version, versions: VERSIONS.join(' and ') }));
  const headerLength = view.getUint32(8);
  const start = FIXED + headerLength + 4;
  if (headerLength > LONGEST_HEADER) return fail(damaged());
  if (bytes.length < start) return fail(truncated(bytes.length, start));
  if (crc32(bytes.subarray(0, FIXED + headerLength)) !== view.getUint32(FIXED + headerLength)) return fail(damaged());
  const header = readHeader(bytes.subarray(FIXED, FIXED + headerLength));
  if (!header) return fail(damaged());
  if (bytes.length < start + header.streamBytes) return fail(truncated(bytes.length, start + header.streamBytes));
  if (!partNamed(header.part, families)) return fail(problem('unknown-part', { part: header.part }));
  return ok({
    part: header.part,
    package: header.package,
    top: header.top,
    fingerprint: header.fingerprint,
    stream: bytes.slice(start, start + header.streamBytes),
  });
}

const headerShape = z.object({
  part: z.string(),
  package: z.string().nullable().default(null),
  top: z.string(),
  fingerprint: z.string(),
  streamBytes: z.number().int().nonnegative(),
});

function readHeader(bytes: Uint8Array): z.infer<typeof headerShape> | null {
  try {
    return headerShape.safeParse(JSON.parse(new TextDecoder().decode(bytes))).data ?? null;
  } catch {
    return null;
  }
}

const truncated = (have: number, want: number): Problem => problem('bitstream-truncated', { have, want });

const damaged = (): Problem => problem('bitstream-damaged');
