'use client';
import { FileUp, Play } from 'lucide-react';
import { useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '../../core/result.ts';
import { counted } from '../../core/words.ts';
import {
  upload,
  Button,
  Empty,
  Fact,
  FileButton,
  FileDrop,
  hasFailed,
  JobOutcome,
  ProblemNote,
  Section,
  shortPrint,
  StationHead,
  StatusFacts,
  useAct,
  useLatestJob,
  useLive,
  answerOf,
  api,
} from '../shared/index.ts';
import { Checks } from './checks.tsx';
import { History } from './history.tsx';
import { Plan } from './plan.tsx';
import { Report } from './report.tsx';
import type { WorkState } from '../../server/index.ts';

export function LoadStation() {
  const state = useLive('loadPlan', 'usable', 'running', 'usedBy');
  const { act } = useAct();
  const job = useLatestJob('load', 'stage');
  const busy = job?.endedAt === null;
  const router = useRouter();
  const cache = useQueryClient();
  const needsBuild = state?.loadPlan.steps.some((step) => step.source.kind === 'build') ?? true;
  /** A file that was not taken, until the next load. */
  const [refused, setRefused] = useState<{ readonly problem: Problem; readonly after: number | null } | null>(null);
  /** Bitstreams are loaded after the probe maps beside them were taken; a vector file goes to its player. */
  const take = async (files: readonly File[]) => {
    for (const file of files.filter(({ name }) => name.endsWith('.json'))) {
      const map = await act(() =>
        upload<{ readonly fingerprint: string; readonly cores: number }>('/api/probe-map', file),
      );
      if (map)
        toast.success(`${file.name}: ${counted(map.cores, 'debug core')} of build ${shortPrint(map.fingerprint)}.`);
    }
    const vectors = files.find(({ name }) => /\.svf$/i.test(name));
    if (vectors) {
      const added = await act(() => upload('/api/svf', vectors));
      if (!added) return;
      await cache.invalidateQueries({ queryKey: ['svf'] });
      toast.success(`${vectors.name} is a vector file: here is its player.`);
      return router.push('/bench/svf');
    }
    const bitstream = files.find(({ name }) => !name.endsWith('.json'));
    if (!bitstream) return;
    const begun = await answerOf(upload('/api/load-file', bitstream));
    setRefused(begun.ok ? null : { problem: begun.problem, after: job?.id ?? null });
    await cache.invalidateQueries({ queryKey: ['images'] });
  };
  return (
    <FileDrop what="a bitstream, its .probes.json, or an .svf" disabled={busy} onFiles={take}>
      <LoadHead busy={busy} take={take} needsBuild={needsBuild} state={state} act={act} />
      {refused && refused.after === (job?.id ?? null) ? (
        <ProblemNote problem={refused.problem} />
      ) : (
        <JobOutcome job={job} tellDone />
      )}
      <FailedRung />
      <Plan busy={busy} />
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Checks busy={busy} />
        <div>
          <Report />
          <SaysNow state={state} />
        </div>
      </div>
      <History />
    </FileDrop>
  );
}

interface SaysNowProps {
  readonly state: Pick<WorkState, 'loadPlan' | 'usable' | 'running' | 'usedBy'> | null;
}

function SaysNow({ state }: SaysNowProps) {
  return (
    <Section title="What the FPGA says" aside={state?.running && `place ${state.running.device}`}>
      {state?.running ? (
        <>
          <dl>
            <Fact name="Runs" code>
              {state.running.fingerprint ? shortPrint(state.running.fingerprint) : 'nothing'}
            </Fact>
          </dl>
          {state.running.status && <StatusFacts status={state.running.status} />}
        </>
      ) : (
        <Empty>
          {state?.usedBy
            ? `Not asked: the pod is in use by ${state.usedBy}.`
            : 'Not asked yet, or without power. Load, or scan under Bench.'}
        </Empty>
      )}
    </Section>
  );
}

interface LoadHeadProps {
  readonly busy: boolean;
  readonly take: (files: readonly File[]) => Promise<void>;
  readonly needsBuild: boolean;
  readonly state: Pick<WorkState, 'loadPlan' | 'usable' | 'running' | 'usedBy'> | null;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
}

function LoadHead({ busy, take, needsBuild, state, act }: LoadHeadProps) {
  return (
    <StationHead
      title="Load"
      hint="Into configuration RAM over JTAG. It runs at once and is forgotten when power goes."
    >
      <FileButton
        label="Bitstream file"
        look="plain"
        multiple
        accept=".nbits,.json,.svf"
        title="A .nbits, with the .probes.json beside it where it has debug cores; an .svf goes to its player"
        disabled={busy}
        onFiles={take}
      >
        <FileUp aria-hidden className="size-4" /> Load a file
      </FileButton>
      <Button
        look="main"
        disabled={busy || (needsBuild && !state?.usable)}
        onClick={() => act(() => api.jobs.start.mutate({ kind: 'load' }))}
      >
        <Play aria-hidden className="size-4" /> Load
      </Button>
    </StationHead>
  );
}

/** After a failure the ladder has climbed by itself; its first failing rung belongs here. */
function FailedRung() {
  const state = useLive('ladder');
  const job = useLatestJob('load', 'stage');
  const ladder = state?.ladder;
  if (!job || !hasFailed(job) || !ladder || Date.parse(ladder.time) < job.startedAt) return null;
  const failed = ladder.rungs.find((rung) => rung.state === 'fail');
  return (
    <p className="mb-3 border-line border-l-4 bg-raised px-3 py-1.5 text-sm" data-testid="failed-rung">
      {failed ? (
        <>
          The ladder was climbed: <b>{failed.question}</b> fails. {failed.measured} {failed.tryNext[0]}
        </>
      ) : (
        'The ladder was climbed afterwards: all rungs hold, so the chain itself is in order.'
      )}
    </p>
  );
}
