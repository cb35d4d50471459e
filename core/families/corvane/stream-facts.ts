import { reverseByte } from '../../bits/index.ts';
import type { StreamFacts } from '../family.ts';
import { StreamDecoder } from './stream.ts';

/** Reads a stream as a part would, from bytes that may go on behind it. */
export function streamFacts(bytes: Uint8Array): StreamFacts {
  let [idcode, fingerprint, good, started]: [number | null, string | null, boolean, boolean] = [
    null,
    null,
    false,
    false,
  ];
  const decoder = new StreamDecoder((event) => {
    if (event.kind === 'ident') idcode = event.idcode;
    if (event.kind === 'print')
      fingerprint = [...event.fingerprint].map((byte) => byte.toString(16).padStart(2, '0')).join('');
    if (event.kind === 'check') good = event.good;
    if (event.kind === 'start') started = true;
  });
  decoder.bits(bytes.map(reverseByte), bytes.length * 8);
  return { idcode, fingerprint, isWhole: good && started };
}
