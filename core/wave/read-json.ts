// A capture that was written as JSON, read again.
import { z } from 'zod';
import { otherVersion } from '../json-file.ts';
import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import type { ReadAt } from './capture.ts';
import { problem } from './problems.ts';
import type { Gap, Recording } from './recording.ts';
import { TraceWriter, wordsOf } from './trace.ts';

/** More than any recorder holds. */
const MOST_SAMPLES = 1 << 20;
const MOST_PARTS = 1 << 12;

const captureFile = z.object({
  format: z.literal('nimble-capture'),
  version: z.literal(1),
  recorder: z.string(),
  fingerprint: z.string(),
  sources: z.string().optional(),
  samples: z.number().int().nonnegative().max(MOST_SAMPLES),
  sampleRate: z.number().positive(),
  triggerIndex: z.number().int().nonnegative().default(0),
  segments: z.number().int().positive().max(MOST_PARTS).optional(),
  segmentSize: z.number().int().positive().optional(),
  stampAt: z.number().int().nonnegative().optional(),
  /** Samples before which some were not stored, with how many clocks; null where nobody knows. */
  gaps: z.array(z.tuple([z.number().int().positive(), z.number().int().positive().nullable()])).optional(),
  plan: z
    .object({ synchronised: z.array(z.string()).optional(), atTrigger: z.array(z.string()).optional() })
    .optional(),
  readings: z
    .array(
      z.object({
        sample: z.number().int().nonnegative(),
        how: z.enum(['trigger', 'standing']),
        values: z.record(z.string(), z.string().regex(/^\d+$/)),
      }),
    )
    .optional(),
  levers: z.array(z.object({ signal: z.string(), value: z.string(), overrides: z.boolean() })).optional(),
  signals: z.array(
    z.object({
      name: z.string().min(1),
      width: z
        .number()
        .int()
        .min(1)
        .max(1 << 16),
      signed: z.boolean().default(false),
      domain: z.string().default(''),
      names: z.record(z.string(), z.string()).optional(),
      changes: z.array(z.tuple([z.number().int().nonnegative(), z.string().regex(/^-?\d+$|^[01xz]+$/)])),
    }),
  ),
});

/** What a capture says of itself, with its samples as a record. */
export interface ReadCapture {
  readonly recording: Recording;
  readonly fingerprint: string;
  /** Digest of the design that it was taken from, whatever was inserted; null where that was not kept. */
  readonly sources: string | null;
  readonly levers: readonly { readonly signal: string }[];
  readonly readings: readonly ReadAt[];
  /** Signals that its recorder reads once: without readings, at a sample that is not among those of the capture. */
  readonly atTrigger: readonly string[];
  /** Signals that came in through registers of the recorder: their values are late. */
  readonly synchronised: readonly string[];
}

/** Reads what `writeJson` writes. docs/formats.md, section 6 */
export function readCaptureJson(file: string, text: string): Result<ReadCapture> {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem('capture-file', { file, why: error instanceof Error ? error.message : '' }));
  }
  const read = captureFile.safeParse(data);
  if (!read.success) {
    const version = otherVersion(data, read.error);
    const [issue] = read.error.issues;
    const why =
      version === null ? `${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}` : `it is of version ${version}`;
    return fail(problem('capture-file', { file, why }));
  }
  const { signals, samples, fingerprint, sources, levers = [], readings = [], plan } = read.data;
  for (const { name, changes } of signals)
    for (const [i, [sample]] of changes.entries()) {
      const before = changes[i - 1];
      if (sample >= samples || (before && sample <= before[0]))
        return fail(
          problem('capture-file', { file, why: `${name}: sample ${sample} is out of order or beyond the end` }),
        );
    }
  return ok({
    recording: recordingOf(read.data),
    fingerprint,
    sources: sources ?? null,
    levers,
    readings,
    atTrigger: plan?.atTrigger ?? [],
    synchronised: plan?.synchronised ?? [],
  });
}

function recordingOf(read: z.infer<typeof captureFile>): Recording {
  const { samples, sampleRate, triggerIndex, segments = 1, signals } = read;
  const size = read.segmentSize ?? Math.max(1, Math.floor(samples / segments));
  const missing = new Map(gapsOf(read, size));
  const ticks = new Float64Array(samples);
  const gaps: Gap[] = [];
  for (let i = 1; i < samples; i++) {
    const before = ticks[i - 1] ?? 0;
    const apart = missing.get(i);
    if (apart === undefined) {
      ticks[i] = before + 1;
      continue;
    }
    // What nobody knows the length of is shown as one tick.
    ticks[i] = before + 1 + (apart ?? 1);
    gaps.push({
      ...{ from: before + 1, to: ticks[i] ?? 0, ticks: apart },
      ...(i % size === 0 ? { why: 'segments' as const } : {}),
    });
  }
  return {
    title: read.recorder,
    tickSeconds: 1 / sampleRate,
    length: (ticks[samples - 1] ?? -1) + 1,
    triggers: Array.from({ length: segments }, (_, i) => ticks[i * size + triggerIndex] ?? 0),
    gaps,
    stored: gaps.length > 0 ? ticks : null,
    sampled: true,
    traces: signals.map(({ changes, width, names, ...about }) => {
      const writer = new TraceWriter(width);
      for (const [sample, value] of changes) {
        const { bits, unknown } = wordsIn(value, width);
        writer.add(item(ticks, sample), bits, unknown);
      }
      return writer.finish({ ...about, width, ...(names ? { names } : {}) });
    }),
  };
}

/** Files of before gaps were written say of one with time stamps only that there may be some everywhere. */
function gapsOf({ gaps, stampAt, samples }: z.infer<typeof captureFile>, size: number): [number, number | null][] {
  if (gaps) return gaps;
  return Array.from({ length: samples }, (_, i) => i).flatMap((i): [number, number | null][] =>
    i > 0 && (stampAt !== undefined || i % size === 0) ? [[i, null]] : [],
  );
}

/** Decimal, or as many digits as there are bits where some of them are not known. */
function wordsIn(text: string, width: number): { readonly bits: number[]; readonly unknown: number[] | null } {
  const isDigits = /[xz]/.test(text);
  const of = (value: bigint) =>
    Array.from({ length: wordsOf(width) }, (_, i) => Number(BigInt.asUintN(32, value >> BigInt(32 * i))));
  if (!isDigits) return { bits: of(BigInt.asUintN(width, BigInt(text))), unknown: null };
  return {
    bits: of(BigInt(`0b${text.replaceAll('x', '0').replaceAll('z', '1')}`)),
    unknown: of(BigInt(`0b${text.replaceAll(/[01]/g, '0').replaceAll(/[xz]/g, '1')}`)),
  };
}
