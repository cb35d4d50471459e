'use client';
import { counted } from '../../../core/words.ts';
import { useQuery } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { type Dispatch, type SetStateAction, useMemo, useState } from 'react';
import type { HierarchyNode } from '../../../core/hdl/index.ts';
import { countBoxes, type Schematic, type SchematicNode } from '../../../core/schematic/index.ts';
import {
  answerOf,
  api,
  Button,
  Empty,
  matches,
  RowButton,
  Select,
  TextInput,
  useLive,
  Field,
} from '../../shared/index.ts';
import { useOpenReplay, useOpenSource, useProbeSignal } from '../places.ts';
import { useBuilds } from '../queries.ts';
import { Canvas } from './canvas.tsx';
import { useLayout } from './use-layout.ts';
import type { BuildDetails } from '../../../server/index.ts';
import type { SourcePlace } from '../places.ts';

const SUGGESTED = 60;

/** An instance with what is in it, or the cone of a signal back to registers. The address says which. */
export function SchematicView() {
  const state = useLive('stale', 'project', 'latest');
  const router = useRouter();
  const probe = useProbeSignal();
  const query = useSearchParams();
  const details = useBuilds().data?.latest?.details;
  const cone = query.get('cone');
  const instance = query.get('instance') ?? details?.hierarchy?.path ?? '';
  const [expanded, setExpanded] = useState<readonly string[]>([]);
  const [chosen, setChosen] = useState<string | null>(null);
  const [asWhole, setAsWhole] = useState(0);
  const files = state?.stale.map((edit) => edit.what).join() ?? '';
  const { data: drawing, isPlaceholderData } = useQuery({
    queryKey: ['schematic', state?.project?.id, state?.latest?.id, files, cone, instance, expanded],
    enabled: details?.hierarchy !== null && details !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answerOf(
        api.design.draw.query(
          cone === null ? { kind: 'instance', path: instance, expanded } : { kind: 'cone', signal: cone },
        ),
      ),
  });
  const graph = drawing?.ok ? drawing.value : null;
  const { placed, trouble, isBusy } = useLayout(graph);
  const show = useOpenSource();
  const go = (what: Record<string, string>) => {
    setChosen(null);
    if ('instance' in what) setExpanded([]);
    router.push(`/design/schematic?${new URLSearchParams(what)}`);
  };
  const node = useMemo(() => (graph && chosen !== null ? findNode(graph, chosen) : null), [graph, chosen]);
  if (!details?.hierarchy) return <Empty>The drawing is made from sources without errors. Press Build.</Empty>;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <DrawingTools
        cone={cone}
        instance={instance}
        go={go}
        hierarchy={details.hierarchy}
        signals={details.signals}
        graph={graph}
        onWhole={() => setAsWhole((count) => count + 1)}
      />
      <div
        className="relative min-h-0 flex-1 border border-line bg-raised"
        data-testid="drawing"
        aria-busy={isBusy || isPlaceholderData}
      >
        {drawing && !drawing.ok ? (
          <Empty>
            {drawing.problem.message} {drawing.problem.tryNext[0]}
          </Empty>
        ) : trouble ? (
          <Empty>{trouble}</Empty>
        ) : placed ? (
          <Canvas drawing={placed} chosen={chosen} onChoose={setChosen} asWhole={asWhole} />
        ) : (
          <p className="p-4 text-quiet text-sm">Drawing.</p>
        )}
      </div>
      <div className="flex h-9 shrink-0 items-center gap-2 text-sm" aria-live="polite">
        {node ? (
          <About
            node={node}
            cone={cone}
            setExpanded={setExpanded}
            expanded={expanded}
            go={go}
            details={details}
            probe={probe}
            show={show}
          />
        ) : (
          <span className="text-quiet">Wheel to zoom, drag to move, press a box to choose it.</span>
        )}
      </div>
    </div>
  );
}

interface AboutProps {
  readonly node: SchematicNode;
  readonly cone: string | null;
  readonly setExpanded: Dispatch<SetStateAction<readonly string[]>>;
  readonly expanded: readonly string[];
  readonly go: (what: Record<string, string>) => void;
  readonly details: BuildDetails;
  readonly probe: (name: string) => void;
  readonly show: (place: SourcePlace) => void;
}

