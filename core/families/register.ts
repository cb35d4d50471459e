import { type Bits, constantBits } from '../bits/index.ts';
import type { ChainLink } from '../jtag/index.ts';

/** A data register of a part that is read by shifting zeros into it. */
export interface ReadRegister<T> {
  readonly opcode: number | bigint;
  /** Bits. */
  readonly length: number;
  readonly decode: (bits: Bits) => T;
}

/** Selects a register and queues its reading; carried out by a later flush. */
export function readLater<T>(link: ChainLink, register: ReadRegister<T>): Promise<T> {
  link.select(register.opcode);
  return readAgainLater(link, register);
}

/** Queues another reading of the register that is selected. */
export const readAgainLater = <T>(link: ChainLink, { length, decode }: ReadRegister<T>): Promise<T> =>
  link.exchange(constantBits(length, 0)).then(decode);

/** Selects a register and reads it now. */
export async function readNow<T>(link: ChainLink, register: ReadRegister<T>): Promise<T> {
  const value = readLater(link, register);
  await link.queue.flush();
  return value;
}
