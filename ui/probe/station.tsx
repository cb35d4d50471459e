'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Hammer, X } from 'lucide-react';
import { Toggle } from 'radix-ui';
import { useState } from 'react';
import type { SignalInfo } from '../../core/build/index.ts';
import type { HierarchyNode } from '../../core/hdl/index.ts';
import { BLOCK_RAM_BITS } from '../../core/mapping/index.ts';
import { DEFAULT_COMPARATORS, DEFAULT_STAGES, emptyPlan, MOST_COMPARATORS, MOST_STAGES, type ProbePlan } from '../../core/probes/index.ts';
import { useBuilds } from '../design/index.ts';
import { ask, Button, DataTable, Empty, JobOutcome, send, StationHead, useAct, useLatestJob, useLive } from '../shared/index.ts';
import { setClock, setDepth, toggleUse, type Use, usesOf, setTrigger } from './plan-edit.ts';

const DEPTHS = [256, 512, 1024, 2048, 4096, 8192];
const USES: readonly { use: Use; name: string; hint: string }[] = [
  { use: 'record', name: 'Record', hint: 'store it in the recorder' },
  { use: 'gauge', name: 'Gauge', hint: 'read it live' },
  { use: 'lever', name: 'Lever', hint: 'drive it by hand' },
];

export function ProbeStation() {
  const state = useLive();
  const { act } = useAct();
  const queries = useQueryClient();
  const job = useLatestJob('build');
  const details = useBuilds().data?.latest?.details ?? null;
  const usable = useBuilds().data?.usable?.details ?? null;
  const known = details && details.signals.length > 0 ? details : usable;
  const plan = useQuery({
    queryKey: ['plan'],
    queryFn: async () => {
      const answer = await ask<ProbePlan>('/api/plan');
      return answer.ok ? answer.value : emptyPlan;
    },
  }).data;
  const [module, setModule] = useState<string | null>(null);
  const running = job?.endedAt === null;
  if (!known || !plan)
    return (
      <>
        <StationHead title="Probe" hint="Choose signals inside the design; they are built in with the debug cores." />
        <Empty>The names inside the design come from a build. Build under Design first.</Empty>
      </>
    );
  const change = (next: ProbePlan) => {
    queries.setQueryData(['plan'], next);
    void act(() => send('/api/plan', 'PUT', next));
  };
  const clock = (domain: string) => `${known.top}.${domain || known.clocks[0] || ''}`;
  const shown = module === null ? known.signals : known.signals.filter((s) => s.name.startsWith(`${module}.`));
  return (
    <div className="flex h-full min-h-[34rem] flex-col">
      <StationHead title="Probe" hint="Choose signals inside the design; they are built in with the debug cores.">
        <Button look="main" disabled={running} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'build' }))}>
          <Hammer aria-hidden className="size-4" /> Build with probes
        </Button>
      </StationHead>
      <JobOutcome job={job} />
      {state?.stale.some((edit) => edit.what === 'probe plan') && !running && <p className="mb-2 text-doubt text-sm">The plan is newer than the build: build, then load.</p>}
      <div className="grid min-h-0 flex-1 grid-cols-[9.5rem_minmax(0,1fr)_15rem] gap-3">
        <Tree root={known.hierarchy} chosen={module} onChoose={setModule} />
        <DataTable
          className="min-h-0"
          name="signals"
          rows={shown}
          empty="This module has no signals."
          columns={[
            { id: 'name', header: 'Signal', accessorFn: (s: SignalInfo) => s.name, cell: ({ row }) => <SignalName name={row.original.name} below={module} /> },
            { accessorKey: 'width', header: 'Bits', cell: (cell) => <span className="tabular">{String(cell.getValue())}</span> },
            { id: 'kind', header: 'Kind', accessorFn: (s: SignalInfo) => `${s.free ? 'free' : s.kind} ${s.domain}`, cell: ({ row }) => <Kind signal={row.original} /> },
            {
              id: 'use',
              header: 'Use',
              accessorFn: (s: SignalInfo) => [...usesOf(plan, s.name)].join(', '),
              cell: ({ row }) => <Uses signal={row.original} plan={plan} onToggle={(use) => change(toggleUse(plan, row.original.name, use, clock(row.original.domain)))} />,
            },
          ]}
        />
        <Plan plan={plan} clocks={known.clocks.map(clock)} signals={known.signals} onChange={change} />
      </div>
    </div>
  );
}

