'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import type { ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { useMemo } from 'react';
import { toast } from 'sonner';
import { activePlan, type ProbePlan } from '../../core/probes/index.ts';
import {
  placeWithin,
  type Proposal,
  readsAtTrigger,
  replayPlan,
  trustText,
  unknownText,
} from '../../core/replay/index.ts';
import { counted } from '../../core/words.ts';
import type { BuildDetails } from '../../server/index.ts';
import { addedPlan, Cost } from '../probe/index.ts';
import {
  api,
  Button,
  Checkbox,
  DataTable,
  Empty,
  Fact,
  ProblemNote,
  Section,
  Select,
  useAct,
  useFiles,
} from '../shared/index.ts';
import type { Chosen } from './chosen.ts';
import { Instances } from './instances.tsx';
import type { Proposed } from './messages.ts';
import { SignalList } from './signal-list.tsx';
import { useProposals } from './use-proposals.ts';
import { inside } from './words.ts';

interface Props {
  readonly project: number;
  readonly details: BuildDetails;
  readonly chosen: Chosen;
  readonly choose: (change: Partial<Chosen>) => void;
}

const STORED: ColumnDef<Proposal['stored'][number], unknown>[] = [
  { id: 'signal', header: 'Signal', accessorFn: ({ name }) => inside(name) },
  { id: 'bits', header: 'Bits', accessorFn: ({ width }) => width },
];
const UNKNOWN: ColumnDef<Proposal['unknown'][number], unknown>[] = [
  { id: 'signal', header: 'Signal', accessorFn: ({ signal }) => inside(signal) },
  { id: 'how', header: 'Unknown', accessorFn: (one) => unknownText(one, inside) },
];

const DEPTHS = [256, 512, 1024, 2048, 4096, 8192, 16384];

/** What to record so that all of an instance can be computed. */
export function RecordView({ project, details, chosen, choose }: Props) {
  const files = useFiles().data ?? [];
  const { data: sources, error } = useQuery({
    // Read anew when a file was saved.
    queryKey: ['replay-sources', project, files.map(({ name, changed }) => `${name} ${changed}`).join()],
    queryFn: () => api.replay.sources.query({ fingerprint: null }),
    placeholderData: (before) => before,
    gcTime: 0,
  });
  const { see, insist, never } = chosen;
  const ask = useMemo(
    () => (sources && see.length > 0 ? { project: sources.project, see, insist, never } : null),
    [sources, see, insist, never],
  );
  const proposed = useProposals(ask);
  const { hierarchy } = details;
  return (
    <div className="relative grid grid-cols-[15rem_minmax(0,1fr)] gap-4">
      <div className="min-w-0">
        <h2 className="mb-1 font-bold text-sm">See all of</h2>
        {hierarchy && <Instances hierarchy={hierarchy} see={see} onSee={(next) => choose({ see: next })} />}
        <SignalList
          title="Record in any case"
          signals={details.signals}
          chosen={insist}
          onChosen={(next) => choose({ insist: next, never: never.filter((one) => !next.includes(one)) })}
        />
        <SignalList
          title="Never record"
          signals={details.signals}
          chosen={never}
          onChosen={(next) => choose({ never: next, insist: insist.filter((one) => !next.includes(one)) })}
        />
      </div>
      <div className="min-w-0">
        {error ? (
          <p className="text-bad text-sm">{error.message}</p>
        ) : see.length === 0 ? (
          <Empty>Tick an instance: what has to be recorded for all of it is worked out at once.</Empty>
        ) : proposed === null ? (
          <Empty>Working out the least that has to be recorded…</Empty>
        ) : proposed.ok ? (
          <Proposals project={project} proposed={proposed.value} chosen={chosen} choose={choose} />
        ) : (
          <ProblemNote problem={proposed.error} />
        )}
      </div>
    </div>
  );
}

interface ProposalsProps {
  readonly project: number;
  readonly proposed: Proposed;
  readonly chosen: Chosen;
  readonly choose: (change: Partial<Chosen>) => void;
}

