// Decoders of serial lines, SPI and I2C over a record. Knows nothing of where the record came from.
import { z } from 'zod';
import { fail, ok, type Result } from '../../result.ts';
import { problem } from './problems.ts';
import { knownTrace } from '../known.ts';
import type { Recording } from '../recording.ts';
import type { Trace } from '../trace.ts';
import type { Frame } from './frame.ts';
import { decodeI2c } from './i2c.ts';
import { decodeSerial } from './serial.ts';
import { decodeSpi } from './spi.ts';

/** A decoder and the signals it reads, by name. Those it can do without may be null. */
export const decoderShape = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('serial'),
    line: z.string(),
    baud: z.number().positive().nullable(),
    dataBits: z.number().int().min(5).max(9),
    parity: z.enum(['none', 'even', 'odd']),
    stopBits: z.union([z.literal(1), z.literal(2)]),
  }),
  z.object({
    kind: z.literal('spi'),
    clock: z.string(),
    select: z.string().nullable(),
    out: z.string().nullable(),
    in: z.string().nullable(),
    mode: z.number().int().min(0).max(3),
    bits: z.number().int().min(2).max(32),
    lowFirst: z.boolean(),
  }),
  z.object({ kind: z.literal('i2c'), clock: z.string(), data: z.string() }),
]);

export type Decoder = z.infer<typeof decoderShape>;

/** Runs a decoder over a recording. */
export function decode(recording: Recording, decoder: Decoder): Result<readonly Frame[]> {
  let missing: string | null = null;
  const find = (name: string | null): Trace | null => {
    const trace = name === null ? null : (recording.traces.find((one) => one.name === name) ?? null);
    if (name !== null && trace?.width !== 1) missing ??= name;
    return trace && knownTrace(recording, trace);
  };
  const need = (name: string): Trace => find(name) as Trace;
  const gone = () => fail(problem('decode-signal', { missing }));
  switch (decoder.kind) {
    case 'serial': {
      const line = need(decoder.line);
      return missing !== null ? gone() : decodeSerial(recording, line, decoder);
    }
    case 'spi': {
      const lines = {
        clock: need(decoder.clock),
        select: find(decoder.select),
        out: find(decoder.out),
        in: find(decoder.in),
      };
      return missing !== null ? gone() : ok(decodeSpi(recording, lines, decoder));
    }
    case 'i2c': {
      const [clock, data] = [need(decoder.clock), need(decoder.data)];
      return missing !== null ? gone() : ok(decodeI2c(recording, clock, data));
    }
  }
}

export type { Frame } from './frame.ts';
export { measureBaud } from './serial.ts';
