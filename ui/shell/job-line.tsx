'use client';
import { ChevronDown, ChevronUp, CircleCheck, CircleSlash, OctagonAlert } from 'lucide-react';
import { useThrottledValue } from '@tanstack/react-pacer';
import { useState } from 'react';
import type { Job } from '../../server/index.ts';
import { clockTime, duration, JobProgress, useLive, IconButton } from '../shared/index.ts';

/** What runs, how far; what came of the last one. Unfolds to the jobs of this session. */
export function JobLine() {
  const [open, setOpen] = useState(false);
  const jobs = useLive('jobs')?.jobs ?? [];
  const running = jobs.find((job) => job.state === 'running') ?? jobs.find((job) => job.state === 'waiting');
  const last = jobs.find((job) => job.endedAt !== null);
  return (
    <footer className="shrink-0 border-line border-t bg-raised">
      {open && (
        <ol className="max-h-56 overflow-auto border-line border-b px-4 py-1" aria-label="Jobs">
          {jobs.length === 0 && <li className="py-2 text-quiet text-sm">Nothing has been asked for yet.</li>}
          {jobs.map((job) => (
            <li key={job.id} className="py-1 text-sm">
              {job.endedAt === null ? <JobProgress job={job} /> : <Ended job={job} />}
            </li>
          ))}
        </ol>
      )}
      <Spoken job={running ?? last} />
      <div className="flex h-10 items-center gap-3 px-4">
        <div className="min-w-0 flex-1" data-testid="job-line" data-job={(running ?? last)?.id ?? 0}>
          {running ? (
            <JobProgress job={running} />
          ) : last ? (
            <Ended job={last} />
          ) : (
            <span className="text-quiet text-sm">No job has run yet.</span>
          )}
        </div>
        <IconButton
          aria-expanded={open}
          label={open ? 'Fold the jobs' : 'Unfold the jobs'}
          onClick={() => setOpen(!open)}
        >
          {open ? <ChevronDown className="size-4" /> : <ChevronUp className="size-4" />}
        </IconButton>
      </div>
    </footer>
  );
}

const SPOKEN_MILLISECONDS = 1000;
/** Every tenth is worth a word; every per cent is a stream of them. */
const SPOKEN_STEP = 10;

/** What the line shows, for who hears the page: at most once a second, and no more often than it says something new. */
function Spoken({ job }: { readonly job: Job | undefined }) {
  const [said] = useThrottledValue(job ? spokenOf(job) : '', { wait: SPOKEN_MILLISECONDS });
  return (
    <p role="status" className="sr-only">
      {said}
    </p>
  );
}

function spokenOf({ title, state, message, progress, endedAt }: Job): string {
  if (endedAt !== null) return `${title} ${state}: ${message}`;
  if (!progress || progress.total <= 0) return `${title}: ${progress?.phase ?? state}`;
  const tenths = Math.floor((progress.done / progress.total) * (100 / SPOKEN_STEP));
  return `${title}: ${progress.phase}, ${tenths * SPOKEN_STEP} %`;
}

function Ended({ job }: { readonly job: Job }) {
  const Icon = job.state === 'done' ? CircleCheck : job.state === 'cancelled' ? CircleSlash : OctagonAlert;
  const tone = job.state === 'done' ? 'text-good' : job.state === 'cancelled' ? 'text-quiet' : 'text-bad';
  return (
    <div className="flex min-w-0 items-center gap-2 text-sm">
      <Icon aria-hidden className={`size-4 shrink-0 ${tone}`} />
      <span className="shrink-0 font-bold">{job.title}</span>
      <span className="shrink-0 text-quiet">{job.state}</span>
      <span className="min-w-0 truncate" title={job.message}>
        {job.message}
      </span>
      <span className="tabular ml-auto shrink-0 pl-2 text-quiet">
        {clockTime(job.startedAt)} · {duration((job.endedAt ?? job.startedAt) - job.startedAt)}
      </span>
    </div>
  );
}
