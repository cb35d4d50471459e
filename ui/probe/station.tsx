'use client';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Hammer, Network, PackageOpen } from 'lucide-react';
import { useSearchParams } from 'next/navigation';
import { Popover, Toggle } from 'radix-ui';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { SignalInfo } from '../../core/build/index.ts';
import type { HierarchyNode } from '../../core/hdl/index.ts';
import { activePlan, coresIn, emptyPlan, type PlanShelf, type ProbePlan } from '../../core/probes/index.ts';
import { useBuilds, useOpenSchematic, useOpenSource } from '../design/index.ts';
import {
  clockRate,
  api,
  Button,
  DataTable,
  Empty,
  IconButton,
  JobOutcome,
  RowButton,
  StationHead,
  TextButton,
  useAct,
  useLatestJob,
  useLive,
  SHELF_KEY,
  useStart,
  DownloadLink,
} from '../shared/index.ts';
import { changedPlan, type Target, toggleUse, type Use, usesOf } from './plan-edit.ts';
import { PlanPanel } from './plan-panel.tsx';
import { Shelf } from './shelf.tsx';
import type { Dispatch } from 'react';
import type { SetStateAction } from 'react';
import type { BuildDetails } from '../../server/index.ts';

const USES: readonly { use: Use; name: string; hint: string }[] = [
  { use: 'record', name: 'Record', hint: 'store it in the chosen recorder' },
  { use: 'gauge', name: 'Gauge', hint: 'read it live' },
  { use: 'lever', name: 'Lever', hint: 'drive it by hand' },
];

const HINT = 'Choose signals inside the design; they are built in with the debug cores.';

export function ProbeStation() {
  const state = useLive('project', 'stale');
  const { act } = useAct();
  const queries = useQueryClient();
  const job = useLatestJob('build');
  const builds = useBuilds().data;
  const details = builds?.latest?.details ?? null;
  const known = details && details.signals.length > 0 ? details : (builds?.usable?.details ?? null);
  const wanted = useSearchParams().get('find') ?? '';
  const project = state?.project?.id ?? 0;
  const key = ['plan', project];
  const shelf = useQuery({
    queryKey: key,
    queryFn: () => api.probe.shelf.query(undefined, { context: { project } }),
  }).data;
  // One after the other: an older plan never overtakes a newer one. What was refused is not shown as kept.
  const { mutate: put } = useMutation({
    mutationKey: SHELF_KEY,
    scope: { id: 'shelf' },
    mutationFn: async (next: PlanShelf) => {
      const saved = await act(() => api.probe.saveShelf.mutate(next, { context: { project } }));
      const isLast = queries.isMutating({ mutationKey: SHELF_KEY }) === 1;
      if (saved === null && isLast) await queries.invalidateQueries({ queryKey: key });
    },
  });
  const [chosen, setChosen] = useState(0);
  const [target, setTarget] = useState<Target>({ recorder: 0, panel: 0 });
  const [module, setModule] = useState<string | null>(null);
  const signals = useMemo(() => new Map((known?.signals ?? []).map((signal) => [signal.name, signal])), [known]);
  const running = job?.endedAt === null;
  if (!known || !shelf)
    return (
      <>
        <StationHead title="Probe" hint={HINT} />
        <Empty>The names inside the design come from a build. Build under Design first.</Empty>
      </>
    );
  const isNewer = !running && state?.stale.some((edit) => edit.what === 'probe plan');
  const at = Math.min(chosen, Math.max(0, shelf.length - 1));
  const plan = shelf[at]?.plan ?? emptyPlan;
  const save = (next: PlanShelf) => {
    queries.setQueryData(key, next);
    put(next);
  };
  // Of what is kept by now, which this page may not have drawn yet: two clicks in a moment are both in the plan.
  const change = (edit: (plan: ProbePlan) => ProbePlan) => {
    const old = queries.getQueryData<PlanShelf>(key) ?? shelf;
    const plan = old[at]?.plan ?? emptyPlan;
    const next = edit(plan);
    save(changedPlan(old, at, next));
    const gone = coresIn(plan) - coresIn(next);
    if (gone > 0)
      toast('It is out of the plan, with its settings.', { action: { label: 'Undo', onClick: () => save(old) } });
  };
  const others = activePlan(shelf.filter((_, i) => i !== at));
  const inside: Target = {
    recorder: Math.min(target.recorder, Math.max(0, plan.recorders.length - 1)),
    panel: Math.min(target.panel, Math.max(0, plan.panels.length - 1)),
  };
  /** Full name of a clock port; empty, which a panel takes for TCK, in a design without one. */
  const clock = (domain: string) => (domain || known.clocks[0] ? `${known.top}.${domain || known.clocks[0]}` : '');
  const shown = module === null ? known.signals : known.signals.filter((s) => s.name.startsWith(`${module}.`));
  return (
    <div className="flex h-full min-h-[34rem] flex-col">
      <ProbeHead
        isNewer={isNewer}
        shelf={shelf}
        at={at}
        signals={signals}
        setChosen={setChosen}
        save={save}
        known={known}
        running={running}
      />
      <JobOutcome job={job} />
      <div className="grid min-h-0 flex-1 grid-cols-[7.25rem_minmax(0,1fr)_17rem] gap-2">
        <Tree root={known.hierarchy} chosen={module} onChoose={setModule} />
        <SignalTable
          key={wanted}
          wanted={wanted}
          shown={shown}
          module={module}
          change={change}
          plan={plan}
          inside={inside}
          clock={clock}
        />
        <PlanPanel
          plan={plan}
          others={others}
          target={inside}
          clocks={known.clocks.map(clock)}
          rates={new Map((known.timing?.clocks ?? []).map((one) => [clock(one.clock), clockRate(one)]))}
          known={signals}
          onTarget={setTarget}
          onPlan={(next) => change(() => next)}
        />
      </div>
    </div>
  );
}

