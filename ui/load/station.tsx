'use client';
import { FileUp, Play } from 'lucide-react';
import { useRef } from 'react';
import { ask, Button, Empty, Fact, hasFailed, JobOutcome, Section, send, shortPrint, StationHead, StatusFacts, useAct, useLatestJob, useLive } from '../shared/index.ts';
import { Checks } from './checks.tsx';
import { History } from './history.tsx';
import { Plan } from './plan.tsx';
import { Report } from './report.tsx';

export function LoadStation() {
  const state = useLive();
  const { act } = useAct();
  const job = useLatestJob('load', 'stage');
  const input = useRef<HTMLInputElement>(null);
  const busy = job?.endedAt === null;
  const needsBuild = state?.loadPlan.steps.some((step) => step.source.kind === 'build') ?? true;
  const loadFile = async (file: File) => {
    await act(() => ask(`/api/load-file?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file }));
    if (input.current) input.current.value = '';
  };
  return (
    <>
      <StationHead title="Load" hint="Into configuration RAM over JTAG. It runs at once and is forgotten when power goes.">
        <input ref={input} type="file" accept=".nbits" className="hidden" data-testid="bitstream-file" onChange={(event) => event.target.files?.[0] && loadFile(event.target.files[0])} />
        <Button onClick={() => input.current?.click()} disabled={busy}>
          <FileUp aria-hidden className="size-4" /> Load a file
        </Button>
        <Button look="main" disabled={busy || (needsBuild && !state?.usable)} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'load' }))}>
          <Play aria-hidden className="size-4" /> Load
        </Button>
      </StationHead>
      <JobOutcome job={job} tellDone />
      <FailedRung />
      <Plan busy={busy} />
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Checks busy={busy} />
        <div>
          <Report />
          <Section title="What the FPGA says" aside={state?.running && `place ${state.running.device}`}>
            {state?.running ? (
              <>
                <dl>
                  <Fact name="Runs" code>{state.running.fingerprint ? shortPrint(state.running.fingerprint) : 'nothing'}</Fact>
                </dl>
                <StatusFacts status={state.running.status} />
              </>
            ) : (
              <Empty>Not asked yet, or without power. Load, or scan under Bench.</Empty>
            )}
          </Section>
        </div>
      </div>
      <History />
    </>
  );
}

/** After a failure the ladder has climbed by itself; its first failing rung belongs here. */
function FailedRung() {
  const state = useLive();
  const job = useLatestJob('load', 'stage');
  const ladder = state?.ladder;
  if (!job || !hasFailed(job) || !ladder || Date.parse(ladder.time) < job.startedAt) return null;
  const failed = ladder.rungs.find((rung) => rung.state === 'fail');
  return (
    <p className="mb-3 border-line border-l-4 bg-raised px-3 py-1.5 text-sm" data-testid="failed-rung">
      {failed ? <>The ladder was climbed: <b>{failed.question}</b> fails. {failed.measured} {failed.tryNext[0]}</> : 'The ladder was climbed afterwards: all rungs hold, so the chain itself is in order.'}
    </p>
  );
}