function About({ node, cone, setExpanded, expanded, go, details, probe, show }: AboutProps) {
  const router = useRouter();
  const openReplay = useOpenReplay();
  return (
    <>
      <span className="code truncate text-xs" title={node.path}>
        {node.path || node.label}
      </span>
      <span className="truncate text-quiet">
        {node.kind} {node.detail}
      </span>
      <span className="ml-auto flex shrink-0 gap-2">
        {(node.kind === 'instance' || node.kind === 'logic') && cone === null && (
          <Button
            onClick={() =>
              setExpanded((old) => (old.includes(node.id) ? old.filter((p) => p !== node.id) : [...old, node.id]))
            }
          >
            {expanded.includes(node.id) ? 'Close' : 'Open in place'}
          </Button>
        )}
        {node.kind === 'instance' && <Button onClick={() => go({ instance: node.path })}>Show alone</Button>}
        {node.kind === 'instance' && (
          <Button
            title="What has to be recorded so that everything in it can be computed"
            onClick={() => openReplay({ see: node.path })}
          >
            See all of it
          </Button>
        )}
        {(node.kind === 'register' || node.kind === 'output') &&
          node.path !== cone &&
          details.signals.some((s) => s.name === node.path && s.kept) && (
            <Button onClick={() => go({ cone: node.path })}>What decides it</Button>
          )}
        {details.signals.some((s) => s.name === node.path) && (
          <Button onClick={() => probe(node.path)}>Probe it</Button>
        )}
        {(node.kind === 'input' || node.kind === 'output') &&
          details.ports.some((p) => `${details.top}.${p.name}` === node.path || p.name === node.label) && (
            <Button onClick={() => router.push('/design/pins')}>Its pin</Button>
          )}
        {node.file !== '' && <Button onClick={() => show(node)}>Source</Button>}
      </span>
    </>
  );
}

interface DrawingToolsProps {
  readonly cone: string | null;
  readonly instance: string;
  readonly go: (what: Record<string, string>) => void;
  readonly hierarchy: HierarchyNode;
  readonly signals: BuildDetails['signals'];
  readonly graph: Schematic | null;
  readonly onWhole: () => void;
}

function DrawingTools({ cone, instance, go, hierarchy, signals, graph, onWhole }: DrawingToolsProps) {
  return (
    <div className="mb-1 flex flex-wrap items-center gap-2 text-sm">
      <Field name="Instance">
        <Select
          isCode
          className="max-w-64"
          aria-label="Instance"
          value={cone === null ? instance : ''}
          onChange={(event) => go({ instance: event.target.value })}
        >
          {cone !== null && <option value="">–</option>}
          {instancesOf(hierarchy).map((path) => (
            <option key={path} value={path}>
              {path}
            </option>
          ))}
        </Select>
      </Field>
      <ConeSearch
        names={signals.filter((s) => s.kept).map((s) => s.name)}
        value={cone ?? ''}
        onChoose={(name) => go({ cone: name })}
      />
      <span className="text-quiet">
        {graph ? counted(countBoxes(graph), 'box', 'boxes') : ''}
        {graph?.cut ? ', cut short' : ''}
      </span>
      <Button className="ml-auto" onClick={onWhole}>
        Show all
      </Button>
    </div>
  );
}

function ConeSearch({
  names,
  value,
  onChoose,
}: {
  readonly names: readonly string[];
  readonly value: string;
  readonly onChoose: (name: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const found =
    text === null || text.trim() === '' ? [] : names.filter((name) => matches(name, text)).slice(0, SUGGESTED);
  const choose = (name: string) => {
    setText(null);
    onChoose(name);
  };
  return (
    <span className="relative flex items-center gap-1">
      What decides
      <TextInput
        isCode
        className="w-64"
        value={text ?? value}
        onChange={(event) => setText(event.target.value)}
        onFocus={(event) => event.target.select()}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && found[0]) choose(found[0]);
          if (event.key === 'Escape') setText(null);
        }}
        placeholder="a signal"
        aria-label="Signal"
      />
      {text !== null && found.length > 0 && (
        <ul className="absolute top-8 right-0 z-20 max-h-64 w-80 overflow-auto border border-quiet bg-raised shadow-sm">
          {found.map((name) => (
            <li key={name}>
              <RowButton className="code px-2 py-0.5 text-xs" onClick={() => choose(name)}>
                {name}
              </RowButton>
            </li>
          ))}
        </ul>
      )}
    </span>
  );
}

const instancesOf = (node: HierarchyNode): string[] => [node.path, ...node.children.flatMap(instancesOf)];

function findNode(graph: Schematic, id: string): SchematicNode | null {
  for (const node of graph.nodes) {
    if (node.id === id) return node;
    const inner = node.inside ? findNode(node.inside, id) : null;
    if (inner) return inner;
  }
  return null;
}
