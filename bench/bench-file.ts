import { z } from 'zod';
import { PARTS } from '../core/fabric/index.ts';
import { FLASH_PARTS } from '../core/flash/index.ts';
import { fail, ok, problem, type Result } from '../core/result.ts';

const control = z.object({ name: z.string(), label: z.string().optional(), pin: z.string(), active: z.boolean().optional() });

const board = z.object({
  fpga: z.number().int().nonnegative(),
  /** Supply of each bank of the FPGA in volts: what its pins drive to, and what parts on them are driven with. */
  banks: z.record(z.string(), z.number().positive()).default({}),
  oscillators: z.array(z.object({ name: z.string(), pin: z.string(), hz: z.number().positive() })),
  lamps: z.array(control).default([]),
  buttons: z.array(control).default([]),
  switches: z.array(control.extend({ on: z.boolean().optional() })).default([]),
  digits: z
    .object({ commons: z.array(z.string()), segments: z.array(z.string()).length(8), commonActive: z.boolean().optional(), segmentActive: z.boolean().optional() })
    .optional(),
});

const device = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('corvane'), part: z.enum(PARTS.map((p) => p.name) as [string, ...string[]]), flash: z.enum(FLASH_PARTS.map((p) => p.name) as [string, ...string[]]).optional() }),
  z.object({ kind: z.literal('sprig') }),
]);

const benchFile = z.object({
  format: z.literal('nimble-bench'),
  version: z.literal(1),
  name: z.string(),
  tckHz: z.number().positive().default(10_000_000),
  referenceVolts: z.number().nonnegative().default(3.3),
  /** From the device nearest TDO to the one nearest TDI. */
  chain: z.array(device).min(1),
  board,
});

/** What stands on a bench. docs/formats.md, section 4 */
export type BenchFile = z.infer<typeof benchFile>;

export function readBenchFile(text: string, name: string): Result<BenchFile> {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem('bench-file', `${name} is no JSON: ${(error as Error).message}.`, 'Compare it with docs/formats.md, section 4.'));
  }
  const read = benchFile.safeParse(data);
  if (read.success) return ok(read.data);
  const [first] = read.error.issues;
  return fail(problem('bench-file', `${name}: ${first?.path.join('.') || 'the file'}: ${first?.message ?? 'not as expected'}.`, 'Compare it with docs/formats.md, section 4.'));
}
