import { z } from 'zod';
import { describeIdcode } from '../jtag/index.ts';
import { readJsonFile } from '../json-file.ts';
import type { Result } from '../result.ts';

const device = z.object({
  /** What stands here; null for a device of which only its instruction length is known. */
  part: z.string().nullable().default(null),
  idcode: z
    .string()
    .regex(/^0x[0-9a-fA-F]{8}$/, 'must be 0x and eight hexadecimal digits')
    .nullable()
    .default(null),
  irLength: z.number().int().min(2).max(512),
  note: z.string().max(200).optional(),
});

const chainFile = z.object({
  format: z.literal('nimble-chain'),
  version: z.literal(1),
  /** From the device nearest TDO to the one nearest TDI. */
  devices: z.array(device).max(200),
});

/** The chain a project expects. docs/formats.md, section 9 */
export type ChainFile = z.infer<typeof chainFile>;
export type ExpectedDevice = z.infer<typeof device>;

export const readChainFile = (name: string, text: string): Result<ChainFile> =>
  readJsonFile(chainFile, { code: 'chain-file', section: 9 }, name, text);

export const writeChainFile = (chain: ChainFile): string => `${JSON.stringify(chain, null, 2)}\n`;

/** What was found, as the chain to expect from now on. Null while an instruction length is not known. */
export function chainOf(
  devices: readonly {
    readonly part: string | null;
    readonly idcode: number | null;
    readonly irLength: number | null;
  }[],
): ChainFile | null {
  if (devices.some(({ irLength }) => irLength === null)) return null;
  return {
    format: 'nimble-chain',
    version: 1,
    devices: devices.map(({ part, idcode, irLength }) => ({
      part,
      idcode: idcode === null ? null : describeIdcode(idcode),
      irLength: irLength as number,
    })),
  };
}
