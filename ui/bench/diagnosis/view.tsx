'use client';
import { clsx } from 'clsx';
import { Check, Minus, X } from 'lucide-react';
import { Button, clockTime, Empty, JobProgress, useAct, useLatestJob, useLive, api } from '../../shared/index.ts';

const MARKS = { pass: Check, fail: X, 'not-reached': Minus } as const;
const SAYS = { pass: 'holds', fail: 'fails', 'not-reached': 'not reached' } as const;

/** The ladder from the pod to the chips. The first rung that fails says what to check on the desk. */
export function DiagnosisView() {
  const state = useLive('ladder', 'pod');
  const { busy, act } = useAct();
  const job = useLatestJob('diagnose');
  const ladder = state?.ladder ?? null;
  const running = job?.endedAt === null;
  return (
    <>
      <div className="mb-3 flex items-center gap-3 text-sm">
        <Button
          look="main"
          disabled={busy || running || state?.pod.state !== 'connected'}
          onClick={() => act(() => api.jobs.start.mutate({ kind: 'diagnose' }))}
        >
          Climb the ladder
        </Button>
        <span className="text-quiet">
          {ladder ? `Measured at ${clockTime(ladder.time)}.` : ''} It also climbs by itself when a scan or a load fails.
        </span>
      </div>
      {running && job && <JobProgress job={job} />}
      {!ladder && !running && (
        <Empty>Nothing has been measured yet. Climb the ladder; it takes less than a second.</Empty>
      )}
      {ladder && (
        <ol className="border border-line bg-raised" data-testid="ladder">
          {ladder.rungs.map(({ name, question, state: how, measured, tryNext }, i) => {
            const Mark = MARKS[how];
            return (
              <li
                key={name}
                data-rung={name}
                data-state={how}
                className={clsx(
                  'grid grid-cols-[2rem_16rem_minmax(0,1fr)] gap-x-2 border-line border-t px-3 py-1.5 text-sm ' +
                    'first:border-t-0',
                  how === 'not-reached' && 'text-quiet',
                )}
              >
                <span
                  className={clsx(
                    'flex items-start gap-1 pt-0.5',
                    how === 'pass' && 'text-good',
                    how === 'fail' && 'text-bad',
                  )}
                >
                  <Mark aria-label={SAYS[how]} className="size-4" />
                  <span className="tabular text-quiet text-xs">{i + 1}</span>
                </span>
                <span className={clsx(how === 'fail' && 'font-bold')}>{question}</span>
                <span className="min-w-0">
                  <span className={clsx('break-words', how === 'fail' && 'font-bold')}>{measured}</span>
                  {tryNext.length > 0 && (
                    <ol className="mt-1 list-decimal pl-5">
                      {tryNext.map((step) => (
                        <li key={step}>{step}</li>
                      ))}
                    </ol>
                  )}
                </span>
              </li>
            );
          })}
        </ol>
      )}
    </>
  );
}
