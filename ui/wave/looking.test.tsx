// @vitest-environment happy-dom
import { act, renderHook } from '@testing-library/react';
import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import { type Axis, stepsOf, traceOf } from '../../tests/support/page/axis.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { Cursors } from './cursors.tsx';
import type { Scene } from './draw.ts';
import { freePlace, nextName } from './new-cursor.ts';
import { usePointer } from './use-pointer.ts';
import type { Waves } from './use-waves.ts';
import { useZoom } from './use-zoom.ts';

const WIDTH = 800;
const AXIS: Axis = stepsOf(1000, 250);

describe('zoom', () => {
  const zoom = () => renderHook(() => useZoom(AXIS, WIDTH)).result;

  test('begins with the whole record, and comes back to it', () => {
    const now = zoom();
    expect(now.current.shown).toEqual({ first: 0, perPixel: 1000 / WIDTH });
    act(() => now.current.closer());
    expect(now.current.shown.perPixel).toBeLessThan(1000 / WIDTH);
    act(() => now.current.toWhole());
    expect(now.current.shown).toEqual({ first: 0, perPixel: 1000 / WIDTH });
  });

  test('at a pixel keeps what is there where it is', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: WIDTH }), fc.double({ min: 0.3, max: 0.95, noNaN: true }), (pixel, by) => {
        const now = zoom();
        const tick = () => now.current.shown.first + pixel * now.current.shown.perPixel;
        const before = tick();
        act(() => now.current.at(pixel, by));
        expect(tick()).toBeCloseTo(before, 6);
      }),
      { numRuns: 40 },
    );
  });

  test('never goes closer than a tick of sixty pixels, nor wider than the record and a tenth', () => {
    const now = zoom();
    for (let i = 0; i < 60; i++) act(() => now.current.closer());
    expect(now.current.shown.perPixel).toBeCloseTo(1 / 60, 9);
    for (let i = 0; i < 90; i++) act(() => now.current.wider());
    expect(now.current.shown.perPixel).toBeCloseTo((1000 * 1.1) / WIDTH, 9);
  });

  test('to the trigger puts it in the middle; a place out of sight is brought into it, one in sight left', () => {
    const now = zoom();
    act(() => now.current.toTrigger());
    const { first, perPixel } = now.current.shown;
    expect(first + (WIDTH / 2) * perPixel).toBeCloseTo(250, 9);
    const before = now.current.shown;
    act(() => now.current.show(251));
    expect(now.current.shown).toBe(before);
    act(() => now.current.show(900));
    expect(now.current.shown.first + (WIDTH / 2) * now.current.shown.perPixel).toBeCloseTo(900, 9);
  });
});

describe('a pointer on the waves', () => {
  const scene = (over: Partial<Scene> = {}): Scene => ({
    ...{ axis: AXIS, rows: [], view: { first: 0, perPixel: 1 }, domains: [], marked: [] },
    ...{ markedBad: false, differences: [], incidents: [] },
    ...over,
  });
  /** Presses, moves and lets go at such places. */
  const drag = (shift: boolean, places: readonly number[], over: Partial<Scene> = {}) => {
    const heard = { onView: vi.fn(), onZoom: vi.fn(), onCursor: vi.fn(), onBox: vi.fn() };
    const cursors = [{ name: 'A', tick: 100 }];
    const { result } = renderHook(() =>
      usePointer({ scene: scene(over), width: WIDTH, cursors, active: 0, scrolled: 0, ...heard }),
    );
    const event = (x: number, pointerId = 1) =>
      ({
        nativeEvent: { offsetX: x, offsetY: 40 },
        currentTarget: { setPointerCapture: () => {}, style: {} },
        ...{ pointerId, shiftKey: shift },
      }) as never;
    const [from = 0, ...rest] = places;
    result.current.onPointerDown(event(from));
    for (const x of rest) result.current.onPointerMove(event(x));
    const box = result.current.box();
    result.current.onPointerUp(event(places.at(-1) ?? 0));
    return { ...heard, box, result, event };
  };

  test('a drag pans, by as much as it moved', () => {
    const { onView, onCursor } = drag(false, [500, 480, 450]);
    expect(onView).toHaveBeenLastCalledWith({ first: 50, perPixel: 1 });
    expect(onCursor).not.toHaveBeenCalled();
  });

  test('a click moves the chosen cursor, also where it trembles', () => {
    const { onView, onCursor } = drag(false, [500, 502]);
    expect(onCursor).toHaveBeenLastCalledWith(0, 502);
    expect(onView).not.toHaveBeenCalled();
  });

  test('a cursor under the pointer is dragged', () => {
    const { onCursor } = drag(false, [102, 140, 160]);
    expect(onCursor.mock.calls).toEqual([
      [0, 140],
      [0, 160],
    ]);
  });

  test('with Shift a box is drawn, and zoomed to when it is let go', () => {
    const { onBox, onView, box } = drag(true, [200, 300, 400]);
    expect(onBox).toHaveBeenCalledTimes(2);
    expect(box).toMatchObject({ x: 200, now: 400 });
    expect(onView).toHaveBeenLastCalledWith({ first: 200, perPixel: 200 / WIDTH });
  });

  test('near an edge of the row a click takes the edge', () => {
    const row = { kind: 'signal', id: 'r', name: 'a', radix: { kind: 'hex' }, analog: false } as const;
    const drawn = { trace: traceOf([0, 300, 600]), ranges: null } as never;
    const { onCursor } = drag(false, [305], { rows: [{ ...row, drawn }] });
    expect(onCursor).toHaveBeenLastCalledWith(0, 300);
  });

  test('two pointers pinch', () => {
    const { result, event, onZoom } = drag(false, [400]);
    result.current.onPointerDown(event(300, 1));
    result.current.onPointerDown(event(500, 2));
    result.current.onPointerMove(event(600, 2));
    expect(onZoom).toHaveBeenLastCalledWith(450, 200 / 300);
  });
});

