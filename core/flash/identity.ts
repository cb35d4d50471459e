import { fail, ok, problem, type Result } from '../result.ts';
import { COMMAND } from './commands.ts';
import type { SpiPort } from './port.ts';

/** One chip this product knows. Times in microseconds. `erase` is the largest block it erases. docs/silicon.md, section 8 */
export interface FlashPart {
  readonly name: string;
  readonly maker: string;
  /** The three bytes of command 9F. */
  readonly identity: readonly [number, number, number];
  readonly bytes: number;
  readonly erase: { readonly command: number; readonly bytes: number; readonly typical: number; readonly worst: number };
  readonly page: { readonly typical: number; readonly worst: number };
}

export const FLASH_PARTS: readonly FlashPart[] = [
  { name: 'LR32', maker: 'Ledger', identity: [0x4b, 0x31, 0x16], bytes: 1 << 22, erase: { command: COMMAND.ERASE_64K, bytes: 1 << 16, typical: 120_000, worst: 2_000_000 }, page: { typical: 300, worst: 5_000 } },
  { name: 'QF32', maker: 'Quoin', identity: [0x95, 0x27, 0x16], bytes: 1 << 22, erase: { command: COMMAND.ERASE_32K, bytes: 1 << 15, typical: 90_000, worst: 1_600_000 }, page: { typical: 350, worst: 6_000 } },
];

/** Asks the chip who it is. */
export async function identify(port: SpiPort): Promise<Result<FlashPart>> {
  port.send(Uint8Array.of(COMMAND.WAKE));
  port.wait(50);
  const answer = await port.exchange(Uint8Array.of(COMMAND.IDENTITY), 3);
  const text = [...answer].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  if (answer.every((byte) => byte === 0xff) || answer.every((byte) => byte === 0))
    return fail(problem('flash-silent', `No flash chip answers: its identity reads ${text}.`, 'Check that the board has power.', 'Check the chip select and MISO wires of the flash.'));
  const part = FLASH_PARTS.find((p) => p.identity.every((byte, i) => byte === answer[i]));
  if (!part) return fail(problem('flash-unknown', `The flash chip answers ${text}, which is no chip known here. Nothing was erased.`, 'Compare the marking on the chip with docs/silicon.md.'));
  return ok(part);
}
