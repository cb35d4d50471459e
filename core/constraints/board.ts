import { z } from 'zod';
import { readJsonFile } from '../json-file.ts';
import type { Result } from '../result.ts';

const boardFile = z.object({
  format: z.literal('nimble-board'),
  version: z.literal(1),
  name: z.string(),
  /** The part that the nets' pins belong to. */
  part: z.string(),
  /** Case of that part; the part's usual one where it is not said. */
  package: z.string().optional(),
  /** The flash chip that should stand beside it. */
  flash: z.string().optional(),
  /** Supply of each bank in volts. */
  banks: z.record(z.string(), z.number().positive()).default({}),
  oscillators: z.array(z.object({ net: z.string(), pin: z.string(), hertz: z.number().positive() })).default([]),
  nets: z.array(z.object({ net: z.string(), pin: z.string() })).default([]),
  /** Nets between devices of the chain; pins as `place.pin`, place 0 nearest TDO. */
  links: z.array(z.object({ net: z.string(), pins: z.array(z.string().regex(/^\d+\.\w+$/)).min(1) })).default([]),
});

/** What a board connects to the part: its nets by pin, its oscillators, its supplies. docs/formats.md, section 7 */
export type BoardDescription = z.infer<typeof boardFile>;

export const readBoard = (file: string, text: string): Result<BoardDescription> =>
  readJsonFile(boardFile, { code: 'board-file', section: 7 }, file, text);
