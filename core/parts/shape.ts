import { z } from 'zod';

const control = z.object({
  name: z.string(),
  label: z.string().optional(),
  pin: z.string(),
  active: z.boolean().optional(),
});

/** Twelve bits. */
const MOST_READING = 4095;

/** What hangs on the pins of a board's FPGA. docs/formats.md, section 4 */
export const boardParts = z.object({
  fpga: z.number().int().nonnegative().optional(),
  /** Supply of each bank of the FPGA in volts: what its pins drive to, and what parts on them are driven with. */
  banks: z.record(z.string(), z.number().positive()).default({}),
  oscillators: z.array(z.object({ name: z.string(), pin: z.string(), hz: z.number().positive() })).default([]),
  lamps: z.array(control).default([]),
  buttons: z.array(control).default([]),
  switches: z.array(control.extend({ on: z.boolean().optional() })).default([]),
  digits: z
    .object({
      commons: z.array(z.string()),
      segments: z.array(z.string()).length(8),
      commonActive: z.boolean().optional(),
      segmentActive: z.boolean().optional(),
    })
    .optional(),
  /** A serial line to the pod, the pins as the FPGA has them: it sends on `tx`, and may say on `rts` to wait. */
  serial: z
    .object({
      name: z.string().default('line'),
      label: z.string().optional(),
      tx: z.string(),
      rx: z.string(),
      rts: z.string().optional(),
      cts: z.string().optional(),
    })
    .optional(),
  /** Two rows of sixteen characters on four data bits, D4 first. */
  displays: z
    .array(
      z.object({
        name: z.string(),
        label: z.string().optional(),
        enable: z.string(),
        select: z.string(),
        data: z.array(z.string()).length(4),
      }),
    )
    .default([]),
  /** On two wires that they drive. */
  keyboards: z
    .array(z.object({ name: z.string(), label: z.string().optional(), clock: z.string(), data: z.string() }))
    .default([]),
  /** Readings that hands set, each behind a converter on SPI. */
  sensors: z
    .array(
      z.object({
        name: z.string(),
        label: z.string().optional(),
        clock: z.string(),
        select: z.string(),
        out: z.string(),
        low: z.number().int().min(0).max(MOST_READING).default(0),
        high: z.number().int().min(0).max(MOST_READING).default(MOST_READING),
        value: z.number().int().min(0).max(MOST_READING).default(0),
        unit: z.string().max(20).default(''),
      }),
    )
    .default([]),
  /**
   * A canal lock at the end of the board's wires: its motors, and a converter with a level sensor in the chamber and
   * one in the upper pond.
   */
  water: z
    .object({
      pondCentimetres: z.number().positive(),
      converter: z.object({ clock: z.string(), select: z.string(), in: z.string(), out: z.string() }),
      motors: z.object({
        sluiceUpper: z.string(),
        sluiceLower: z.string(),
        gateUpper: z.string(),
        gateLower: z.string(),
        wide: z.string(),
      }),
    })
    .optional(),
});

export type BoardParts = z.infer<typeof boardParts>;
