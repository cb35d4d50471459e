'use client';
import { useDebouncer } from '@tanstack/react-pacer';
import { useCallback, useEffect } from 'react';
import type { WaveView } from '../../core/wave/index.ts';

/** How long after a change the way a record is looked at is saved. */
const SAVE_MILLISECONDS = 600;

/**
 * Saves how a record is looked at, a moment after the last change, and before another one is looked at; `of` tells
 * which it is, null for one whose view is not kept.
 */
export function useLateSave<K extends string | number>(
  of: K | null,
  save: (of: K, view: WaveView) => void,
): (view: WaveView) => void {
  const later = useDebouncer(save, {
    wait: SAVE_MILLISECONDS,
    onUnmount: (debouncer) => debouncer.flush(),
  });
  // What waits is of the one before.
  // biome-ignore lint/correctness/useExhaustiveDependencies: at each change of the record, before the next is shown
  useEffect(() => () => later.flush(), [of, later]);
  return useCallback((view: WaveView) => of !== null && later.maybeExecute(of, view), [of, later]);
}