describe('cursors', () => {
  const waves = (names: readonly string[], active = 0) => {
    const cursors = { choose: vi.fn(), move: vi.fn(), add: vi.fn(), rename: vi.fn(), remove: vi.fn() };
    const view = { rows: [], cursors: names.map((name, i) => ({ name, tick: i * 120 })), notes: [], rules: [] };
    return { cursors, waves: { axis: AXIS, view, active, cursors } as unknown as Waves };
  };

  test('each tells how far it is from the chosen one: ticks, time, frequency', async () => {
    const { waves: one } = waves(['A', 'B']);
    const { screen } = await renderPage(<Cursors waves={one} />);
    // 120 ticks of 1 µs.
    expect(screen.getByTestId('cursors').textContent).toMatch(/120 · 120(\.0+)? µs · 8\.333 kHz/);
  });

  test('are chosen, renamed by two presses or F2, removed, added', async () => {
    const { waves: two, cursors } = waves(['A', 'B']);
    const { screen, user } = await renderPage(<Cursors waves={two} />);
    await user.dblClick(screen.getByRole('button', { name: 'Cursor B' }));
    await user.clear(screen.getByLabelText('Name of the cursor'));
    await user.type(screen.getByLabelText('Name of the cursor'), 'edge{Enter}');
    screen.getByRole('button', { name: 'Cursor A' }).focus();
    await user.keyboard('{F2}');
    await user.keyboard('{Escape}');
    await user.click(screen.getByRole('button', { name: 'Remove cursor B' }));
    await user.click(screen.getByRole('button', { name: 'Cursor' }));
    expect(cursors.rename.mock.calls).toEqual([
      [1, 'edge'],
      [0, 'A'],
    ]);
    expect([cursors.choose.mock.calls[0], cursors.remove.mock.calls[0]]).toEqual([[1], [1]]);
    expect(cursors.add).toHaveBeenCalledTimes(1);
  });

  test('a name that another one has is not taken', async () => {
    const { waves: two, cursors } = waves(['A', 'B']);
    const { screen, user } = await renderPage(<Cursors waves={two} />);
    await user.dblClick(screen.getByRole('button', { name: 'Cursor B' }));
    await user.clear(screen.getByLabelText('Name of the cursor'));
    await user.type(screen.getByLabelText('Name of the cursor'), 'A{Enter}');
    expect(cursors.rename).not.toHaveBeenCalled();
  });

  test('the last one stays', async () => {
    const { waves: one } = waves(['A']);
    const { screen } = await renderPage(<Cursors waves={one} />);
    expect(screen.queryByRole('button', { name: 'Remove cursor A' })).toBeNull();
  });

  test('a new one has the next free letter, and a place in sight away from the others', () => {
    expect(nextName([])).toBe('A');
    expect(nextName(['A', 'C'])).toBe('B');
    expect(nextName(Array.from({ length: 26 }, (_, i) => String.fromCharCode(65 + i)))).toBe('A1');
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 1000 }), { maxLength: 8 }),
        fc.integer({ min: 0, max: 700 }),
        (ticks, first) => {
          const view = { first, perPixel: 300 / WIDTH };
          const cursors = ticks.map((tick, i) => ({ name: String(i), tick }));
          const place = freePlace(AXIS, view, WIDTH, cursors);
          expect(place).toBeGreaterThanOrEqual(first - 1);
          expect(place).toBeLessThanOrEqual(first + 301);
          for (const { tick } of cursors) expect(Math.abs(tick - place) / view.perPixel).toBeGreaterThan(15);
        },
      ),
    );
  });
});
