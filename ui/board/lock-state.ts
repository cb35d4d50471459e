import { z } from 'zod';

const motors = z.object({
  sluiceUpper: z.boolean(),
  sluiceLower: z.boolean(),
  gateUpper: z.boolean(),
  gateLower: z.boolean(),
  wide: z.boolean(),
});

/** Levels in centimetres above the lower pond; `surge` is the last gate that opened at unequal levels. */
export const canalLock = z.object({
  chamber: z.number(),
  pond: z.number().positive(),
  motors,
  surge: z
    .object({
      gate: z.enum(['upper', 'lower']),
      differenceCentimetres: z.number(),
      calmSince: z.number(),
    })
    .nullable(),
});

export type LockState = z.infer<typeof canalLock>;