function Proposals({ project, proposed: { clock, clocks, proposals }, chosen, choose }: ProposalsProps) {
  const place = placeWithin(proposals, chosen.bits);
  const at = place < 0 ? proposals.length - 1 : place;
  const proposal = proposals[at];
  if (!proposal) return null;
  const reads = proposal.readableBits > 0 && (chosen.reads ?? readsAtTrigger(proposal));
  const unknown = reads ? proposal.unknownIfRead : proposal.unknown;
  const plan = replayPlan(clock, proposal, { depth: chosen.depth, reads });
  return (
    <div className="flex flex-col gap-3">
      <dl className="grid grid-cols-2 gap-x-8" data-testid="proposal">
        <Fact name="Stored">{counted(proposal.storedBits, 'bit')} a sample</Fact>
        <Fact name="Seen">
          {counted(proposal.seenBits, 'bit')} of it{proposal.alongBits > 0 ? `, ${proposal.alongBits} more` : ''}
        </Fact>
        <Fact name="For one stored">{proposal.factor.toFixed(1)} seen</Fact>
        <Fact name="Sampled with">{inside(clock)}</Fact>
      </dl>
      {clocks.length > 1 && (
        <p className="border-doubt border-l-4 bg-raised px-3 py-2 text-sm">
          Registers of {clocks.filter((one) => one !== clock.split('.').at(-1)).join(', ')} are in it too. They are
          recorded as {inside(clock)} sees them: a recorder knows the edges of one clock.
        </p>
      )}
      <Slider proposals={proposals} at={at} onPick={(bits) => choose({ bits })} />
      {proposal.readableBits > 0 && (
        <Checkbox className="text-sm" checked={reads} onChange={(event) => choose({ reads: event.target.checked })}>
          Read {counted(proposal.readableBits, 'bit')} of registers once, at the trigger: what they had kept from before
          is known then
        </Checkbox>
      )}
      <div className="grid grid-cols-2 gap-4 max-[1500px]:grid-cols-1">
        <Section title="To be recorded">
          <DataTable
            name="stored signals"
            rows={proposal.stored}
            empty="Nothing has to be recorded."
            columns={STORED}
          />
        </Section>
        <Section title={reads ? 'Not known from the trigger on' : 'Not known from the first sample on'}>
          {unknown.length === 0 ? (
            <p className="text-quiet text-sm">All of it is.</p>
          ) : (
            <DataTable name="unknown at first" rows={unknown} empty="All of it is known." columns={UNKNOWN} />
          )}
        </Section>
      </div>
      <Take project={project} plan={plan} depth={chosen.depth} onDepth={(depth) => choose({ depth })} />
    </div>
  );
}

interface SliderProps {
  readonly proposals: readonly Proposal[];
  readonly at: number;
  readonly onPick: (bits: number) => void;
}

/** Fewer bits against a longer unknown beginning. */
function Slider({ proposals, at, onPick }: SliderProps) {
  const proposal = proposals[at];
  return (
    <div className="border border-line bg-raised px-3 py-2 text-sm">
      <div className="grid grid-cols-[auto_minmax(0,1fr)_auto] items-center gap-x-3">
        <span className="text-quiet">known soon</span>
        <input
          type="range"
          className="w-full accent-signal-deep"
          aria-label="Fewer bits against a longer unknown beginning"
          aria-valuetext={proposal ? counted(proposal.storedBits, 'bit') : ''}
          min={0}
          max={proposals.length - 1}
          step={1}
          value={at}
          disabled={proposals.length < 2}
          onChange={(event) => onPick(proposals[event.target.valueAsNumber]?.storedBits ?? 0)}
        />
        <span className="text-quiet">few bits</span>
        <span aria-hidden className="tabular col-start-2 flex justify-between text-quiet text-xs">
          {proposals.map(({ storedBits }, i) => (
            <span key={storedBits} className={clsx('w-6 text-center', i === at && 'font-bold text-ink')}>
              {storedBits}
            </span>
          ))}
        </span>
      </div>
      <p className="mt-1">{proposal ? trustText(proposal.trust) : ''}</p>
    </div>
  );
}

interface TakeProps {
  readonly project: number;
  readonly plan: ProbePlan;
  readonly depth: number;
  readonly onDepth: (depth: number) => void;
}

/** What it takes, and on to Probe with it. */
function Take({ project, plan, depth, onDepth }: TakeProps) {
  const queries = useQueryClient();
  const { act, busy } = useAct();
  const key = ['plan', project];
  const shelf =
    useQuery({ queryKey: key, queryFn: () => api.probe.shelf.query(undefined, { context: { project } }) }).data ?? [];
  const add = async () => {
    // One plan for replay at a time: another one takes its place.
    const kept = shelf.filter(({ name }) => !/^replay( \d+)?$/.test(name));
    const next = addedPlan(kept, 'replay', plan, true);
    const done = await act(() => api.probe.saveShelf.mutate(next, { context: { project } }));
    if (!done) return;
    queries.setQueryData(key, next);
    toast.success('The plan replay is on the shelf and in the build.', {
      description: 'Build and load it, then capture with its recorder.',
    });
  };
  return (
    <Section
      title="What it takes"
      aside={
        <label className="flex items-center gap-1.5">
          deep
          <Select
            aria-label="Depth of the recorder"
            value={depth}
            onChange={(event) => onDepth(Number(event.target.value))}
          >
            {DEPTHS.map((one) => (
              <option key={one} value={one}>
                {one.toLocaleString('en')} samples
              </option>
            ))}
          </Select>
        </label>
      }
    >
      <Cost
        plan={plan}
        others={activePlan(shelf.filter(({ name }) => !/^replay( \d+)?$/.test(name)))}
        onPlan={(smaller) => onDepth(smaller.recorders[0]?.depth ?? depth)}
      />
      <div className="mt-2 flex items-center gap-4 text-sm">
        <Button look="main" disabled={busy} onClick={() => void add()}>
          Put it into the build
        </Button>
        <Link href="/probe" className="text-quiet hover:text-ink hover:underline">
          Look at it under Probe
        </Link>
      </div>
    </Section>
  );
}
