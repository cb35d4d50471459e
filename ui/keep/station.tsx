'use client';
import { PlugZap, Save, Search } from 'lucide-react';
import { useState } from 'react';
import { partNamed, streamBytes } from '../../core/fabric/index.ts';
import { Chip } from './chip.tsx';
import { Button, dateTime, Empty, Fact, JobOutcome, quantity, Section, send, shortPrint, StationHead, StatusFacts, useAct, useLatestJob, useLive, usePanel } from '../shared/index.ts';

const STEPS = [
  ['Identifying', 'Ask the chip who it is; stop here if it is not known.'],
  ['Comparing', 'Read what is there; sectors that are right stay untouched.'],
  ['Erasing', 'Erase the sectors that must change. What they held is lost.'],
  ['Writing', 'Program the pages that differ.'],
  ['Verifying', 'Read everything back and compare.'],
  ['Power-cycling', 'Take power away and give it back.'],
  ['Waiting for DONE', 'Compare the fingerprint of what booted.'],
] as const;

export function KeepStation() {
  const state = useLive();
  const panel = usePanel();
  const { act } = useAct();
  const job = useLatestJob('keep', 'power', 'flash');
  const busy = job?.endedAt === null;
  const usable = state?.usable ?? null;
  const kept = state?.kept ?? null;
  const [asking, setAsking] = useState(false);
  const write = async () => {
    setAsking(false);
    await act(() => send('/api/jobs', 'POST', { kind: 'keep' }));
  };
  const phase = busy && job?.kind === 'keep' ? STEPS.findIndex(([name]) => name === job.progress?.phase) : -1;
  return (
    <>
      <StationHead title="Keep" hint="Into the configuration flash. The FPGA copies it from there at every power-on.">
        <Button disabled={busy || state?.pod.state !== 'connected'} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'flash' }))}>
          <Search aria-hidden className="size-4" /> Look first
        </Button>
        <Button disabled={busy} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'rehearse' }))}>
          <PlugZap aria-hidden className="size-4" /> Power-cycle
        </Button>
        <Button look="main" disabled={busy || !usable || asking} onClick={() => setAsking(true)}>
          <Save aria-hidden className="size-4" /> Write flash
        </Button>
      </StationHead>
      {asking && usable && <Ask part={usable.part} kept={kept} onWrite={write} onLeave={() => setAsking(false)} />}
      <JobOutcome job={job} tellDone />
      {panel?.bootSource === 'jtag' && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">The boot switch on the board stands at JTAG: the FPGA will not look into the flash at power-on.</p>}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <div>
          <Section title="What would be written">
            {usable ? (
              <dl>
                <Fact name="Design">{usable.top}</Fact>
                <Fact name="Fingerprint" code>{shortPrint(usable.fingerprint)}</Fact>
                <Fact name="From address" code>0x000000</Fact>
                <Fact name="Built">{dateTime(usable.created)}</Fact>
              </dl>
            ) : (
              <Empty>There is no bitstream yet. Build under Design.</Empty>
            )}
          </Section>
          <Section title="What the flash holds">
            {kept ? (
              <dl>
                <Fact name="Fingerprint" tone="good" code>
                  {shortPrint(kept.fingerprint)}
                </Fact>
                <Fact name="Chip">{kept.chip}</Fact>
                <Fact name="Written and verified">{dateTime(kept.time)}</Fact>
                <Fact name="Same as running" tone={kept.fingerprint === state?.running?.fingerprint ? 'good' : 'doubt'}>
                  {kept.fingerprint === state?.running?.fingerprint ? 'yes' : 'no'}
                </Fact>
              </dl>
            ) : (
              <Empty>Nothing was written from here yet, or the last write did not finish.</Empty>
            )}
          </Section>
        </div>
        <div>
          <Chip />
          <Section title="What happens, in order">
            <ol className="text-sm">
              {STEPS.map(([name, what], i) => (
                <li key={name} className={`flex gap-2 border-line border-b py-1 ${i === phase ? 'font-bold text-signal-deep' : ''}`}>
                  <span className="tabular w-4 shrink-0 text-quiet">{i + 1}</span>
                  <span className="w-32 shrink-0">{name}</span>
                  <span className={i === phase ? '' : 'text-quiet'}>{what}</span>
                </li>
              ))}
            </ol>
          </Section>
          {state?.running && (
            <Section title="What the FPGA says">
              <StatusFacts status={state.running.status} />
            </Section>
          )}
        </div>
      </div>
    </>
  );
}

interface AskProps {
  readonly part: string;
  readonly kept: { readonly fingerprint: string; readonly time: string } | null;
  readonly onWrite: () => void;
  readonly onLeave: () => void;
}

/** What will be lost, asked once, where the writing is asked for. */
function Ask({ part, kept, onWrite, onLeave }: AskProps) {
  const bytes = streamBytes(partNamed(part)?.frames ?? 0);
  return (
    <section className="mb-3 border-signal border-l-4 bg-raised px-3 py-2" aria-label="Before writing">
      <p>
        {quantity(bytes, 'B')} from address 0x000000 on are compared with what is there; sectors that differ are erased and written, what shares one with the image stays. Lost is{' '}
        {kept ? `build ${shortPrint(kept.fingerprint)}, written ${dateTime(kept.time)}` : 'whatever is there now: it was not written from here'}. The board is power-cycled at the end.
      </p>
      <div className="mt-2 flex gap-2">
        <Button look="main" autoFocus onClick={onWrite}>
          Erase and write
        </Button>
        <Button onClick={onLeave}>Leave it as it is</Button>
      </div>
    </section>
  );
}
