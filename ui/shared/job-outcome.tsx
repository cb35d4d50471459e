'use client';
import type { Job } from '../../server/index.ts';
import { hasFailed, JobProgress } from './job-progress.tsx';
import { ProblemNote } from './problem-note.tsx';

interface Props {
  readonly job: Job | null;
  /** Whether a good end is worth a sentence on this station. */
  readonly tellDone?: boolean;
  /** Problems that the station shows in its own way. */
  readonly except?: string;
}

/** A station's own job: how far it is, then what came of it. */
export function JobOutcome({ job, tellDone = false, except }: Props) {
  if (!job) return null;
  if (job.endedAt === null)
    return (
      <div className="mb-3">
        <JobProgress job={job} />
      </div>
    );
  if (hasFailed(job) && job.problem && job.problem.code !== except) return <ProblemNote problem={job.problem} />;
  if (job.state === 'done' && tellDone)
    return <p className="mb-3 border-good border-l-4 bg-raised px-3 py-2">{job.message}</p>;
  return null;
}
