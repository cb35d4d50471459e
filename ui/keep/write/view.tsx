'use client';
import {
  Button,
  dateTime,
  Empty,
  Fact,
  Section,
  shortPrint,
  StatusFacts,
  useStart,
  useLatestJob,
  useLive,
} from '../../shared/index.ts';
import { Chip, Plan } from './chip.tsx';
import { Chosen } from './chosen.tsx';
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
  const state = useLive('brokenWrite', 'running');
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
          {state?.running?.status && (
            <Section title="What the FPGA says">
              <StatusFacts status={state.running.status} />
            </Section>
          )}
        </div>
      </div>
    </>
  );
}

/** A write that ended in the middle: the same again goes on with what is missing. */
function Broken() {
  const state = useLive('brokenWrite', 'pod');
  const start = useStart();
  const broken = state?.brokenWrite;
  if (!broken) return null;
  return (
    <section className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2" aria-label="Broken off">
      <p>
        A write was broken off while {broken.phase.toLowerCase()}, {dateTime(broken.time)}. What it did stands. Going on
        compares first and writes only what is missing.
      </p>
      <Button className="mt-2" disabled={state.pod.state !== 'connected'} onClick={() => start({ kind: 'keep' })}>
        Go on
      </Button>
    </section>
  );
}

function Holds() {
  const state = useLive('kept', 'project', 'running');
  const kept = state?.kept ?? null;
  return (
    <Section title="What the flash holds">
      {kept ? (
        <dl>
          <Fact name="Boots" tone="good" code>
            {shortPrint(kept.fingerprint)}
          </Fact>
          <Fact name="Chip">{kept.chip}</Fact>
          <Fact name="Written and verified">{dateTime(kept.time)}</Fact>
          <Fact name="From">
            {kept.by ??
              `${kept.layout ?? 'the newest build alone'}` +
                `${kept.project !== (state?.project?.id ?? null) ? ', of another project' : ''}`}
          </Fact>
          <Fact name="Same as running" tone={kept.fingerprint === state?.running?.fingerprint ? 'good' : 'doubt'}>
            {!state?.running
              ? 'what runs was not asked'
              : kept.fingerprint === state.running.fingerprint
                ? 'yes'
                : 'no'}
          </Fact>
        </dl>
      ) : (
        <Empty>Nothing that boots was written to this board from here yet, or the last write did not finish.</Empty>
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
          <li
            key={step}
            className={`flex gap-2 border-line border-b py-1 ${i === phase ? 'font-bold text-signal-deep' : ''}`}
          >
            <span className="tabular w-4 shrink-0 text-quiet">{i + 1}</span>
            <span className="w-36 shrink-0">{step}</span>
            <span className={i === phase ? '' : 'text-quiet'}>{what}</span>
          </li>
        ))}
      </ol>
    </Section>
  );
}
