import { z } from 'zod';

const LEAST_RATE = 50;
const MOST_RATE = 12_000_000;

/** How frames of a line look. */
const serialSettings = z.object({
  /** In bit/s. */
  rate: z.number().min(LEAST_RATE).max(MOST_RATE),
  dataBits: z.union([z.literal(5), z.literal(6), z.literal(7), z.literal(8)]),
  parity: z.enum(['none', 'even', 'odd']),
  stopBits: z.union([z.literal(1), z.literal(2)]),
});

export type SerialSettings = Readonly<z.infer<typeof serialSettings>>;

/**
 * The same with how one side makes the other wait: two wires of their own, low while more may come, or the characters
 * XOFF (0x13) and XON (0x11) within what is sent. (Common practice.)
 */
export const lineSettings = serialSettings.extend({ flow: z.enum(['none', 'rts-cts', 'xon-xoff']) });

export type LineSettings = Readonly<z.infer<typeof lineSettings>>;

/** What most boards speak. (Common practice.) */
export const USUAL_LINE: LineSettings = { rate: 115_200, dataBits: 8, parity: 'none', stopBits: 1, flow: 'none' };

const PARITY_LETTER = { none: 'N', even: 'E', odd: 'O' } as const;

/** As the trade writes it: "115 200 8N1", the rate in bit/s. */
export const settingsText = ({ rate, dataBits, parity, stopBits }: SerialSettings): string =>
  `${spaced(rate)} ${dataBits}${PARITY_LETTER[parity]}${stopBits}`;

const spaced = (rate: number): string => String(Math.round(rate)).replace(/\B(?=(\d{3})+$)/g, ' ');
