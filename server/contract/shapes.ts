import { z } from 'zod';
import { WHOLE_NUMBER } from '../../core/build/index.ts';

const place = z.number().int().min(0).max(200);

/** What goes where. */
export const loadStep = z.object({
  device: place.nullable(),
  source: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('build') }),
    z.object({ kind: z.literal('image'), id: z.number().int() }),
  ]),
});

const stretch = { address: z.number().int().min(0).max(0xffffff), length: z.number().int().min(1).max(0x1000000) };

/** One thing done to the flash by itself. */
export const flashStep = z.discriminatedUnion('what', [
  z.object({ what: z.enum(['blank', 'erase', 'read', 'crc']), ...stretch }),
  z.object({ what: z.literal('fill'), ...stretch, byte: z.number().int().min(0).max(255) }),
  z.object({ what: z.literal('verify') }),
]);

/** One side of a comparison. */
export const compareSource = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('flash') }),
  z.object({ kind: z.literal('chosen') }),
  z.object({ kind: z.literal('image'), id: z.number().int() }),
]);

/** Parameters of a testbench, or of the top module: whole numbers, decimal or with 0x or 0b before them. */
export const simulationParameters = z.record(
  z.string().regex(/^[A-Za-z_]\w{0,200}$/),
  z.string().max(2000).regex(WHOLE_NUMBER),
);

/** A table of vectors of the project, and what it is for. */
export const tableChoice = z.object({
  file: z.string().min(1).max(200),
  clock: z.string().max(500).optional(),
  instance: z.string().max(500).optional(),
});
