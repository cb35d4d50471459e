'use client';
import { wrap } from 'comlink';
import { useEffect, useState } from 'react';
import type { Result } from '../../core/result.ts';
import type { PlanWorker, ProposeAsk, Proposed } from './messages.ts';

/** Proposals for what is wanted, reckoned in a worker of its own; what was wanted before is given up. Null meanwhile. */
export function useProposals(ask: ProposeAsk | null): Result<Proposed> | null {
  const key = ask === null ? '' : JSON.stringify([ask.see, ask.insist, ask.never]);
  const [found, setFound] = useState<{ readonly of: string; readonly result: Result<Proposed> } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key tells what is asked
  useEffect(() => {
    if (ask === null) return;
    const worker = new Worker(new URL('./plan.worker.ts', import.meta.url), { type: 'module' });
    void wrap<PlanWorker>(worker)
      .propose(ask)
      .then((result) => setFound({ of: key, result }));
    return () => worker.terminate();
  }, [key, ask?.project]);
  return found?.of === key ? found.result : null;
}
