'use client';
import { counted } from '../../../core/words.ts';
import { type Dispatch, type SetStateAction, useMemo, useState } from 'react';
import type { HierarchyNode } from '../../../core/hdl/index.ts';
import type { InstanceUse, Resources } from '../../../core/mapping/index.ts';
import { Chart, DataTable, Empty, Section, TextButton, Tile, type Colour, useColour } from '../../shared/index.ts';
import { useOpenSource } from '../places.ts';
import { useBuilds } from '../queries.ts';
import type { BuildDetails } from '../../../server/index.ts';
import type { SourcePlace } from '../places.ts';

type Kind = 'luts' | 'registers' | 'blockRams';

const KINDS: readonly { readonly kind: Kind; readonly name: string }[] = [
  { kind: 'luts', name: 'LUTs' },
  { kind: 'registers', name: 'flip-flops' },
  { kind: 'blockRams', name: 'block RAMs' },
];

interface Area {
  readonly name: string;
  readonly value: number;
  readonly path: string;
  readonly children?: readonly Area[];
}

/** What takes up the part, as areas to scale. Pressing one opens its module. */
export function ResourcesView() {
  const details = useBuilds().data?.latest?.details;
  const open = useOpenSource();
  const [kind, setKind] = useState<Kind>('luts');
  const places = useMemo(() => placesOf(details?.hierarchy ?? null), [details]);
  const tiles = useMemo(() => tilesOf(details?.instances ?? [], details?.hierarchy ?? null, kind), [details, kind]);
  const colour = useColour();
  const option = useMemo(
    () => treemap(tiles, KINDS.find((k) => k.kind === kind)?.name ?? '', colour),
    [tiles, kind, colour],
  );
  if (details?.taken)
    return <Empty>What the design takes of a {details.part} its own tools know, and nobody else.</Empty>;
  if (!details || details.instances.length === 0)
    return <Empty>Resources come from a build without errors. Press Build.</Empty>;
  const { resources } = details;
  const have: Readonly<Record<Kind, number>> = {
    luts: resources.lutsOfPart,
    registers: resources.lutsOfPart,
    blockRams: resources.blockRamsOfPart,
  };
  return (
    <div className="min-h-0 overflow-auto">
      <Totals kind={kind} setKind={setKind} resources={resources} have={have} />
      <p className="mb-2 text-quiet text-sm">
        {resources.cells} logic cells of a LUT and a flip-flop · {resources.carryBits} LUTs on carry chains ·{' '}
        {resources.memoryLuts} LUTs as memory · {resources.depth} LUTs on the longest way · {resources.ioPins} pins
      </p>
      {details.saving && <Advice saving={details.saving} open={open} />}
      {tiles.length === 0 ? (
        <Empty>Nothing in the design takes any.</Empty>
      ) : (
        <Chart
          option={option}
          label={`Share of ${kind} by instance`}
          className="h-72 w-full"
          onPick={(data) => {
            const at = places.get((data as Area).path);
            if (at) open(at);
          }}
        />
      )}
      <Section title="By instance" className="mt-3">
        <InstanceTable details={details} places={places} open={open} />
      </Section>
      {(details.lines ?? []).length > 0 && (
        <Section title="By line of the sources" aside="over all instances of it" className="mt-3">
          <LineTable details={details} open={open} />
        </Section>
      )}
      {(details.machines ?? []).length > 0 && (
        <Section
          title="State machines"
          aside="whose states are written in another way than in the sources"
          className="mt-3"
        >
          <MachineTable details={details} open={open} />
        </Section>
      )}
      {details.memories.length > 0 && (
        <Section title="Memories">
          <MemoryTable details={details} />
        </Section>
      )}
    </div>
  );
}

interface AdviceProps {
  readonly saving: NonNullable<BuildDetails['saving']>;
  readonly open: (place: SourcePlace) => void;
}

