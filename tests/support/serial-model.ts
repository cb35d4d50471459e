// A serial line written a second time, in another way than the product's: frames as text of bits, and a receiver that
// counts sixteenths of a bit as such circuits do. (Common practice of asynchronous frames.)

export interface Spoken {
  readonly dataBits: number;
  readonly parity: 'none' | 'even' | 'odd';
  readonly stopBits: number;
}

/** The levels of a row of bytes, a character a bit time, with pauses of so many bits before each. */
export function spokenBits(bytes: readonly number[], { dataBits, parity, stopBits }: Spoken, pause = 0): string {
  return bytes
    .map((byte) => {
      const data = (byte % 2 ** dataBits).toString(2).padStart(dataBits, '0');
      const ones = data.replaceAll('0', '').length;
      const check = parity === 'none' ? '' : String((ones + (parity === 'odd' ? 1 : 0)) % 2);
      return `${'1'.repeat(pause)}0${[...data].reverse().join('')}${check}${'1'.repeat(stopBits)}`;
    })
    .join('');
}

/** Where a text of bits changes, each bit so long; it rests at 1 before. */
export function changesIn(bits: string, bitTime: number, from = 0): { at: number; level: boolean }[] {
  return [...bits].flatMap((bit, i) =>
    bit === (bits[i - 1] ?? '1') ? [] : [{ at: from + i * bitTime, level: bit === '1' }],
  );
}

/** What a circuit with a clock of sixteen times the rate hears: bytes, or null for a frame without a stop bit. */
export function heardBySixteenths(
  changes: readonly { readonly at: number; readonly level: boolean }[],
  bitTime: number,
  { dataBits, parity }: Spoken,
): (number | null)[] {
  const end = (changes.at(-1)?.at ?? 0) + 20 * bitTime;
  const levelAt = (time: number) => changes.filter(({ at }) => at <= time).at(-1)?.level ?? true;
  const heard: (number | null)[] = [];
  const tick = bitTime / 16;
  let [busy, count, value, place] = [false, 0, 0, 0];
  for (let time = 0; time < end; time += tick) {
    const level = levelAt(time);
    if (!busy) {
      if (!level) [busy, count, value, place] = [true, 0, 0, 0];
      continue;
    }
    count++;
    if (count !== 8 + 16 * place) continue;
    if (place === 0 && level) busy = false;
    else if (place >= 1 && place <= dataBits) value += level ? 2 ** (place - 1) : 0;
    else if (place === dataBits + (parity === 'none' ? 1 : 2)) {
      heard.push(level ? value : null);
      busy = false;
    }
    place++;
  }
  return heard;
}
