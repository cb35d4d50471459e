'use client';
import { FileUp, Play } from 'lucide-react';
import { useRef } from 'react';
import { ask, Button, dateTime, Empty, Fact, JobOutcome, Section, send, shortPrint, StationHead, StatusFacts, useAct, useLatestJob, useLive } from '../shared/index.ts';

export function LoadStation() {
  const state = useLive();
  const { act } = useAct();
  const job = useLatestJob('load');
  const input = useRef<HTMLInputElement>(null);
  const busy = job?.endedAt === null;
  const usable = state?.usable ?? null;
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
        <Button look="main" disabled={busy || !usable} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'load' }))}>
          <Play aria-hidden className="size-4" /> Load
        </Button>
      </StationHead>
      <JobOutcome job={job} tellDone />
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Section title="What would be loaded">
          {usable ? (
            <dl>
              <Fact name="Design">{usable.top}</Fact>
              <Fact name="Fingerprint" code>
                <span title={usable.fingerprint}>{shortPrint(usable.fingerprint)}</span>
              </Fact>
              <Fact name="For">{usable.part}</Fact>
              <Fact name="Built">{dateTime(usable.created)}</Fact>
              <Fact name="Debug cores">{usable.cores.join(', ') || 'none'}</Fact>
              <Fact name="Up to date" tone={state?.stale.length || !state?.latest?.good ? 'doubt' : 'good'}>
                {state?.stale.length ? `no: ${state.stale.map((edit) => edit.what).join(', ')} changed` : state?.latest?.good ? 'yes' : 'no: the newest build failed'}
              </Fact>
            </dl>
          ) : (
            <Empty>There is no bitstream yet. Build under Design.</Empty>
          )}
        </Section>
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
    </>
  );
}
