// The panel core alone, as docs/silicon.md, section 6, describes it.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { BareHub, READ, STREAM, WRITE } from '../../tests/support/bare-hub.ts';
import { mapOf } from './map.ts';

const signal = (width: number) => ({ name: 's', width, lo: 0, signed: false });

function panel(levers: number, gauges: number, ratio: number, gauge: () => bigint = () => 0n) {
  const map = mapOf('00'.repeat(16), [
    {
      kind: 'panel',
      core: 1,
      name: 'p',
      clock: 'clk',
      leverBits: levers,
      enableBits: 1,
      gaugeBits: gauges,
      levers: [{ ...signal(levers), enable: 0 }],
      gauges: [signal(gauges)],
    },
  ]);
  const hub: BareHub = new BareHub(map, ratio, () => hub.sim.setInput('c1_gauge', gauge()));
  return hub;
}

const words = (bits: bigint, count: number) =>
  Array.from({ length: Math.ceil(count / 32) }, (_, i) => (bits >> BigInt(32 * i)) & 0xffffffffn);

describe('the panel', () => {
  test.each([1, 31, 33, 256, 4096])(
    'a lever of %i bits takes effect together, and what stands in the hardware is read back',
    (width) => {
      const hub = panel(width, width, 1);
      const wanted = BigInt.asUintN(width, BigInt(`0x${'a5f00d17'.repeat(128)}`));
      hub.scan(WRITE, 8, words(wanted, width));
      hub.scan(WRITE, 9, [1n]);
      expect(
        [hub.sim.getOutput('c1_lever'), hub.sim.getOutput('c1_enable')],
        'nothing moves before it is told to',
      ).toEqual([0n, 0n]);
      hub.scan(WRITE, 11, [1n]);
      expect([hub.sim.getOutput('c1_lever'), hub.sim.getOutput('c1_enable')]).toEqual([wanted, 1n]);
      expect(hub.scan(READ, 3, [], 32) & 2n).toBe(2n);
      hub.scan(WRITE, 11, [2n]);
      const all = hub.scan(STREAM, 0, [], 2 * width + 1);
      expect([BigInt.asUintN(width, all >> BigInt(width)), all >> BigInt(2 * width)]).toEqual([wanted, 1n]);
    },
  );

  test('a gauge of 4,096 bits is one look: every part of it is of the same edge', () => {
    let tick = 0n;
    const hub = panel(1, 4096, 3.7, () =>
      BigInt(`0x${(tick = (tick + 1n) & 0xffn).toString(16).padStart(2, '0').repeat(512)}`),
    );
    for (let i = 0; i < 3; i++) {
      hub.scan(WRITE, 11, [2n]);
      const taken = hub.scan(STREAM, 0, [], 4096);
      expect(taken).toBe(BigInt(`0x${(taken & 0xffn).toString(16).padStart(2, '0').repeat(512)}`));
    }
  });

  test('what was set arrives whatever the clocks are to each other', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(0.02, 0.3, 1, 3.7, 50),
        fc.array(fc.bigInt(0n, 0xffn), { minLength: 1, maxLength: 4 }),
        (ratio, values) => {
          const hub = panel(8, 8, ratio);
          for (const value of values) {
            hub.scan(WRITE, 8, [value]);
            hub.scan(WRITE, 11, [1n]);
            for (let poll = 0; (hub.scan(READ, 3, [], 32) & 2n) === 0n; poll++) expect(poll).toBeLessThan(50);
            expect(hub.sim.getOutput('c1_lever')).toBe(value);
          }
        },
      ),
      { numRuns: 20 },
    );
  });
});
