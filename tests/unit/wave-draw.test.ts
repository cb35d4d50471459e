// What the waveform draws, with a canvas that only remembers: however far away one looks, nothing short is lost.
import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { type Recording, rangesOf, stepsOf, type Trace } from '../../core/wave/index.ts';
import { recordingFrom } from '../support/wave-model.ts';
import { draw, type DrawnRow, rowHeight, type Scene } from '../../ui/wave/draw.ts';

type Rect = readonly [x: number, y: number, width: number, height: number];

/** Path of lines and boxes. */
class Remembering {
  readonly rects: Rect[] = [];
  readonly points: [number, number][] = [];
  rect(...rect: Rect): void {
    this.rects.push(rect);
  }
  moveTo(x: number, y: number): void {
    this.points.push([x, y]);
  }
  lineTo(x: number, y: number): void {
    this.points.push([x, y]);
  }
}

beforeAll(() => {
  (globalThis as { Path2D?: unknown }).Path2D = Remembering;
});

function drawn(recording: Recording, rows: readonly DrawnRow[], width: number, view: Scene['view']) {
  const paths: Remembering[] = [];
  const hatched: Rect[] = [];
  const colours: string[] = [];
  const ignored = new Proxy({ canvas: { width } } as Record<string, unknown>, {
    get: (target, name) => {
      if (name === 'stroke' || name === 'fill')
        return (path?: Remembering) => {
          if (path) {
            paths.push(path);
            colours.push(String(target.strokeStyle));
          }
        };
      if (name === 'rect') return (...rect: Rect) => hatched.push(rect);
      return name in target ? target[name as string] : () => undefined;
    },
    set: (target, name, value) => {
      target[name as string] = value;
      return true;
    },
  });
  const { traces: _, ...axis } = recording;
  draw(
    ignored as never,
    width,
    rows.reduce((sum, row) => sum + rowHeight(row), 0),
    {
      axis,
      rows,
      view,
      domains: ['top.clk', 'top.slow'],
      marked: [],
      markedBad: false,
      differences: [],
      incidents: [],
    },
  );
  return { paths, hatched, colours };
}

const rowOf = (trace: Trace, length: number, analog = false): DrawnRow => ({
  kind: 'signal',
  id: trace.name,
  name: trace.name,
  drawn: { trace, steps: stepsOf(trace, length), ranges: analog ? rangesOf(trace, false) : null },
  radix: { kind: 'hex' },
  analog,
});

const LENGTH = 1_000_000;
/** A signal of one sample at `at`, among `others` changes elsewhere. */
function pulse(at: number, width: number): Trace {
  const edges = [0, at, at + 1].filter((tick, i) => i === 0 || tick > 0);
  return {
    name: 'top.p',
    width,
    signed: false,
    domain: 'top.clk',
    words: 1,
    at: Float64Array.from(edges),
    bits: Uint32Array.from(edges.map((tick) => (tick === at ? 1 : 0))),
    unknown: null,
  };
}

const whole = (trace: Trace): Recording => ({
  ...recordingFrom({ 'top.x': ['0'] }),
  traces: [trace],
  length: LENGTH,
  triggers: [],
});

describe('levels of detail', () => {
  test.each([
    ['a bit', 1, false],
    ['a word', 8, false],
    ['a curve', 8, true],
  ] as const)('one sample in a million shows at its pixel, as %s, at any zoom', (_, width, analog) => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: LENGTH - 2 }),
        fc.integer({ min: 200, max: 1600 }),
        fc.double({ min: 0.0001, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (at, pixels, zoom, shift) => {
          const trace = pulse(at, width);
          const perPixel = Math.max(0.05, (LENGTH / pixels) * zoom);
          const first = Math.max(0, Math.min(LENGTH - pixels * perPixel, at - shift * pixels * perPixel));
          const x = (at - first) / perPixel;
          if (x < 0 || x >= pixels - 1) return;
          const { paths } = drawn(whole(trace), [rowOf(trace, LENGTH, analog)], pixels, { first, perPixel });
          const high = 5;
          const boxes = paths.flatMap(({ rects }) => rects).some(([left, , wide]) => left <= x + 1 && left + wide >= x);
          // Wide enough to be seen by itself, it is a line that goes up, or a new box, at its place.
          const lines = paths
            .flatMap(({ points }) => points)
            .some(([px, py]) => Math.abs(px - x) <= 1.5 && (width > 1 || Math.abs(py - high) < 0.01));
          expect(boxes || lines, `${at} at pixel ${x}`).toBe(true);
        },
      ),
      { numRuns: 300 },
    );
  });

  test('unknown is hatched, and colour follows the clock', () => {
    const recording = recordingFrom({ 'top.a': [...'01xx10'], 'top.b': [...'000111'] });
    const [a, b] = recording.traces as [Trace, Trace];
    const { hatched, colours } = drawn(recording, [rowOf(a, 6), rowOf({ ...b, domain: 'top.slow' }, 6)], 600, {
      first: 0,
      perPixel: 0.01,
    });
    expect(hatched.map(([x, , width]) => [x, width])).toEqual([[200, 200]]);
    expect(new Set(colours).size).toBe(2);
  });
});
