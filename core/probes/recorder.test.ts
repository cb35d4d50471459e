// The recorder core against a model of what it should have stored, with sampling clocks from slow to fast against TCK.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { Simulator } from '../sim/index.ts';
import { mapOf, type ProbeMap } from './map.ts';
import { debugVerilog } from './verilog.ts';

/** Bits of the hub's scans, sent straight into the debug logic; the sampling clock ticks `ratio` times a TCK on average. */
class Bare {
  readonly sim: Simulator;
  readonly samples: bigint[] = [];
  readonly #ratio: number;
  readonly #probe: () => bigint;
  #owed = 0;

  constructor(map: ProbeMap, ratio: number, probe: () => bigint) {
    const { netlist } = elaborate([debugVerilog(map)], { top: 'nimble_debug' });
    if (!netlist) throw new Error('the cores do not elaborate');
    this.sim = new Simulator(optimise(netlist).netlist);
    this.#ratio = ratio;
    this.#probe = probe;
  }

  edge(inputs: { capture?: bigint; shift?: bigint; tdi?: bigint }): bigint {
    for (this.#owed += this.#ratio; this.#owed >= 1; this.#owed--) this.sample();
    for (const name of ['capture', 'shift', 'tdi'] as const) this.sim.setInput(name, inputs[name] ?? 0n);
    const tdo = this.sim.getOutput('tdo');
    this.sim.step(this.sim.domain('tck'));
    return tdo;
  }

  sample(): void {
    const value = this.#probe();
    this.samples.push(value);
    this.sim.setInput('c1_probe', value);
    this.sim.step(this.sim.domain('c1_clk'));
  }

  /** One scan: a 1, the command, then words in or `count` bits out. */
  scan(operation: number, register: number, words: readonly bigint[], count = 0): bigint {
    this.edge({ capture: 1n });
    const shift = (bit: bigint) => this.edge({ shift: 1n, tdi: bit });
    shift(1n);
    const command = BigInt(register | (1 << 8) | (operation << 12));
    for (let i = 0n; i < 16n; i++) shift((command >> i) & 1n);
    for (const word of words) for (let i = 0n; i < 32n; i++) shift((word >> i) & 1n);
    let out = 0n;
    if (count > 0) {
      for (let i = 0; i < 16; i++) shift(0n);
      for (let i = 0n; i < BigInt(count); i++) out |= shift(0n) << i;
    }
    for (let i = 0; i < 6; i++) this.edge({});
    return out;
  }
}

const WRITE = 1;
const READ = 2;
const STREAM = 3;

describe('the recorder', () => {
  test('stores exactly the samples around the first match after arming', () => {
    fc.assert(
      fc.property(
        fc.record({ width: fc.integer({ min: 4, max: 70 }), logDepth: fc.integer({ min: 4, max: 7 }), place: fc.double({ min: 0, max: 1, noNaN: true }), ratio: fc.constantFrom(0.02, 0.3, 1, 3.7, 50), seed: fc.integer({ min: 1, max: 0x7fffffff }) }),
        ({ width, logDepth, place, ratio, seed }) => {
          const depth = 1 << logDepth;
          const before = Math.floor(place * (depth - 1));
          const map = mapOf('00'.repeat(16), [{ kind: 'recorder', core: 1, name: 'r', clock: 'clk', depth, width, signals: [] }]);
          // A counter in the low bits makes every sample its own; noise above it.
          let state = seed;
          let tick = 0n;
          const bare = new Bare(map, ratio, () => {
            state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
            tick++;
            return BigInt.asUintN(width, (BigInt(state) << 40n) ^ (BigInt(state) << 12n) ^ tick);
          });
          const mask = 0xfn;
          const value = BigInt(seed & 15);
          const words = (bits: bigint) => Array.from({ length: Math.ceil(width / 32) }, (_, i) => (bits >> BigInt(32 * i)) & 0xffffffffn);
          bare.scan(WRITE, 8, words(value));
          bare.scan(WRITE, 9, words(mask));
          bare.scan(WRITE, 10, [BigInt(before)]);
          const armed = bare.samples.length;
          bare.scan(WRITE, 11, [1n]);
          const surely = bare.samples.length + 8;
          let levels = 0n;
          for (let tries = 0; tries < 400 && (levels & 1n) === 0n; tries++) {
            for (let i = 0; i < 40; i++) bare.sample();
            levels = bare.scan(READ, 3, [], 32);
          }
          expect(levels & 1n).toBe(1n);
          bare.scan(WRITE, 12, [0n]);
          const bits = bare.scan(STREAM, 0, [], width * depth);
          const stored = Array.from({ length: depth }, (_, i) => BigInt.asUintN(width, bits >> BigInt(i * width)));
          const start = bare.samples.findIndex((_, at) => at >= armed && stored.every((word, i) => bare.samples[at + i] === word));
          expect(start, 'the stored samples are a run of what was there').toBeGreaterThanOrEqual(armed);
          expect((stored[before] as bigint) & mask, 'the trigger stands where it was asked for').toBe(value);
          const match = (word: bigint | undefined) => word !== undefined && (word & mask) === value;
          const later = bare.samples.slice(start + before).findIndex(match);
          expect(later).toBe(0);
          // No earlier sample could have been it, once surely armed and with the room before it filled.
          expect(bare.samples.slice(0, start + before).findIndex((word, at) => match(word) && at - before >= surely)).toBe(-1);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('says who it is, and its tick count moves with its clock', () => {
    const map = mapOf('00112233445566778899aabbccddeeff', [{ kind: 'recorder', core: 1, name: 'r', clock: 'clk', depth: 16, width: 8, signals: [] }]);
    const bare = new Bare(map, 1, () => 0n);
    expect(bare.scan(READ, 0, [], 96)).toBe(0x52430001n | (8n << 32n) | (4n << 64n));
    const gray = (word: bigint) => {
      let binary = word;
      for (let shift = 1n; shift < 20n; shift <<= 1n) binary ^= binary >> shift;
      return binary;
    };
    const [first, at] = [gray(bare.scan(READ, 4, [], 32)), bare.samples.length];
    for (let i = 0; i < 1000; i++) bare.sample();
    const second = gray(bare.scan(READ, 4, [], 32));
    expect(Number(second - first)).toBe(bare.samples.length - at);
  });
});
