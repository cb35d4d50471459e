// The recorder core against a model of what it should have stored, with sampling clocks from slow to fast against TCK.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { onceDelay, type ProbeMap, type RecorderMap } from './map.ts';
import { oneRecorder } from '../../tests/support/recorder-map.ts';
import {
  comparatorRows,
  onceBy,
  onceWords,
  rowWords,
  settingsRow,
  tableWords,
  type Told,
  toldBy,
  toldWords,
} from './recorder-words.ts';
import { BareHub, READ, STREAM, WRITE } from '../../tests/support/bare-hub.ts';
import { recorded } from '../../tests/support/trigger-model.ts';
import { type ComparatorSetting, KEEP_ALL, type StageSetting, type TriggerProgram } from './program.ts';

type Relation = ComparatorSetting['relation'];

/** Samples after arming in which a program is given time to run through. */
const ENOUGH = 3000;

/** A hub with one recorder; its sampling clock ticks `ratio` times a TCK on average. */
class Bare extends BareHub {
  readonly samples: bigint[] = [];

  constructor(map: ProbeMap, ratio: number, probe: () => bigint) {
    super(map, ratio, () => {
      const value = probe();
      this.samples.push(value);
      this.sim.setInput('c1_probe', value);
    });
  }

  /** The first sample that can have seen the last scan: a write is taken after its last bit. */
  get armedFrom(): number {
    return this.samplesAtWrite;
  }

  /** Writes a program register by register, as docs/silicon.md gives them, and arms. */
  arm(map: RecorderMap, program: TriggerProgram, before: number, segments = 1): void {
    for (const [i, comparator] of program.comparators.entries()) {
      this.scan(WRITE, 1, [1n << BigInt(i)]);
      for (const [at, row] of comparatorRows(comparator, map.width).entries())
        this.scan(WRITE, 2 | (at << 4), rowWords(row));
    }
    this.scan(WRITE, 5, tableWords(map, program));
    this.scan(WRITE, 0, rowWords(settingsRow(map, program, { before, segments })));
    this.scan(WRITE, 3, [1n]);
  }

  told(map: RecorderMap): Told {
    const count = toldWords(map);
    const row = this.scan(READ, 1, [], 32 * count);
    return toldBy(
      map,
      Array.from({ length: count }, (_, i) => BigInt.asUintN(32, row >> BigInt(32 * i))),
    );
  }

  /** What it read at its first trigger, of the one signal that it reads then. */
  readOnce(map: RecorderMap): bigint | undefined {
    const { first, count } = onceWords(map);
    const row = this.scan(READ, 1 + first, [], 32 * count);
    const words = Array.from({ length: count }, (_, i) => BigInt.asUintN(32, row >> BigInt(32 * i)));
    return onceBy(map, words).get('n');
  }

  /** Asks for a look, and gives its answer. */
  look(map: RecorderMap): Told {
    this.scan(WRITE, 3, [4n]);
    for (let i = 0; i < 16; i++) this.edge({});
    return this.told(map);
  }
}

const recorderOf = (map: ProbeMap): RecorderMap => map.cores[0] as RecorderMap;

