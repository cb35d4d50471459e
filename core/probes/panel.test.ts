// The panel core alone, as docs/silicon.md, section 6, describes it.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { BareHub, READ, STREAM, WRITE } from '../../tests/support/bare-hub.ts';
import { mapOf } from './map.ts';

const signal = (width: number) => ({ name: 's', width, lo: 0, signed: false });

const PLAIN = { pulse: false, activity: false };

function panel(levers: number, gauges: number, ratio: number, gauge: () => bigint = () => 0n, over = PLAIN) {
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
      ...over,
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

  test('a pulse lasts for exactly so many cycles, and all levers are as they were behind it', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(0.05, 0.4, 1, 3.7, 50),
        fc.array(fc.integer({ min: 1, max: 200 }), { minLength: 1, maxLength: 4 }),
        (ratio, lengths) => {
          const seen: string[] = [];
          const hub = panel(
            8,
            1,
            ratio,
            () => {
              seen.push(`${hub.sim.getOutput('c1_lever')} ${hub.sim.getOutput('c1_enable')}`);
              return 0n;
            },
            { pulse: true, activity: false },
          );
          hub.scan(WRITE, 8, [17n]);
          hub.scan(WRITE, 11, [1n]);
          for (let i = 0; i < 20; i++) hub.sample();
          for (const length of lengths) {
            hub.scan(WRITE, 8, [0xa5n]);
            hub.scan(WRITE, 9, [1n]);
            hub.scan(WRITE, 10, [BigInt(length)]);
            const from = seen.length;
            hub.scan(WRITE, 11, [4n]);
            for (let i = 0; i < 300; i++) hub.sample();
            const pulse = seen.slice(from);
            expect(pulse.filter((one) => one === '165 1')).toHaveLength(length);
            expect(new Set(pulse)).toEqual(new Set(['17 0', '165 1']));
            expect(pulse.at(-1)).toBe('17 0');
            hub.edge({});
            hub.edge({});
            expect(hub.scan(READ, 3, [], 32) & 2n, 'it has arrived').toBe(2n);
          }
        },
      ),
      { numRuns: 20 },
    ));

  test('what is set while a pulse lasts stays, and the pulse is over', () => {
    const hub = panel(8, 1, 1, () => 0n, { pulse: true, activity: false });
    hub.scan(WRITE, 8, [99n]);
    hub.scan(WRITE, 10, [5000n]);
    hub.scan(WRITE, 11, [4n]);
    for (let i = 0; i < 10; i++) hub.sample();
    expect(hub.sim.getOutput('c1_lever')).toBe(99n);
    hub.scan(WRITE, 8, [3n]);
    hub.scan(WRITE, 11, [1n]);
    for (let i = 0; i < 6000; i++) hub.sample();
    expect(hub.sim.getOutput('c1_lever')).toBe(3n);
  });

  test('what rose and what fell since the look before is told with the levels, once', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(0.4, 1, 8),
        fc.array(fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 5 }), { minLength: 1, maxLength: 5 }),
        (ratio, looks) => {
          let level = 0;
          const hub = panel(1, 8, ratio, () => BigInt(level), { pulse: false, activity: true });
          const take = () => {
            for (let i = 0; i < 4; i++) hub.sample();
            hub.scan(WRITE, 11, [2n]);
            for (let i = 0; i < 8; i++) hub.sample();
            for (let i = 0; i < 6; i++) hub.edge({});
            // Gauges, one lever, one enable, then what rose, what fell, and how often it was another one.
            const told = hub.scan(STREAM, 0, [], 8 + 2 + 16 + 8);
            const byte = (lo: bigint) => Number((told >> lo) & 255n);
            return { level: byte(0n), rose: byte(10n), fell: byte(18n), changes: byte(26n) };
          };
          take();
          for (const levels of looks) {
            let [rose, fell, changes] = [0, 0, 0];
            for (const next of levels) {
              rose |= next & ~level;
              fell |= level & ~next;
              changes += level === next ? 0 : 1;
              level = next;
              hub.sample();
            }
            expect(take()).toEqual({ level, rose, fell, changes });
          }
          expect(take(), 'nothing has moved since').toEqual({ level, rose: 0, fell: 0, changes: 0 });
        },
      ),
      { numRuns: 25 },
    ));
});
