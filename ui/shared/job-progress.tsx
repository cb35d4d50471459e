'use client';
import { Progress } from 'radix-ui';
import type { Job } from '../../server/index.ts';
import { useAct, api } from './ask.ts';
import { Button } from './button.tsx';
import { duration, quantity } from './format.ts';
import { useLiveWith } from './live.tsx';

/** The newest job of some kinds, ended or not, that was done for the board and the project that are open. */
export function useLatestJob(...kinds: readonly Job['kind'][]): Job | null {
  return useLiveWith((state) => state?.jobs.find((job) => job.isHere && kinds.includes(job.kind)) ?? null);
}

/** Ended badly, or cut off by a lost pod. */
export const hasFailed = (job: Job | null | undefined): boolean =>
  job?.state === 'failed' || job?.state === 'interrupted';

/** How far a running job is, how long still, and the way to stop it. Takes its room only while it runs. */
export function JobProgress({ job }: { readonly job: Job }) {
  const { act } = useAct();
  const { progress } = job;
  const share = progress && progress.total > 0 ? progress.done / progress.total : null;
  return (
    <div className="flex items-center gap-3 text-sm" data-testid="progress">
      <span className="w-40 shrink-0 truncate">
        {progress?.phase ?? (job.state === 'waiting' ? 'Waiting its turn' : 'Starting')}
      </span>
      <Progress.Root
        className="h-2 min-w-16 flex-1 bg-well"
        value={share === null ? null : Math.round(share * 100)}
        aria-label={job.title}
      >
        <Progress.Indicator
          className="block h-full bg-signal"
          style={{ width: share === null ? '100%' : `${share * 100}%`, opacity: share === null ? 0.35 : 1 }}
        />
      </Progress.Root>
      <span className="tabular w-80 shrink-0 truncate text-right text-quiet">
        {progress &&
          progress.total > 0 &&
          `${quantity(progress.done, progress.unit)} of ${quantity(progress.total, progress.unit)}`}
        {progress &&
          job.etaMilliseconds !== null &&
          job.etaMilliseconds > 0 &&
          `, ${quantity(((progress.total - progress.done) * 1000) / job.etaMilliseconds, progress.unit)}/s, ` +
            `${duration(job.etaMilliseconds)} left`}
      </span>
      <Button onClick={() => act(() => api.jobs.cancel.mutate({ id: job.id }))}>Cancel</Button>
    </div>
  );
}