describe('the recorder', () => {
  test('stores exactly the samples around the one that completes the program', () => {
    const relation = fc.constantFrom<Relation>('equal', 'below', 'changes', 'rises', 'falls');
    // Narrow fields, so that conditions come true now and then.
    const comparator = fc
      .record({ relation, value: fc.bigInt(0n, 63n), field: fc.integer({ min: 0, max: 63 }) })
      .map(({ relation, value, field }): ComparatorSetting => {
        const mask = BigInt(relation === 'rises' || relation === 'falls' ? 1 << (field % 6) : field || 1);
        return { relation, value: value & mask, mask };
      });
    const stage = fc.record({
      table: fc.integer({ min: 0, max: 0xffffffff }),
      times: fc.integer({ min: 1, max: 4 }),
      inARow: fc.boolean(),
      within: fc.option(fc.oneof(fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 40 }))),
      otherwise: fc.nat(3),
    });
    fc.assert(
      fc.property(
        fc.record({
          // Wide ones compare in two and in three parts.
          width: fc.oneof(fc.integer({ min: 6, max: 70 }), fc.constantFrom(65, 100, 128, 131, 190)),
          logDepth: fc.integer({ min: 4, max: 7 }),
          place: fc.double({ min: 0, max: 1, noNaN: true }),
          ratio: fc.constantFrom(0.02, 0.3, 1, 3.7, 50),
          seed: fc.integer({ min: 1, max: 0x7fffffff }),
          comparators: fc.array(comparator, { minLength: 1, maxLength: 4 }),
          stages: fc.array(stage, { minLength: 1, maxLength: 4 }),
          keep: fc.option(fc.integer({ min: 1, max: 0xffffffff })),
          divide: fc.constantFrom([0, 0], [2, 0], [2, 1], [3, 3]),
          isReadOnce: fc.boolean(),
        }),
        ({
          isReadOnce,
          width,
          logDepth,
          place,
          ratio,
          seed,
          comparators,
          stages: wanted,
          keep,
          divide: [built = 0, used = 0],
        }) => {
          const depth = 1 << logDepth;
          const segments = 1 << used;
          const size = depth / segments;
          const before = Math.floor(place * (size - 1));
          const stages = wanted.map(
            (one): StageSetting => ({
              ...one,
              table: one.table >>> 0,
              within: wanted.length > 1 ? one.within : null,
              otherwise: one.otherwise % wanted.length,
            }),
          );
          const program: TriggerProgram = { comparators, stages, keep: (keep ?? KEEP_ALL) >>> 0 };
          const map = oneRecorder({
            depth,
            width,
            comparators: comparators.length,
            stages: stages.length,
            qualifier: keep !== null,
            segments: 1 << built,
            atTrigger: isReadOnce ? [{ name: 'n', width: 20, lo: 0, signed: false }] : [],
          });
          // Noise all over: a run of sixteen samples of six bits and more is not met twice by chance.
          let state = seed;
          const bare: Bare = new Bare(map, ratio, () => {
            let word = 0n;
            for (let i = 0; i < width; i += 15) {
              state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
              word = (word << 15n) | BigInt(state >>> 16);
            }
            // What is read once tells which sample it was read beside.
            if (isReadOnce) bare.sim.setInput('c1_state', BigInt(bare.samples.length));
            return BigInt.asUintN(width, word);
          });
          bare.arm(recorderOf(map), program, before, segments);
          const [armed, surely] = [bare.armedFrom, bare.samples.length + 8];
          let [isDone, looked] = [false, 0];
          while (bare.samples.length < surely + ENOUGH && !isDone) {
            for (let i = 0; i < 40; i++) bare.sample();
            looked = bare.samples.length;
            isDone = bare.told(recorderOf(map)).status === 'done';
          }
          const from = Array.from({ length: surely - armed + 1 }, (_, i) => armed + i);
          if (!isDone) {
            const until = bare.samples.slice(0, looked - 10);
            expect(
              from.some((first) => recorded(program, until, first, depth, { before, segments }).length < segments),
              'it is not full, so it did not have to be',
            ).toBe(true);
            return;
          }
          const once = isReadOnce ? bare.readOnce(recorderOf(map)) : null;
          bare.scan(WRITE, 4, [built === 0 ? BigInt(bare.told(recorderOf(map)).writeAt) : 0n]);
          const bits = width + (keep === null ? 0 : 32) + (built === 0 ? 0 : 1);
          const read = bare.scan(STREAM, 0, [], bits * depth);
          const words = Array.from({ length: depth }, (_, i) => BigInt.asUintN(bits, read >> BigInt(i * bits)));
          const found = Array.from({ length: segments }, (_, i) => {
            const part = words.slice(i * size, (i + 1) * size);
            if (built === 0) return part;
            const marked = part.flatMap((word, at) => (word >> BigInt(bits - 1) === 1n ? [at] : []));
            expect(marked, 'one sample of a segment triggered').toHaveLength(1);
            const oldest = ((marked[0] as number) - before + size) % size;
            return [...part.slice(oldest), ...part.slice(0, oldest)];
          });
          const sample = (word: bigint) => BigInt.asUintN(width, word);
          const stamp = (word: bigint) => (keep === null ? 0 : Number((word >> BigInt(width)) & 0xffffffffn));
          const asStored = from.map((first) => {
            const model = recorded(program, bare.samples, first, depth, { before, segments });
            const start = (model[0]?.stored[0] ?? 0) - stamp(found[0]?.[0] as bigint);
            return (
              model.length === segments &&
              (once === null || Number(once) === (model[0]?.trigger ?? 0) + onceDelay(recorderOf(map))) &&
              model.every(
                ({ stored, trigger }, i) =>
                  stored[before] === trigger &&
                  stored.every(
                    (at, k) =>
                      sample(found[i]?.[k] as bigint) === bare.samples[at] &&
                      (keep === null || stamp(found[i]?.[k] as bigint) === at - start),
                  ),
              )
            );
          });
          expect(
            asStored,
            'the buffer holds what the model stored, beginning at one of the samples that could be the first',
          ).toContain(true);
        },
      ),
      { numRuns: 90, endOnFailure: true },
    );
  });

  test('tells what its comparators read, how often each was true, and the stage', () => {
    const map = oneRecorder({ comparators: 2, stages: 2 });
    let tick = 0n;
    const bare = new Bare(map, 1, () => BigInt.asUintN(8, ++tick));
    const program: TriggerProgram = {
      comparators: [
        { relation: 'equal', value: 3n, mask: 0x0fn },
        { relation: 'changes', value: 0n, mask: 0xffn },
      ],
      stages: [
        { table: 0xaaaaaaaa, times: 2, inARow: false, within: null, otherwise: 0 },
        { table: 0, times: 1, inARow: false, within: null, otherwise: 0 },
      ],
      keep: KEEP_ALL,
    };
    bare.arm(recorderOf(map), program, 0);
    for (let i = 0; i < 320; i++) bare.sample();
    const { status, answered, stage, seen } = bare.look(recorderOf(map));
    expect([answered, status, stage]).toEqual([true, 'waiting', 1]);
    expect(seen[0]).toBeGreaterThanOrEqual(20);
    expect(seen[0]).toBeLessThan(bare.samples.length / 16 + 1);
    expect(seen[1]).toBeGreaterThan(320);
  });

  test.each([
    ['while it waits', 1, 1, 0, 40],
    ['while it fills', 1, 1, 12, 0],
    ['while it waits in its first stage of three', 3, 1, 5, 40],
    ['while it fills, of three stages', 3, 1, 12, 0],
    ['in one segment of four', 2, 4, 2, 40],
  ])('a trigger by hand %s is taken once, and as many samples are before it as were asked for', (...wanted) => {
    const [, stages, segments, before, waits] = wanted;
    const map = oneRecorder({ width: 8, depth: 16, stages, segments });
    const never = { table: 0, times: 1, inARow: false, within: null, otherwise: 0 };
    let tick = 0;
    const bare = new Bare(map, waits > 0 ? 1 : 0, () => BigInt(++tick & 0xff));
    const program: TriggerProgram = { comparators: [], stages: Array(stages).fill(never), keep: KEEP_ALL };
    bare.arm(recorderOf(map), program, before, segments);
    for (let i = 0; i < (waits || 6); i++) bare.sample();
    for (let i = 0; i < 4; i++) bare.edge({});
    for (let segment = 0; segment < segments; segment++) {
      expect(bare.told(recorderOf(map)).status).toBe(waits > 0 ? 'waiting' : 'filling');
      bare.scan(WRITE, 3, [8n]);
      for (let i = 0; i < 40; i++) bare.sample();
      // Edges of TCK, so that what is told is what it is now.
      for (let i = 0; i < 4; i++) bare.edge({});
    }
    expect(bare.told(recorderOf(map)).status).toBe('done');
    bare.scan(WRITE, 4, [segments > 1 ? 0n : BigInt(bare.told(recorderOf(map)).writeAt)]);
    const bits = segments > 1 ? 9 : 8;
    const read = bare.scan(STREAM, 0, [], bits * 16);
    const words = Array.from({ length: 16 }, (_, i) => Number(BigInt.asUintN(bits, read >> BigInt(i * bits))));
    const size = 16 / segments;
    for (let segment = 0; segment < segments; segment++) {
      const part = words.slice(segment * size, (segment + 1) * size);
      const marked = part.findIndex((word) => word > 0xff);
      const oldest = segments > 1 ? (marked - before + size) % size : 0;
      const inOrder = [...part.slice(oldest), ...part.slice(0, oldest)].map((word) => word & 0xff);
      expect(inOrder).toEqual(Array.from({ length: size }, (_, i) => ((inOrder[0] as number) + i) & 0xff));
    }
  });

  test.each([1, 2, 3])('armed anew while it waits, a recorder of %i stages begins at the beginning', (stages) => {
    const map = oneRecorder({ width: 8, depth: 16, stages, segments: 2 });
    const at = (value: bigint) => ({ relation: 'equal' as const, value, mask: 0xffn });
    const stage = { table: 0xaaaaaaaa, times: 2, inARow: false, within: null, otherwise: 0 };
    const program: TriggerProgram = { comparators: [at(7n)], stages: Array(stages).fill(stage), keep: KEEP_ALL };
    let value = 0n;
    const bare = new Bare(map, 1, () => value);
    bare.arm(recorderOf(map), program, 0, 2);
    const holdOnce = () => {
      value = 7n;
      bare.sample();
      value = 0n;
      for (let i = 0; i < 30; i++) bare.sample();
    };
    for (let i = 0; i < 30; i++) bare.sample();
    holdOnce();
    bare.scan(WRITE, 3, [1n]);
    for (let i = 0; i < 30; i++) bare.sample();
    const filled: number[] = [];
    for (let i = 1; i <= 4 * stages; i++) {
      holdOnce();
      const told = bare.look(recorderOf(map));
      if (told.segment > filled.length || told.status === 'done') filled.push(i);
      if (told.status === 'done') break;
    }
    expect(filled, 'each segment takes two samples for each stage').toEqual([2 * stages, 4 * stages]);
  });

  test('signals of another clock come through two registers, two samples after the others', () => {
    const signal = (name: string, lo: number) => ({ name, lo, width: 8, signed: false });
    const map = oneRecorder({ width: 16, signals: [signal('near', 0), { ...signal('far', 8), synchronised: true }] });
    let tick = 0;
    const bare = new Bare(map, 1, () => BigInt(++tick & 0xff) * 0x101n);
    bare.arm(
      recorderOf(map),
      {
        comparators: [],
        stages: [{ table: 0xffffffff, times: 1, inARow: false, within: null, otherwise: 0 }],
        keep: KEEP_ALL,
      },
      0,
    );
    for (let i = 0; i < 60; i++) bare.sample();
    bare.scan(WRITE, 4, [BigInt(bare.told(recorderOf(map)).writeAt)]);
    const stored = bare.scan(STREAM, 0, [], 16 * 16);
    for (let i = 0n; i < 16n; i++) {
      const word = Number((stored >> (16n * i)) & 0xffffn);
      expect(((word & 0xff) - (word >> 8)) & 0xff).toBe(2);
    }
  });

  test('says who it is, and its tick count moves with its clock', () => {
    const map = oneRecorder(
      { comparators: 3, stages: 2, qualifier: true, segments: 8 },
      '00112233445566778899aabbccddeeff',
    );
    const bare = new Bare(map, 1, () => 0n);
    expect(bare.scan(READ, 0, [], 32)).toBe(0x52430006n);
    const many = oneRecorder({ stages: 3 });
    expect(new Bare(many, 1, () => 0n).scan(READ, 0, [], 32), 'its settings are laid out otherwise').toBe(0x52430007n);
    const first = bare.look(recorderOf(map)).ticks ?? 0;
    const at = bare.samples.length;
    for (let i = 0; i < 1000; i++) bare.sample();
    const second = bare.look(recorderOf(map)).ticks ?? 0;
    expect(second - first).toBe(bare.samples.length - at);
  });

  test('a look that was not answered yet is not asked for again, and is answered once the clock goes on', () => {
    const map = oneRecorder();
    const bare = new Bare(map, 0, () => 0n);
    for (let looks = 1; looks < 4; looks++) expect(bare.look(recorderOf(map)).answered).toBe(false);
    for (let i = 0; i < 6; i++) bare.sample();
    expect(bare.look(recorderOf(map)).answered).toBe(false);
    for (let i = 0; i < 6; i++) bare.sample();
    for (let i = 0; i < 3; i++) bare.edge({});
    expect(bare.told(recorderOf(map))).toMatchObject({ answered: true, status: 'idle' });
  });
});
