import { z } from 'zod';
import { PART_TABLE } from '../core/families/corvane/index.ts';
import { FLASH_PARTS } from '../core/flash/index.ts';
import { boardParts } from '../core/parts/index.ts';
import { readJsonFile } from '../core/json-file.ts';
import type { Result } from '../core/result.ts';
import { faultShape } from './faults.ts';

const irCapture = z.string().regex(/^0b[01]+$/, 'must be 0b and binary digits, such as 0b0001');

const generic = z
  .object({
    kind: z.literal('generic'),
    name: z.string().optional(),
    idcode: z
      .string()
      .regex(/^0x[0-9a-fA-F]{1,8}$/, 'must be 0x and up to eight hexadecimal digits')
      .nullable()
      .default(null),
    irLength: z.number().int().min(2).max(512),
    irCapture: irCapture.optional(),
  })
  .refine(
    (entry) => entry.irCapture === undefined || entry.irCapture.length - 2 <= entry.irLength,
    'irCapture has more digits than the instruction register has bits',
  );

const corvane = z
  .object({
    kind: z.literal('corvane'),
    part: z.enum(PART_TABLE.map(({ name }) => name) as [string, ...string[]]),
    /** The usual one of the part where it is not said. */
    package: z.string().optional(),
    flash: z.enum(FLASH_PARTS.map((p) => p.name) as [string, ...string[]]).optional(),
    version: z.number().int().min(0).max(15).optional(),
  })
  .refine(
    (entry) => entry.package === undefined || packagesOf(entry.part).includes(entry.package),
    'the part does not come in this package',
  );

const packagesOf = (part: string): readonly string[] => PART_TABLE.find(({ name }) => name === part)?.packages ?? [];

const device = z.discriminatedUnion('kind', [
  corvane,
  z.object({ kind: z.literal('sprig'), version: z.number().int().min(0).max(15).optional() }),
  z.object({
    kind: z.literal('marrow'),
    version: z.number().int().min(0).max(15).optional(),
    /** A flash on four of its user pins. */
    flash: z
      .object({
        part: z.enum(FLASH_PARTS.map((p) => p.name) as [string, ...string[]]),
        pins: z.object({ cs_n: z.string(), sck: z.string(), mosi: z.string(), miso: z.string() }),
      })
      .optional(),
  }),
  generic,
]);

const pinName = z.string().regex(/^\d+\.\w+$/, 'must be a place in the chain, a point and a pin, such as 1.P64');

const benchFile = z.object({
  format: z.literal('nimble-bench').default('nimble-bench'),
  version: z.literal(1).default(1),
  name: z.string().default('bench'),
  tckHz: z.number().positive().default(10_000_000),
  referenceVolts: z.number().nonnegative().default(3.3),
  /** The way of TDO from a falling edge of TCK to the pod, in nanoseconds. */
  cableNanoseconds: z.number().nonnegative().default(18),
  /** From the device nearest TDO to the one nearest TDI. */
  chain: z.array(device).max(200),
  /** Copper between pins of devices. */
  nets: z.array(z.object({ name: z.string(), pins: z.array(pinName).min(1) })).default([]),
  board: boardParts.default(() => boardParts.parse({})),
  /** What is wrong from the start. */
  faults: z.array(faultShape).default([]),
});

/** What stands on a bench. docs/formats.md, section 4 */
export type BenchFile = z.infer<typeof benchFile>;

export const readBenchFile = (text: string, name: string): Result<BenchFile> =>
  readJsonFile(benchFile, { code: 'bench-file', section: 4 }, name, text);
