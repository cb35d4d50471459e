'use client';
import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical, X } from 'lucide-react';
import { useState } from 'react';
import { type ChainFile, chainOf, type ExpectedDevice } from '../../../core/chain/index.ts';
import { Button, Empty, Section, useAct, useLive, api, TextInput, IconButton, FileButton } from '../../shared/index.ts';
import { added, edited, moved, removed } from './edit.ts';

const KINDS = {
  same: 'as expected',
  'other-version': 'other version',
  'other-part': 'another part',
  swapped: 'elsewhere',
  missing: 'missing',
  extra: 'not expected',
} as const;

/** The chain that is expected on this board: accept what answers, or edit it by hand. Every step can be undone. */
export function ExpectedChain() {
  const state = useLive('chain', 'scan');
  const { busy, act } = useAct();
  const [undo, setUndo] = useState<readonly (ChainFile | null)[]>([]);
  const chain = state?.chain.chain ?? null;
  const found = state?.scan?.devices ?? [];
  const scanned = found.length > 0 ? chainOf(found) : null;
  const put = async (next: ChainFile | null, remember = true) => {
    if (remember) setUndo((old) => [...old, chain]);
    await act(() => api.bench.expectChain.mutate({ text: next === null ? null : JSON.stringify(next) }));
  };
  const back = async () => {
    const last = undo.at(-1);
    if (last === undefined) return;
    setUndo((old) => old.slice(0, -1));
    await put(last, false);
  };
  const save = () => {
    if (!chain) return;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([`${JSON.stringify(chain, null, 2)}\n`], { type: 'application/json' }));
    link.download = state?.chain.file ?? 'board.chain.json';
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const read = async (file: File) => {
    setUndo((old) => [...old, chain]);
    const text = await file.text();
    await act(() => api.bench.expectChain.mutate({ text }));
  };
  return (
    <Section
      title="Expected chain"
      aside={
        state?.chain.from === 'board'
          ? 'accepted on this board'
          : state?.chain.from === 'project'
            ? `${state.chain.file}, of the project`
            : null
      }
    >
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <Button disabled={busy || !scanned} onClick={() => put(scanned)}>
          Accept what answers
        </Button>
        <Button disabled={busy} onClick={() => put(added(chain))}>
          Add a device
        </Button>
        <Button disabled={busy || undo.length === 0} onClick={back}>
          Undo
        </Button>
        <FileButton label="Chain file" accept=".json" testId="chain-file" onFile={(file) => void read(file)}>
          Read a file
        </FileButton>
        <Button look="quiet" disabled={!chain} onClick={save}>
          Save as a file
        </Button>
        {state?.chain.from === 'board' && (
          <Button look="quiet" disabled={busy} onClick={() => put(null)}>
            Forget it for this board
          </Button>
        )}
      </div>
      {chain ? (
        <Editor chain={chain} onChange={put} />
      ) : (
        <Empty>
          No chain is expected on this board yet. Accept what answers, and every later scan is compared with it.
        </Empty>
      )}
    </Section>
  );
}

function Editor({ chain, onChange }: { readonly chain: ChainFile; readonly onChange: (next: ChainFile) => void }) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const rows = useLive('chain')?.chain.rows ?? null;
  const ids = chain.devices.map((_, i) => i + 1);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onChange(moved(chain, Number(active.id) - 1, Number(over.id) - 1));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ol className="border border-line bg-raised text-sm" data-testid="expected-devices">
          {chain.devices.map((device, i) => (
            <Line
              // biome-ignore lint/suspicious/noArrayIndexKey: a place is what a row is
              key={i}
              id={i + 1}
              place={i}
              device={device}
              kind={rows?.find((row) => row.expected === i)?.kind ?? null}
              onEdit={(next) => onChange(edited(chain, i, next))}
              onRemove={() => onChange(removed(chain, i))}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

interface LineProps {
  readonly id: number;
  readonly place: number;
  readonly device: ExpectedDevice;
  readonly kind: keyof typeof KINDS | null;
  readonly onEdit: (next: ExpectedDevice) => void;
  readonly onRemove: () => void;
}

function Line({ id, place, device, kind, onEdit, onRemove }: LineProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className="flex items-center gap-3 border-line border-t px-2 py-1 first:border-t-0"
    >
      <IconButton className="cursor-grab" label={`Move place ${place}`} {...attributes} {...listeners}>
        <GripVertical className="size-4" />
      </IconButton>
      <span className="tabular w-14 text-quiet">place {place}</span>
      <TextInput
        size="tiny"
        isCode
        className="w-24"
        key={`p${device.part}`}
        aria-label={`Part at place ${place}`}
        defaultValue={device.part ?? ''}
        placeholder="unknown"
        onBlur={(event) =>
          event.target.value !== (device.part ?? '') &&
          onEdit({ ...device, part: event.target.value === '' ? null : event.target.value })
        }
      />
      <TextInput
        size="tiny"
        isCode
        className="w-28"
        key={`i${device.idcode}`}
        aria-label={`IDCODE at place ${place}`}
        defaultValue={device.idcode ?? ''}
        placeholder="no IDCODE"
        onBlur={(event) =>
          event.target.value !== (device.idcode ?? '') &&
          onEdit({ ...device, idcode: event.target.value === '' ? null : event.target.value })
        }
      />
      <label className="flex items-center gap-1 text-quiet">
        <TextInput
          size="tiny"
          isCode
          className="w-14"
          key={`l${device.irLength}`}
          type="number"
          min={2}
          max={512}
          aria-label={`Expected instruction length at place ${place}`}
          defaultValue={device.irLength}
          onBlur={(event) =>
            Number(event.target.value) !== device.irLength &&
            onEdit({ ...device, irLength: Number(event.target.value) })
          }
        />{' '}
        bits
      </label>
      <span className={kind === 'same' ? 'text-good' : kind === null ? 'text-quiet' : 'font-bold text-doubt'}>
        {kind === null ? 'not scanned' : KINDS[kind]}
      </span>
      <IconButton isRemoval className="ml-auto" label={`Delete place ${place}`} onClick={onRemove}>
        <X className="size-4" />
      </IconButton>
    </li>
  );
}
