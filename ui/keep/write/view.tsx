'use client';
import { readLayout } from '../../../core/images/index.ts';
import type { KeepChoice } from '../../../server/index.ts';
import { Button, dateTime, Empty, Fact, Section, send, shortPrint, StatusFacts, useAct, useFiles, useLatestJob, useLive } from '../../shared/index.ts';
import { Chip, Plan } from './chip.tsx';
import { Rehearsed } from './rehearsed.tsx';

const STEPS = [
  ['Identifying', 'Ask the chip who it is; stop here if it is not known.'],
  ['Reading what boots', 'See whether a golden image stands, and what the boot header names.'],
  ['Comparing', 'Read what is there; sectors that are right stay untouched.'],
  ['Erasing', 'Erase the sectors that must change. What they held is lost.'],
  ['Writing', 'Program the pages that differ; a boot header comes last.'],
  ['Verifying', 'Read everything back and compare.'],
  ['Power-cycling', 'Take power away and give it back, or pull the reconfigure wire.'],
  ['Waiting for DONE', 'Compare the fingerprint of what booted.'],
] as const;

export function WriteView() {
  const state = useLive();
  const broken = state?.brokenWrite ?? null;
  const job = useLatestJob('keep', 'power', 'flash');
  return (
    <>
      {broken && job?.endedAt !== null && <Broken />}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <div className="min-w-0">
          <Chosen />
          <Chip />
          <Order />
        </div>
        <div className="min-w-0">
          <Plan />
          <Rehearsed />
          <Holds />
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

/** What is to be written: the newest build alone, or a layout of the project. */
function Chosen() {
  const state = useLive();
  const { act } = useAct();
  const layouts = (useFiles().data ?? []).filter(({ name }) => name.endsWith('.layout.json'));
  const usable = state?.usable ?? null;
  const choice = state?.keepChoice;
  const busy = useLatestJob('keep', 'power', 'flash')?.endedAt === null;
  if (!choice) return null;
  const file = layouts.find(({ name }) => name === choice.layout);
  const layout = file ? readLayout(file.name, file.text) : null;
  const put = (change: Partial<KeepChoice>) => act(() => send('/api/keep-choice', 'PUT', { ...choice, ...change }));
  const field = 'h-7 border border-line bg-raised px-1 text-sm';
  return (
    <Section title="What would be written">
      <div className="mb-2 flex flex-wrap items-center gap-3 text-sm">
        <select aria-label="What to write" className={field} disabled={busy} value={choice.layout ?? ''} onChange={(event) => put({ layout: event.target.value === '' ? null : event.target.value })}>
          <option value="">the newest build alone, at 0x0</option>
          {layouts.map(({ name }) => <option key={name} value={name}>{name}</option>)}
          {choice.layout !== null && !layouts.some(({ name }) => name === choice.layout) && <option value={choice.layout}>{choice.layout} (gone)</option>}
        </select>
        <label className="flex items-center gap-1">
          then
          <select aria-label="Rehearse by" className={field} disabled={busy} value={choice.rehearseBy} onChange={(event) => put({ rehearseBy: event.target.value as KeepChoice['rehearseBy'] })}>
            <option value="power">power-cycle the board</option>
            <option value="reconfigure">pull the reconfigure wire</option>
          </select>
        </label>
        {choice.layout !== null && <label className="flex items-center gap-1"><input type="checkbox" disabled={busy} checked={choice.replaceGolden} onChange={(event) => put({ replaceGolden: event.target.checked })} /> replace a golden image that stands</label>}
      </div>
      {choice.layout === null && (usable ? (
        <dl>
          <Fact name="Design">{usable.top}</Fact>
          <Fact name="Fingerprint" code>{shortPrint(usable.fingerprint)}</Fact>
          <Fact name="Built">{dateTime(usable.created)}</Fact>
        </dl>
      ) : <Empty>There is no bitstream yet. Build under Design.</Empty>)}
      {layout?.ok && (
        <dl>
          {layout.value.blocks.map(({ name, role, address }) => <Fact key={`${name} ${address}`} name={name} code>{`${role}, 0x${address.toString(16).toUpperCase()}`}</Fact>)}
        </dl>
      )}
      {layout && !layout.ok && <p className="text-bad text-sm">{layout.error.message}</p>}
    </Section>
  );
}

/** A write that ended in the middle: the same again goes on with what is missing. */
function Broken() {
  const state = useLive();
  const { act } = useAct();
  const broken = state?.brokenWrite;
  if (!broken) return null;
  return (
    <section className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2" aria-label="Broken off">
      <p>A write was broken off while {broken.phase.toLowerCase()}, {dateTime(broken.time)}. What it did stands. Going on compares first and writes only what is missing.</p>
      <Button className="mt-2" disabled={state.pod.state !== 'connected'} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'keep' }))}>Go on</Button>
    </section>
  );
}

function Holds() {
  const state = useLive();
  const kept = state?.kept ?? null;
  return (
    <Section title="What the flash holds">
      {kept ? (
        <dl>
          <Fact name="Boots" tone="good" code>{shortPrint(kept.fingerprint)}</Fact>
          <Fact name="Chip">{kept.chip}</Fact>
          <Fact name="Written and verified">{dateTime(kept.time)}</Fact>
          <Fact name="From">{kept.by ?? `${kept.layout ?? 'the newest build alone'}${kept.project !== (state?.project?.id ?? null) ? ', of another project' : ''}`}</Fact>
          <Fact name="Same as running" tone={kept.fingerprint === state?.running?.fingerprint ? 'good' : 'doubt'}>{!state?.running ? 'what runs was not asked' : kept.fingerprint === state.running.fingerprint ? 'yes' : 'no'}</Fact>
        </dl>
      ) : (
        <Empty>Nothing was written to this board from here yet, or the last write did not finish.</Empty>
      )}
    </Section>
  );
}

function Order() {
  const job = useLatestJob('keep', 'power', 'flash');
  const name = job?.progress?.phase === 'Reconfiguring' ? 'Power-cycling' : job?.progress?.phase;
  const phase = job?.endedAt === null ? STEPS.findIndex(([one]) => one === name) : -1;
  return (
    <Section title="What happens, in order">
      <ol className="text-sm">
        {STEPS.map(([step, what], i) => (
          <li key={step} className={`flex gap-2 border-line border-b py-1 ${i === phase ? 'font-bold text-signal-deep' : ''}`}>
            <span className="tabular w-4 shrink-0 text-quiet">{i + 1}</span>
            <span className="w-36 shrink-0">{step}</span>
            <span className={i === phase ? '' : 'text-quiet'}>{what}</span>
          </li>
        ))}
      </ol>
    </Section>
  );
}
