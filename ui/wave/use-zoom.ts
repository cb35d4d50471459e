'use client';
import { useCallback, useState } from 'react';
import { zeroOf } from '../../core/wave/index.ts';
import type { View } from './draw.ts';
import type { OpenRecord } from './use-record.ts';

const CLOSEST = 1 / 60;
const STEP = 1.25;

/** Which stretch of the axis is on so many pixels, and ways to another one. */
export interface Zoom {
  readonly shown: View;
  readonly set: (next: View) => void;
  /** Keeps what is at a pixel where it is. */
  readonly at: (pixel: number, factor: number) => void;
  readonly closer: () => void;
  readonly wider: () => void;
  readonly toWhole: () => void;
  readonly toTrigger: () => void;
  /** Brings a place into sight, where it is not. */
  readonly show: (tick: number) => void;
}

export function useZoom(axis: OpenRecord['opened']['axis'], width: number): Zoom {
  const [chosen, setChosen] = useState<View | null>(null);
  const whole: View = { first: 0, perPixel: axis.length / Math.max(1, width) };
  const shown = chosen ?? whole;
  const clamp = useCallback(
    (next: View): View => ({
      perPixel: Math.min(Math.max(next.perPixel, CLOSEST), (axis.length * 1.1) / Math.max(1, width)),
      first: Math.min(Math.max(next.first, -axis.length * 0.05 - width * next.perPixel * 0.5), axis.length),
    }),
    [axis.length, width],
  );
  const at = useCallback(
    (pixel: number, factor: number) =>
      setChosen((old) => {
        const from = old ?? { first: 0, perPixel: axis.length / Math.max(1, width) };
        const next = clamp({ first: from.first, perPixel: from.perPixel * factor });
        return { ...next, first: from.first + pixel * (from.perPixel - next.perPixel) };
      }),
    [axis.length, width, clamp],
  );
  const set = useCallback((next: View) => setChosen(clamp(next)), [clamp]);
  const middle = width / 2;
  return {
    shown,
    set,
    at,
    closer: () => at(middle, 1 / (STEP * STEP)),
    wider: () => at(middle, STEP * STEP),
    toWhole: () => setChosen(null),
    toTrigger: () => {
      const perPixel = Math.min(shown.perPixel, whole.perPixel / 4);
      setChosen({ perPixel, first: zeroOf(axis) - middle * perPixel });
    },
    show: (tick) => {
      if (tick >= shown.first && tick <= shown.first + width * shown.perPixel) return;
      setChosen({ perPixel: shown.perPixel, first: tick - middle * shown.perPixel });
    },
  };
}
