'use client';
import type { ELK } from 'elkjs/lib/elk-api';
import { useEffect, useRef, useState } from 'react';
import type { Schematic } from '../../../core/schematic/index.ts';
import { elkGraph, type PlacedDrawing, placedDrawing } from './layout.ts';

/** Places for a drawing, from a worker; null until they are there. */
export function useLayout(drawing: Schematic | null): { readonly placed: PlacedDrawing | null; readonly trouble: string | null } {
  const engine = useRef<Promise<ELK> | null>(null);
  const count = useRef(0);
  const [state, setState] = useState<{ placed: PlacedDrawing | null; trouble: string | null }>({ placed: null, trouble: null });
  useEffect(
    () => () => {
      void engine.current?.then((elk) => elk.terminateWorker());
      engine.current = null;
    },
    [],
  );
  useEffect(() => {
    if (!drawing) return;
    engine.current ??= startEngine();
    const question = ++count.current;
    // An answer to an older question is not wanted any more.
    const answer = (next: { placed: PlacedDrawing | null; trouble: string | null }) => question === count.current && setState(next);
    engine.current
      .then((elk) => elk.layout(elkGraph(drawing)))
      .then((laid) => answer({ placed: placedDrawing(drawing, laid), trouble: null }))
      .catch((error: Error) => answer({ placed: null, trouble: `This drawing could not be laid out: ${error.message}` }));
  }, [drawing]);
  return state;
}

async function startEngine(): Promise<ELK> {
  const { default: Elk } = await import('elkjs/lib/elk-api.js');
  return new Elk({ workerFactory: () => new Worker(new URL('./layout.worker.ts', import.meta.url), { type: 'module' }) });
}
