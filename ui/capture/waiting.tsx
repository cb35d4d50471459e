'use client';
import { counted } from '../../core/words.ts';
import { Square, Zap } from 'lucide-react';
import type { WorkState } from '../../server/index.ts';
import { Button, frequency, JobProgress, useAct, useLive, api } from '../shared/index.ts';

type Armed = WorkState['armed'][number];

const STATUS: Readonly<Record<Armed['status'], string>> = {
  idle: 'not armed',
  filling: 'filling',
  waiting: 'waiting',
  triggered: 'triggered',
  done: 'full',
  unreachable: 'not reachable',
};

/** An armed recorder: what it waits for, what it sees, and that its clock is alive. */
export function Waiting({ armed }: { readonly armed: Armed }) {
  const { act, busy } = useAct();
  const jobs = useLive('jobs')?.jobs.filter((job) => job.kind === 'capture' && job.endedAt === null) ?? [];
  // Jobs of several recorders are told apart by the order in which they were armed.
  const order =
    useLive('armed')
      ?.armed.map(({ recorder, since }) => ({ recorder, since }))
      .sort((a, b) => a.since - b.since) ?? [];
  const job = [...jobs].sort((a, b) => a.startedAt - b.startedAt)[
    order.findIndex(({ recorder }) => recorder === armed.recorder)
  ];
  return (
    <div className="mb-2 border border-line bg-raised px-3 py-2" data-testid="waiting">
      {job && <JobProgress job={job} />}
      <div className="mt-1 flex items-start gap-3">
        <p className="tabular min-w-0 flex-1 text-quiet text-sm">
          {armed.recorder}: {STATUS[armed.status]}, {armed.when || 'at once'}
          {armed.keep !== '' && `, storing when ${armed.keep}`}, sampling clock{' '}
          {armed.conditions === null && armed.status !== 'done'
            ? 'not answering'
            : 'alive at ' +
              `${frequency(armed.sampleRate)}` +
              `${armed.measuredHertz === null ? '' : `, measured ${frequency(armed.measuredHertz)}`}`}
          {armed.stages > 1 && `, stage ${armed.stage + 1} of ${armed.stages}`}
          {armed.segments > 1 && `, segment ${armed.segment + 1} of ${armed.segments}`}
          {armed.left > 0 && `, ${counted(armed.left, 'sample')} to come before a trigger counts`}
          {armed.taken > 0 && `, ${armed.taken} taken before`}
        </p>
        <Button
          className="h-7"
          disabled={busy || armed.status !== 'waiting'}
          onClick={() => act(() => api.capture.trigger.mutate({ recorder: armed.recorder }))}
          title="Triggers with the next sample, whatever the condition says"
        >
          <Zap aria-hidden className="size-4" /> Trigger now
        </Button>
        <Button
          className="h-7"
          disabled={busy || (armed.status !== 'triggered' && armed.segment === 0)}
          onClick={() => act(() => api.capture.halt.mutate({ recorder: armed.recorder }))}
          title="Keeps what was recorded since the trigger, however little"
        >
          <Square aria-hidden className="size-4" /> Stop and read what is there
        </Button>
      </div>
      <Conditions armed={armed} />
    </div>
  );
}

/** Every comparison while it is waited for: true or not now, and how often it was. */
function Conditions({ armed }: { readonly armed: Armed }) {
  if (armed.status === 'unreachable')
    return (
      <p className="text-doubt text-sm">
        The connection is lost. The recorder goes on by itself; what it takes is fetched when the board answers again.
      </p>
    );
  if (armed.conditions === null)
    return armed.status === 'done' ? null : (
      <p className="text-doubt text-sm">The sampling clock does not answer; it stands still or is very slow.</p>
    );
  if (armed.conditions.length === 0) return null;
  return (
    <table className="mt-1 text-sm" data-testid="conditions">
      <tbody>
        {armed.conditions.map(({ label, now, seen }) => (
          <tr key={label}>
            <td className="code pr-6">{label}</td>
            <td className={now ? 'w-16 text-good' : 'w-16 text-quiet'}>{now ? 'true' : 'false'}</td>
            <td className="tabular text-quiet">
              true in {seen.toLocaleString('en')} {seen === 1 ? 'sample' : 'samples'} so far
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
