'use client';
import { useCallback, useEffect, useState } from 'react';
import type { TextFile } from '../../core/build/index.ts';
import { api, fetchFile, useAct, useLive } from '../shared/index.ts';
import type { SimulatedBeside } from '../wave/index.ts';

/** A testbench that runs, as a job of the server. */
interface Running {
  readonly job: number;
  readonly instance: string;
  readonly testbench: string;
}

interface Simulation {
  /** What the last run made; null before there was one. */
  readonly beside: SimulatedBeside | null;
  readonly run: (instance: string, testbench: string, files: readonly TextFile[]) => Promise<void>;
}

/** Runs testbenches of records; what comes of one is fetched when its job has ended well. */
export function useSimulation(): Simulation {
  const { act } = useAct();
  const [running, setRunning] = useState<Running | null>(null);
  const [beside, setBeside] = useState<SimulatedBeside | null>(null);
  const jobs = useLive('jobs')?.jobs ?? [];
  const job = jobs.find(({ id }) => id === running?.job);
  const isOver = job !== undefined && job.endedAt !== null;
  const run = useCallback(
    async (instance: string, testbench: string, files: readonly TextFile[]) => {
      const started = await act(() => api.replay.simulate.mutate({ testbench, files: [...files] }));
      if (started) setRunning({ job: started.id, instance, testbench });
    },
    [act],
  );
  useEffect(() => {
    if (!running || !isOver) return;
    setRunning(null);
    void act(async () => {
      const made = await api.design.simulation.query();
      if (made?.testbench !== running.testbench) return;
      const dump = await fetchFile(`/api/simulations/${made.id}`);
      setBeside({
        ...{ instance: running.instance, testbench: running.testbench, dump },
        finished: made.result.ending === 'finish',
        printed: [
          ...made.result.messages.filter(({ severity }) => severity === 'error').map((one) => one.message),
          made.result.output,
        ]
          .join('\n')
          .trim(),
      });
    });
  }, [running, isOver, act]);
  return { beside, run };
}