function SignalName({ name, below }: { readonly name: string; readonly below: string | null }) {
  const short = below === null ? name.slice(name.indexOf('.') + 1) : name.slice(below.length + 1);
  const cut = short.lastIndexOf('.') + 1;
  return (
    <span className="code whitespace-nowrap text-xs" title={name}>
      <span className="text-quiet">{short.slice(0, cut)}</span>
      {short.slice(cut)}
    </span>
  );
}

/** What it is and, for what a clock drives, which clock. */
function Kind({ signal }: { readonly signal: SignalInfo }) {
  return (
    <span className="whitespace-nowrap">
      {signal.free ? <span className="text-doubt">free</span> : signal.kind} <span className="text-quiet text-xs">{signal.domain}</span>
    </span>
  );
}

function Uses({ signal, plan, onToggle }: { readonly signal: SignalInfo; readonly plan: ProbePlan; readonly onToggle: (use: Use) => void }) {
  const uses = usesOf(plan, signal.name);
  return (
    <span className="flex gap-1">
      {USES.map(({ use, name, hint }) => (
        <Toggle.Root
          key={use}
          title={`${name}: ${hint}`}
          aria-label={`${name} ${signal.name}`}
          pressed={uses.has(use)}
          onPressedChange={() => onToggle(use)}
          className={clsx('rounded-[3px] border px-1.5 text-xs', uses.has(use) ? 'border-ink bg-ink text-white' : 'border-line text-quiet hover:border-quiet')}
        >
          {name}
        </Toggle.Root>
      ))}
    </span>
  );
}

