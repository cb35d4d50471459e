// How long a bit is and which settings fit, from pulses of lines that are written a second time.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { changesIn, spokenBits } from '../../tests/support/serial-model.ts';
import { bitTimeOf, fittingSettings, measuredRate, type PulseRun, settingsText, USUAL_RATES } from './index.ts';

const TEXT = [...'Lock 7 ready\r\nlevel 0400 state 3\r\n'].map((char) => char.charCodeAt(0));

/** Pulses of bytes as a pod sees them, the pause before them too. */
function pulsesOf(bits: string, rate: number): PulseRun {
  const changes = changesIn(`${'1'.repeat(40)}${bits}${'1'.repeat(20)}0`, 1 / rate);
  const widths = changes.slice(1).map(({ at }, i) => at - (changes[i]?.at ?? 0));
  return { level: 0, widths };
}

describe('what fits a line', () => {
  test('the bit time is found within a tenth of a percent at every usual speed, whatever is said', () => {
    const said = fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 6, maxLength: 40 });
    const eight = { dataBits: 8, parity: 'none', stopBits: 1 } as const;
    fc.assert(
      fc.property(fc.constantFrom(...USUAL_RATES), said, (rate, bytes) => {
        // Some byte has a single bit by itself, as text always has.
        const bit = bitTimeOf(pulsesOf(spokenBits([0x55, ...bytes], eight, 1), rate).widths);
        expect(bit).not.toBeNull();
        const found = measuredRate(bit ?? 1);
        expect(Math.abs(found.rate / rate - 1)).toBeLessThan(0.001);
        expect(found.usual).toBe(rate);
      }),
    );
  });

  test('parity and bits are told from many frames', () => {
    for (const dataBits of [7, 8] as const)
      for (const parity of ['none', 'even', 'odd'] as const)
        for (const rate of [9600, 115_200, 3_000_000]) {
          const fit = fittingSettings([pulsesOf(spokenBits(TEXT, { dataBits, parity, stopBits: 1 }, 2), rate)]);
          const wanted = { rate, dataBits, parity, stopBits: 1 as const };
          // Seven bits without parity and with pauses look like eight of which the last one is 1: the text decides.
          expect(fit && settingsText(fit.settings)).toBe(settingsText(wanted));
          expect(fit?.wrong).toBe(0);
        }
  });

  test('a rate that is no usual one is offered as it was measured', () => {
    const spoken = spokenBits(TEXT, { dataBits: 8, parity: 'none', stopBits: 1 }, 2);
    expect(fittingSettings([pulsesOf(spoken, 122_112)])?.settings.rate).toBe(122_112);
    expect(measuredRate(1 / 118_000).usual).toBe(115_200);
  });

  test('too little to tell, and what is no line of bytes, give nothing', () => {
    expect(fittingSettings([])).toBeNull();
    expect(fittingSettings([{ level: 0, widths: [1e-4, 2e-4] }])).toBeNull();
    const noise = Array.from({ length: 400 }, (_, i) => 1e-5 * (1 + ((i * 7919) % 97) / 9));
    expect(fittingSettings([{ level: 1, widths: noise }])).toBeNull();
  });
});
