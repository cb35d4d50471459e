'use client';
import { wrap } from 'comlink';
import type { ELK } from 'elkjs/lib/elk-api';
import { useEffect, useRef, useState } from 'react';
import { countBoxes, type Schematic } from '../../../core/schematic/index.ts';
import { elkGraph, type PlacedDrawing, placedDrawing } from './layout.ts';

/** Up to here the layout engine looks for few crossings; beyond, that takes many seconds and columns must do. */
const LARGE = 300;
/** Long chains can keep the engine busy for minutes even below that; then columns must do too. */
const PATIENCE_MS = 1500;

/** Places for a drawing, from a worker; null until they are there. */
export function useLayout(drawing: Schematic | null): {
  readonly placed: PlacedDrawing | null;
  readonly trouble: string | null;
  /** A newer drawing is being laid out. */
  readonly isBusy: boolean;
} {
  const engine = useRef<Promise<ELK> | null>(null);
  const count = useRef(0);
  const [state, setState] = useState<{ of: Schematic | null; placed: PlacedDrawing | null; trouble: string | null }>({
    of: null,
    placed: null,
    trouble: null,
  });
  useEffect(
    () => () => {
      void engine.current?.then((elk) => elk.terminateWorker());
      engine.current = null;
    },
    [],
  );
  useEffect(() => {
    if (!drawing) return;
    const question = ++count.current;
    // An answer to an older question is not wanted any more.
    const answer = (next: { placed: PlacedDrawing | null; trouble: string | null }) =>
      question === count.current && setState({ of: drawing, ...next });
    const failed = (error: { readonly message: string }) =>
      answer({ placed: null, trouble: `This drawing could not be laid out: ${error.message}` });
    if (countBoxes(drawing) > LARGE) return inColumns(drawing, (placed) => answer({ placed, trouble: null }), failed);
    engine.current ??= startEngine();
    let columns: (() => void) | null = null;
    const impatient = setTimeout(() => {
      void engine.current?.then((elk) => elk.terminateWorker());
      engine.current = null;
      columns = inColumns(drawing, (placed) => answer({ placed, trouble: null }), failed);
    }, PATIENCE_MS);
    engine.current
      .then((elk) => elk.layout(elkGraph(drawing)))
      .then((laid) => columns === null && answer({ placed: placedDrawing(drawing, laid), trouble: null }))
      .catch(failed)
      .finally(() => clearTimeout(impatient));
    return () => {
      clearTimeout(impatient);
      columns?.();
    };
  }, [drawing]);
  return { placed: state.placed, trouble: state.trouble, isBusy: state.of !== drawing };
}

async function startEngine(): Promise<ELK> {
  const { default: Elk } = await import('elkjs/lib/elk-api.js');
  return new Elk({
    workerFactory: () => new Worker(new URL('./layout.worker.ts', import.meta.url), { type: 'module' }),
  });
}

function inColumns(
  drawing: Schematic,
  onPlaced: (placed: PlacedDrawing) => void,
  onFailed: (error: { readonly message: string }) => void,
): () => void {
  const worker = new Worker(new URL('./layers.worker.ts', import.meta.url), { type: 'module' });
  worker.onerror = onFailed;
  const { placeInLayers } = wrap<{ placeInLayers: (drawing: Schematic) => PlacedDrawing }>(worker);
  placeInLayers(drawing).then(onPlaced, onFailed);
  return () => worker.terminate();
}