function Tree({ root, chosen, onChoose }: { readonly root: HierarchyNode | null; readonly chosen: string | null; readonly onChoose: (path: string | null) => void }) {
  const rows: { node: HierarchyNode; depth: number }[] = [];
  const walk = (node: HierarchyNode, depth: number) => {
    rows.push({ node, depth });
    for (const child of node.children) walk(child, depth + 1);
  };
  if (root) walk(root, 0);
  return (
    <ul className="min-h-0 overflow-auto border border-line bg-raised text-sm" aria-label="Modules">
      <li>
        <button type="button" className={clsx('w-full px-2 py-1 text-left hover:bg-well', chosen === null && 'bg-well font-bold')} onClick={() => onChoose(null)}>
          all signals
        </button>
      </li>
      {rows.map(({ node, depth }) => (
        <li key={node.path}>
          <button
            type="button"
            title={`${node.path}, module ${node.module}`}
            className={clsx('w-full truncate py-1 pr-2 text-left hover:bg-well', chosen === node.path && 'bg-well font-bold')}
            style={{ paddingLeft: `${0.5 + depth * 0.8}rem` }}
            onClick={() => onChoose(node.path)}
          >
            {node.name} <span className="text-quiet text-xs">{node.module === node.name ? '' : node.module}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

interface PlanProps {
  readonly plan: ProbePlan;
  readonly clocks: readonly string[];
  readonly signals: readonly SignalInfo[];
  readonly onChange: (plan: ProbePlan) => void;
}

const counts = (most: number): string[] => Array.from({ length: most }, (_, i) => String(i + 1));

function Plan({ plan, clocks, signals, onChange }: PlanProps) {
  const [recorder] = plan.recorders;
  const [panel] = plan.panels;
  const widthOf = (name: string) => signals.find((s) => s.name === name)?.width ?? 0;
  const sampleBits = recorder?.signals.reduce((sum, name) => sum + widthOf(name), 0) ?? 0;
  return (
    <section className="min-h-0 overflow-auto text-sm" aria-label="Probe plan">
      <h2 className="border-line border-b pb-1 font-bold">Recorder</h2>
      {recorder ? (
        <>
          <Choice label="Sampling clock" value={recorder.clock} options={clocks} onChoose={(clock) => onChange(setClock(plan, 'recorders', clock))} />
          <Choice label="Depth" value={String(recorder.depth)} options={DEPTHS.map(String)} onChoose={(depth) => onChange(setDepth(plan, Number(depth)))} unit="samples" />
          <Choice label="Comparators" value={String(recorder.comparators ?? DEFAULT_COMPARATORS)} options={counts(MOST_COMPARATORS)} onChoose={(n) => onChange(setTrigger(plan, { comparators: Number(n) }))} unit="at once" />
          <Choice label="Stages" value={String(recorder.stages ?? DEFAULT_STAGES)} options={counts(MOST_STAGES)} onChoose={(n) => onChange(setTrigger(plan, { stages: Number(n) }))} />
          <Chosen names={recorder.signals} widthOf={widthOf} signals={signals} onRemove={(name) => onChange(toggleUse(plan, name, 'record', recorder.clock))} />
          <p className="tabular mt-1 text-quiet text-xs">
            {sampleBits} bits a sample, {Math.ceil((sampleBits * recorder.depth) / BLOCK_RAM_BITS)} block RAMs
          </p>
        </>
      ) : (
        <p className="py-2 text-quiet">Press Record on a signal.</p>
      )}
      <h2 className="mt-4 border-line border-b pb-1 font-bold">Panel</h2>
      {panel ? (
        <>
          <Choice label="Clock" value={panel.clock} options={clocks} onChoose={(clock) => onChange(setClock(plan, 'panels', clock))} />
          {panel.levers.length > 0 && <h3 className="mt-2 text-quiet">Levers, you to design</h3>}
          <Chosen names={panel.levers} widthOf={widthOf} signals={signals} onRemove={(name) => onChange(toggleUse(plan, name, 'lever', panel.clock))} />
          {panel.gauges.length > 0 && <h3 className="mt-2 text-quiet">Gauges, design to you</h3>}
          <Chosen names={panel.gauges} widthOf={widthOf} signals={signals} onRemove={(name) => onChange(toggleUse(plan, name, 'gauge', panel.clock))} />
        </>
      ) : (
        <p className="py-2 text-quiet">Press Gauge or Lever on a signal. A lever on a driven signal overrides it until released.</p>
      )}
      <p className="mt-4 text-quiet text-xs">Fixed by the build: all of this. Free at run time: what each comparator compares with and how, how they are joined, counts and ends of stages, the trigger’s place, lever values.</p>
    </section>
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly string[];
  readonly unit?: string;
  readonly onChoose: (value: string) => void;
}

function Choice({ label, value, options, unit, onChoose }: ChoiceProps) {
  const all = options.includes(value) ? options : [value, ...options];
  return (
    <label className="mt-1 flex items-center gap-2">
      <span className="w-24 shrink-0 text-quiet">{label}</span>
      <select className="code h-7 min-w-0 flex-1 border border-line bg-raised px-1 text-sm" value={value} onChange={(event) => onChoose(event.target.value)}>
        {all.map((option) => (
          <option key={option} value={option}>
            {option}
            {unit ? ` ${unit}` : ''}
          </option>
        ))}
      </select>
    </label>
  );
}

interface ChosenProps {
  readonly names: readonly string[];
  readonly signals: readonly SignalInfo[];
  readonly widthOf: (name: string) => number;
  readonly onRemove: (name: string) => void;
}

function Chosen({ names, signals, widthOf, onRemove }: ChosenProps) {
  return (
    <ul className="mt-1">
      {names.map((name) => {
        const gone = !signals.some((s) => s.name === name);
        return (
          <li key={name} className="flex items-center gap-1 border-line border-b py-0.5">
            <span className={clsx('code min-w-0 flex-1 truncate text-xs', gone && 'text-bad line-through')} title={gone ? `${name}: the design has no such signal any more` : name}>
              {name.slice(name.indexOf('.') + 1)}
            </span>
            <span className="tabular text-quiet text-xs">{widthOf(name)}</span>
            <button type="button" aria-label={`Remove ${name}`} className="p-0.5 text-quiet hover:text-bad" onClick={() => onRemove(name)}>
              <X className="size-3.5" />
            </button>
          </li>
        );
      })}
    </ul>
  );
}