/** The one line that would save most. */
function Advice({ saving: { file, line, luts, text }, open }: AdviceProps) {
  return (
    <p className="mb-2 text-sm">
      Most could be saved here, about {counted(luts, 'LUT')}: {text}{' '}
      {file !== '' && (
        <TextButton onClick={() => open({ file, line })}>
          {file}:{line}
        </TextButton>
      )}
    </p>
  );
}

interface LineTableProps {
  readonly details: BuildDetails;
  readonly open: (place: SourcePlace) => void;
}

/** What each line takes, the most first: where there is most to save. */
function LineTable({ details, open }: LineTableProps) {
  return (
    <DataTable
      name="lines"
      rows={details.lines ?? []}
      empty=""
      onRow={({ file, line }) => open({ file, line })}
      columns={[
        {
          id: 'place',
          header: 'Line',
          accessorFn: ({ file, line }) => `${file}:${line}`,
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        {
          id: 'text',
          header: 'What stands there',
          accessorFn: ({ text }) => text,
          cell: (c) => (
            <span className="code block max-w-[34rem] truncate text-quiet text-xs" title={String(c.getValue())}>
              {String(c.getValue())}
            </span>
          ),
        },
        ...KINDS.slice(0, 2).map(({ kind: id, name }) => ({
          accessorKey: id,
          header: name,
          meta: { isNumber: true },
        })),
      ]}
    />
  );
}

interface MachineTableProps {
  readonly details: BuildDetails;
  readonly open: (place: SourcePlace) => void;
}

function MachineTable({ details, open }: MachineTableProps) {
  return (
    <DataTable
      name="machines"
      rows={details.machines ?? []}
      empty=""
      onRow={({ file, line }) => open({ file, line })}
      columns={[
        {
          accessorKey: 'name',
          header: 'Register',
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        { accessorKey: 'states', header: 'States', meta: { isNumber: true } },
        { id: 'bits', header: 'In the source', accessorFn: ({ bits }) => counted(bits, 'bit') },
        {
          id: 'mapped',
          header: 'Mapped with',
          accessorFn: ({ states, mappedBits }) =>
            mappedBits === states ? 'a bit for each state' : counted(mappedBits, 'bit'),
        },
      ]}
    />
  );
}

interface MemoryTableProps {
  readonly details: BuildDetails;
}

function MemoryTable({ details }: MemoryTableProps) {
  return (
    <DataTable
      name="memories"
      rows={details.memories}
      empty=""
      columns={[
        {
          accessorKey: 'name',
          header: 'Memory',
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        {
          id: 'in',
          header: 'Made of',
          accessorFn: (m) =>
            m.kind === 'block'
              ? counted(m.blockRams, 'block RAM')
              : m.kind === 'tables'
                ? counted(m.luts, 'LUT')
                : counted(m.registers, 'flip-flop'),
        },
        {
          id: 'why',
          header: 'Why',
          accessorFn: (m) => m.reason ?? (m.kind === 'block' ? 'read and written at clock edges' : 'small'),
        },
      ]}
    />
  );
}

interface InstanceTableProps {
  readonly details: BuildDetails;
  readonly places: Map<string, { file: string; line: number }>;
  readonly open: (place: SourcePlace) => void;
}

function InstanceTable({ details, places, open }: InstanceTableProps) {
  return (
    <DataTable
      name="instances"
      rows={details.instances}
      empty="No instance takes anything."
      onRow={(use) => {
        const at = places.get(use.path);
        if (at) open(at);
      }}
      columns={[
        {
          accessorKey: 'path',
          header: 'Instance, without those inside it',
          cell: (c) => <span className="code text-xs">{String(c.getValue()) || 'outside the hierarchy'}</span>,
        },
        ...KINDS.map(({ kind: id, name }) => ({
          accessorKey: id,
          header: name,
          meta: { isNumber: true },
        })),
      ]}
    />
  );
}

interface TotalsProps {
  readonly kind: Kind;
  readonly setKind: Dispatch<SetStateAction<Kind>>;
  readonly resources: Resources & { readonly lutsOfPart: number; readonly blockRamsOfPart: number };
  readonly have: Readonly<Record<Kind, number>>;
}

function Totals({ kind, setKind, resources, have }: TotalsProps) {
  return (
    <div className="mb-3 grid grid-cols-3 gap-4">
      {KINDS.map(({ kind: id, name }) => (
        <Tile key={id} isChosen={id === kind} onClick={() => setKind(id)}>
          <span className="flex items-baseline justify-between text-sm">
            <span>{name}</span>
            <span className="tabular">
              <b>{resources[id]}</b> of {have[id]}
            </span>
          </span>
          <span className="mt-1 block h-2 bg-well">
            <span
              className={`block h-full ${resources[id] > have[id] ? 'bg-bad' : 'bg-ink'}`}
              style={{ width: `${Math.min(100, (100 * resources[id]) / Math.max(1, have[id]))}%` }}
            />
          </span>
        </Tile>
      ))}
    </div>
  );
}

function placesOf(node: HierarchyNode | null): Map<string, { file: string; line: number }> {
  const found = new Map<string, { file: string; line: number }>();
  const visit = (at: HierarchyNode) => {
    found.set(at.path, { file: at.file, line: at.line });
    at.children.forEach(visit);
  };
  if (node) visit(node);
  return found;
}

/** Instances inside instances; what a module takes itself is a tile of its own beside those inside it. */
function tilesOf(uses: readonly InstanceUse[], hierarchy: HierarchyNode | null, kind: Kind): Area[] {
  const own = new Map(uses.map((use) => [use.path, use[kind]]));
  const tile = (node: HierarchyNode): Area | null => {
    const inner = node.children.map(tile).filter((t) => t !== null);
    const self = own.get(node.path) ?? 0;
    const value = self + inner.reduce((sum, t) => sum + t.value, 0);
    if (value === 0) return null;
    if (inner.length === 0) return { name: node.name, value, path: node.path };
    return {
      name: node.name,
      value,
      path: node.path,
      children: self > 0 ? [...inner, { name: `${node.name} itself`, value: self, path: node.path }] : inner,
    };
  };
  const root = hierarchy ? tile(hierarchy) : null;
  const probes = uses.filter((use) => use.path.startsWith('probes')).reduce((sum, use) => sum + use[kind], 0);
  return [
    ...(root ? (root.children ?? [root]) : []),
    ...(probes > 0 ? [{ name: 'debug cores', value: probes, path: 'probes' }] : []),
  ];
}

function treemap(tiles: readonly Area[], unit: string, colour: Colour) {
  return {
    tooltip: { formatter: ({ name, value }: { name: string; value: number }) => `${name}: ${value} ${unit}` },
    series: [
      {
        type: 'treemap',
        data: tiles,
        roam: false,
        nodeClick: false,
        breadcrumb: { show: false },
        left: 0,
        right: 0,
        top: 0,
        bottom: 0,
        animation: false,
        label: {
          formatter: ({ name, value }: { name: string; value: number }) => `${name}\n${value}`,
          color: colour('ink'),
          fontFamily: 'B612',
          fontSize: 12,
          lineHeight: 16,
        },
        upperLabel: { show: true, height: 20, color: colour('ink'), fontFamily: 'B612', fontSize: 12 },
        itemStyle: { borderColor: colour('paper'), borderWidth: 2, gapWidth: 2 },
        levels: [
          { upperLabel: { show: false }, color: ([1, 2, 3, 4, 5, 6] as const).map((area) => colour(`area-${area}`)) },
          { colorSaturation: [0.12, 0.3], itemStyle: { borderColor: colour('line'), borderWidth: 1, gapWidth: 1 } },
          {},
        ],
      },
    ],
  };
}