interface ProbeHeadProps {
  readonly isNewer: boolean | undefined;
  readonly shelf: PlanShelf;
  readonly at: number;
  readonly signals: Map<string, SignalInfo>;
  readonly setChosen: Dispatch<SetStateAction<number>>;
  readonly save: (next: PlanShelf) => void;
  readonly known: BuildDetails;
  readonly running: boolean;
}

function ProbeHead({ isNewer, shelf, at, signals, setChosen, save, known, running }: ProbeHeadProps) {
  const start = useStart();
  return (
    <StationHead
      title="Probe"
      hint={isNewer ? <span className="text-doubt">The plan is newer than the build: build, then load.</span> : HINT}
    >
      <Shelf shelf={shelf} chosen={at} known={signals} onChoose={setChosen} onShelf={save} />
      {known.taken && (
        <DownloadLink
          href="/api/plan/verilog?part=wrapper"
          className="inline-flex h-8 items-center gap-1.5 text-quiet text-sm hover:text-ink hover:underline"
          title="A module around it, with a place for the primitive by which your device gives its fabric a register"
        >
          <PackageOpen aria-hidden className="size-4" /> Wrapper
        </DownloadLink>
      )}
      {known.probes && (
        <DownloadLink
          href="/api/plan/verilog"
          className="inline-flex h-8 items-center gap-1.5 text-quiet text-sm hover:text-ink hover:underline"
          title="The design with these probes as plain Verilog with one JTAG register, for a device of your own"
        >
          <PackageOpen aria-hidden className="size-4" /> Take it along
        </DownloadLink>
      )}
      <Button look="main" disabled={running} onClick={() => void start({ kind: 'build' })}>
        <Hammer aria-hidden className="size-4" /> Build with probes
      </Button>
    </StationHead>
  );
}

interface SignalTableProps {
  readonly wanted: string;
  readonly shown: readonly SignalInfo[];
  readonly module: string | null;
  readonly change: (edit: (plan: ProbePlan) => ProbePlan) => void;
  readonly plan: ProbePlan;
  readonly inside: Target;
  readonly clock: (domain: string) => string;
}

function SignalTable({ wanted, shown, module, change, plan, inside, clock }: SignalTableProps) {
  return (
    <DataTable
      className="min-h-0"
      name="signals"
      initialFilter={wanted}
      rows={shown}
      empty="This module has no signals."
      columns={[
        {
          id: 'name',
          header: 'Signal',
          accessorFn: (s: SignalInfo) => s.name,
          cell: ({ row }) => (
            <SignalName
              signal={row.original}
              below={module}
              onKeep={() =>
                change((now) => toggleUse(now, inside, row.original.name, 'record', clock(row.original.domain)))
              }
            />
          ),
        },
        {
          accessorKey: 'width',
          header: 'Bits',
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
        {
          id: 'driver',
          header: 'Driver, clock',
          accessorFn: (s: SignalInfo) => `${driverText(s)} ${s.domain}`,
          cell: ({ row }) => <DriverOf signal={row.original} />,
        },
        {
          id: 'use',
          header: 'Use',
          accessorFn: (s: SignalInfo) => [...usesOf(plan, inside, s.name)].join(', '),
          cell: ({ row }) => (
            <Uses
              signal={row.original}
              plan={plan}
              target={inside}
              onToggle={(use) =>
                change((now) => toggleUse(now, inside, row.original.name, use, clock(row.original.domain)))
              }
            />
          ),
        },
      ]}
    />
  );
}

interface NameProps {
  readonly signal: SignalInfo;
  readonly below: string | null;
  /** Takes it into the recorder, by which it stays in the hardware. */
  readonly onKeep: () => void;
}

const REMOVED = {
  unread: 'Nothing reads it, so optimisation removed it.',
  unseen: 'What reads it reaches no output, so optimisation removed it.',
} as const;

/** The name, and whether it is still in the hardware. */
function SignalName({ signal, below, onKeep }: NameProps) {
  const { name, removed } = signal;
  const short = below === null ? name.slice(name.indexOf('.') + 1) : name.slice(below.length + 1);
  const cut = short.lastIndexOf('.') + 1;
  return (
    <span className="flex items-center gap-1.5 whitespace-nowrap">
      <span className={clsx('code text-xs', removed && 'text-quiet')} title={name}>
        <span className="text-quiet">{short.slice(0, cut)}</span>
        {short.slice(cut)}
      </span>
      {removed && (
        <Popover.Root>
          <Popover.Trigger className="text-doubt text-xs hover:underline" aria-label={`Why ${name} was removed`}>
            removed
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content align="start" className="z-20 w-72 border border-line bg-raised p-3 text-sm shadow-md">
              <p>{REMOVED[removed]} A recorder reads it, and so it stays.</p>
              <Popover.Close asChild>
                <Button className="mt-2" onClick={onKeep}>
                  Keep it: record it
                </Button>
              </Popover.Close>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
    </span>
  );
}

const DRIVERS = {
  pin: 'pin',
  cell: 'cell',
  register: 'register',
  logic: 'logic',
  memory: 'memory',
  constant: 'constant',
  nothing: 'nothing',
  untold: '',
} as const;

/** What drives it, in a few words. */
function driverText({ driver, kind }: SignalInfo): string {
  switch (driver.kind) {
    case 'pin':
    case 'cell':
      return `${driver.kind} ${driver.port}`;
    case 'constant':
      return `constant ${driver.value}`;
    case 'untold':
      return kind;
    default:
      return DRIVERS[driver.kind];
  }
}

/** What drives it; opens the statement that does, or draws it. */
function DriverOf({ signal }: { readonly signal: SignalInfo }) {
  const openSource = useOpenSource();
  const draw = useOpenSchematic();
  const { name, driver } = signal;
  const made = 'from' in driver && driver.file !== '' ? driver : null;
  const place = made ?? signal;
  const why =
    'from' in driver
      ? driver.from.length > 0
        ? `decided by ${driver.from.map((one) => one.slice(one.indexOf('.') + 1)).join(', ')}`
        : 'it decides itself'
      : driver.kind === 'nothing'
        ? 'free to be driven by a lever'
        : '';
  return (
    <span className="flex items-center gap-1 whitespace-nowrap">
      <TextButton
        aria-label={`Driver of ${name}`}
        className={driver.kind === 'nothing' ? 'text-doubt' : ''}
        title={
          `${driverText(signal)}${why ? `, ${why}` : ''}; ${made ? 'set' : 'declared'} at ${place.file}, line ` +
          `${place.line}`
        }
        onClick={() => openSource(place)}
      >
        {driverText(signal)}
      </TextButton>
      <span className="text-quiet text-xs">{signal.domain}</span>
      {signal.kept && (
        <IconButton
          className="text-transparent focus-visible:text-ink group-hover/row:text-quiet"
          label={`Draw what drives ${name}`}
          title="Draw what drives it"
          onClick={() => draw({ cone: name })}
        >
          <Network aria-hidden className="size-3.5" />
        </IconButton>
      )}
    </span>
  );
}

interface UsesProps {
  readonly signal: SignalInfo;
  readonly plan: ProbePlan;
  readonly target: Target;
  readonly onToggle: (use: Use) => void;
}

function Uses({ signal, plan, target, onToggle }: UsesProps) {
  const uses = usesOf(plan, target, signal.name);
  return (
    <span className="flex gap-1">
      {USES.map(({ use, name, hint }) => (
        <Toggle.Root
          key={use}
          title={`${name}: ${hint}`}
          aria-label={`${name} ${signal.name}`}
          pressed={uses.has(use)}
          onPressedChange={() => onToggle(use)}
          className={clsx(
            'rounded-[3px] border px-1 text-xs',
            uses.has(use) ? 'border-ink bg-ink text-raised' : 'border-line text-quiet hover:border-quiet',
          )}
        >
          {name}
        </Toggle.Root>
      ))}
    </span>
  );
}

function Tree({
  root,
  chosen,
  onChoose,
}: {
  readonly root: HierarchyNode | null;
  readonly chosen: string | null;
  readonly onChoose: (path: string | null) => void;
}) {
  const rows: { node: HierarchyNode; depth: number }[] = [];
  const walk = (node: HierarchyNode, depth: number) => {
    rows.push({ node, depth });
    for (const child of node.children) walk(child, depth + 1);
  };
  if (root) walk(root, 0);
  return (
    <ul className="min-h-0 overflow-auto border border-line bg-raised text-sm" aria-label="Modules">
      <li>
        <RowButton className="px-2 py-1" isChosen={chosen === null} onClick={() => onChoose(null)}>
          all signals
        </RowButton>
      </li>
      {rows.map(({ node, depth }) => (
        <li key={node.path}>
          <RowButton
            title={`${node.path}, module ${node.module}`}
            className="py-1 pr-2"
            isChosen={chosen === node.path}
            style={{ paddingLeft: `${0.5 + depth * 0.8}rem` }}
            onClick={() => onChoose(node.path)}
          >
            {node.name}
          </RowButton>
        </li>
      ))}
    </ul>
  );
}
