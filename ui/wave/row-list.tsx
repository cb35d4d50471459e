'use client';
import { TextInput, IconButton } from '../shared/index.ts';
import { DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { clsx } from 'clsx';
import { ChevronDown, ChevronRight, GripVertical, MoreHorizontal } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { type Dispatch, type MouseEvent, type ReactNode, type SetStateAction, useState } from 'react';
import { item } from '../../core/lists.ts';
import {
  lastAt,
  leavesOf,
  nameOfRow,
  type Radix,
  RADIX_NAMES,
  type Row,
  wholeRow,
  freshId,
  writeValue,
} from '../../core/wave/index.ts';
import { AXIS, colourOf, type DrawnRow, rowHeight } from './draw.ts';
import type { OpenSignal } from './messages.ts';
import {
  changedRow,
  flat,
  grouped,
  joined,
  moved,
  split,
  toggledGroup,
  ungrouped,
  widthOf,
  withoutRows,
  signalOf,
} from './rows.ts';
import type { SignalRow } from '../../core/wave/index.ts';

interface Props {
  readonly rows: readonly Row[];
  readonly drawn: readonly DrawnRow[];
  readonly signals: readonly OpenSignal[];
  readonly domains: readonly string[];
  /** Tick of the chosen cursor. */
  readonly tick: number;
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: (ids: ReadonlySet<string>) => void;
  readonly onRows: (rows: Row[]) => void;
}

/**
 * Names and the values under the chosen cursor; rows are dragged to another place, chosen with a click, and changed
 * from their menu.
 */
export function RowList({ rows, drawn, signals, domains, tick, chosen, onChoose, onRows }: Props) {
  const [renaming, setRenaming] = useState<string | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const byId = new Map<string, Row>([...rows, ...leavesOf(rows)].map((row) => [row.id, row]));
  const inGroup = new Set(rows.flatMap((row) => (row.kind === 'group' ? row.rows.map(({ id }) => id) : [])));
  const order = flat(rows);
  const choose = (id: string, event: MouseEvent) => {
    if (event.ctrlKey || event.metaKey) {
      const next = new Set(chosen);
      if (!next.delete(id)) next.add(id);
      onChoose(next);
    } else if (event.shiftKey && chosen.size > 0) {
      const [from, to] = [order.indexOf(item([...chosen], 0)), order.indexOf(id)].sort((a, b) => a - b) as [
        number,
        number,
      ];
      onChoose(new Set(order.slice(from, to + 1)));
    } else onChoose(new Set([id]));
  };
  const drop = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onRows(moved(rows, String(active.id), String(over.id)));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={drop}>
      <SortableContext items={order} strategy={verticalListSortingStrategy}>
        <ul aria-label="Rows" style={{ paddingTop: AXIS }}>
          {drawn.map((one) => {
            const row = byId.get(one.id);
            if (!row) return null;
            return (
              <OneRow
                key={one.id}
                one={one}
                chosen={chosen}
                inGroup={inGroup}
                choose={choose}
                row={row}
                onRows={onRows}
                rows={rows}
                domains={domains}
                renaming={renaming}
                setRenaming={setRenaming}
                tick={tick}
                signals={signals}
              />
            );
          })}
        </ul>
      </SortableContext>
      <AddRow rows={rows} signals={signals} onRows={onRows} />
    </DndContext>
  );
}

interface OneRowProps {
  readonly one: DrawnRow;
  readonly chosen: ReadonlySet<string>;
  readonly inGroup: Set<string>;
  readonly choose: (id: string, event: MouseEvent) => void;
  readonly row: Row;
  readonly onRows: (rows: Row[]) => void;
  readonly rows: readonly Row[];
  readonly domains: readonly string[];
  readonly renaming: string | null;
  readonly setRenaming: Dispatch<SetStateAction<string | null>>;
  readonly tick: number;
  readonly signals: readonly OpenSignal[];
}

function OneRow({
  one,
  chosen,
  inGroup,
  choose,
  row,
  onRows,
  rows,
  domains,
  renaming,
  setRenaming,
  tick,
  signals,
}: OneRowProps) {
  const isComputed = row.kind === 'signal' && signalOf(row, signals)?.computed === true;
  return (
    <Line
      id={one.id}
      height={rowHeight(one)}
      chosen={chosen.has(one.id)}
      indent={inGroup.has(one.id)}
      onClick={(event) => choose(one.id, event)}
    >
      <span className="flex min-w-0 flex-1 items-center gap-1.5">
        {row.kind === 'group' ? (
          <IconButton
            label={row.open ? `Close ${row.label}` : `Open ${row.label}`}
            onClick={() => onRows(toggledGroup(rows, row.id))}
          >
            {row.open ? <ChevronDown className="size-3.5" /> : <ChevronRight className="size-3.5" />}
          </IconButton>
        ) : (
          <span
            aria-hidden
            className="inline-block size-2 shrink-0 border-2"
            style={swatch(
              one.kind === 'signal' && one.drawn ? colourOf(domains, one.drawn.trace.domain) : 'line',
              isComputed,
            )}
          />
        )}
        {renaming === one.id ? (
          <TextInput
            className="min-w-0 flex-1"
            autoFocus
            defaultValue={nameOfRow(row)}
            aria-label="Name of the row"
            onBlur={(event) => {
              setRenaming(null);
              if (event.target.value.trim() !== '')
                onRows(changedRow(rows, one.id, { label: event.target.value.trim() }));
            }}
            onKeyDown={(event) => {
              if (event.key === 'Escape') event.currentTarget.value = nameOfRow(row);
              if (event.key === 'Enter' || event.key === 'Escape') event.currentTarget.blur();
              event.stopPropagation();
            }}
          />
        ) : (
          <RowName
            row={row}
            title={`${titleOf(one)}${isComputed ? ', computed' : ''}`}
            chosen={chosen.has(one.id)}
            isComputed={isComputed}
          />
        )}
      </span>
      <span
        className="code max-w-24 shrink-0 truncate pl-2 text-right text-xs"
        data-testid={`value-${one.name}`}
        title={shownValue(one, tick)}
      >
        {shownValue(one, tick)}
      </span>
      <RowMenu
        row={row}
        rows={rows}
        signals={signals}
        chosen={chosen}
        drawn={one}
        onRows={onRows}
        onRename={() => setRenaming(one.id)}
      />
    </Line>
  );
}

const titleOf = (one: DrawnRow): string =>
  one.kind === 'signal' && one.drawn
    ? `${one.drawn.trace.name}, ${one.drawn.trace.width} ` +
      `${one.drawn.trace.width === 1 ? 'bit' : 'bits'}` +
      `${one.drawn.trace.domain ? `, clock ${one.drawn.trace.domain}` : ''}`
    : one.name;

function shownValue(one: DrawnRow, tick: number): string {
  if (one.kind === 'decoder') return one.frames.find(({ from, to }) => tick >= from && tick < to)?.text ?? '';
  if (one.kind !== 'signal' || !one.drawn) return '';
  const { trace, steps } = one.drawn;
  const text = writeValue(trace, lastAt(trace, steps, tick), one.radix);
  return one.radix.kind === 'hex' && trace.width > 1 && !trace.real ? `0x${text}` : text;
}

/** Filled for what was recorded, a frame for what was computed. */
const swatch = (colour: string, isComputed: boolean) => ({
  borderColor: `var(--color-${colour})`,
  background: isComputed ? 'transparent' : `var(--color-${colour})`,
});

interface NameProps {
  readonly row: Row;
  readonly title: string;
  readonly chosen: boolean;
  readonly isComputed: boolean;
}

/** The end of the path tells most; the way there stands before it, smaller. Pressed, it chooses the row. */
function RowName({ row, title, chosen, isComputed }: NameProps) {
  const name = nameOfRow(row);
  const isPath = row.kind === 'signal' && row.label === undefined && row.parts.length === 1;
  const path = name.split('.');
  // Where two recorders hold a signal of one name, each is told by its recorder.
  const recorder = isPath && name.includes(': ') ? `${name.slice(0, name.indexOf(': '))} ` : '';
  const way = isPath ? recorder + path.slice(1, -1).join('.') : '';
  return (
    <button
      type="button"
      aria-pressed={chosen}
      className={clsx(
        'min-w-0 truncate text-left text-sm',
        row.kind === 'group' && 'font-bold',
        isComputed && 'italic',
      )}
      title={title}
    >
      {isPath ? path.at(-1) : name}
      {way !== '' && <span className="ml-1.5 text-quiet text-xs">{way}</span>}
    </button>
  );
}

interface LineProps {
  readonly id: string;
  readonly height: number;
  readonly chosen: boolean;
  readonly indent: boolean;
  readonly onClick: (event: MouseEvent) => void;
  readonly children: ReactNode;
}

function Line({ id, height, chosen, indent, onClick, children }: LineProps) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: its name is the button that the keyboard reaches; a click counts anywhere
    <li
      ref={setNodeRef}
      style={{ height, transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      className={clsx(
        'group/row flex items-center border-line border-b pr-1',
        indent ? 'pl-3' : 'pl-0.5',
        chosen && 'bg-well',
        isDragging && 'relative z-10 bg-raised shadow',
      )}
      onClick={onClick}
      aria-current={chosen || undefined}
    >
      <IconButton className="cursor-grab text-line hover:text-quiet" {...attributes} {...listeners} label="Move row">
        <GripVertical aria-hidden className="size-3.5" />
      </IconButton>
      {children}
    </li>
  );
}

const ITEM =
  'flex cursor-default items-center justify-between gap-6 px-3 py-1 text-sm outline-none ' +
  'data-[disabled]:text-line data-[highlighted]:bg-well';
const MENU = 'z-30 max-h-[28rem] min-w-44 overflow-auto border border-line bg-raised py-1 shadow-md';

interface MenuProps {
  readonly row: Row;
  readonly rows: readonly Row[];
  readonly signals: readonly OpenSignal[];
  readonly chosen: ReadonlySet<string>;
  readonly drawn: DrawnRow;
  readonly onRows: (rows: Row[]) => void;
  readonly onRename: () => void;
}

function RowMenu({ row, rows, signals, chosen, drawn, onRows, onRename }: MenuProps) {
  const several = chosen.has(row.id) && chosen.size > 1 ? chosen : new Set([row.id]);
  const width = widthOf(row);
  const named =
    row.kind === 'signal' &&
    row.parts.length === 1 &&
    signals.find(({ name }) => name === row.parts[0]?.signal)?.names !== undefined;
  const isReal = signalOf(row, signals)?.real === true;
  const radix = drawn.kind === 'signal' ? drawn.radix : null;
  const setRadix = (next: Radix) => onRows(changedRow(rows, row.id, { radix: next }));
  const kinds = (['binary', 'hex', 'unsigned', 'signed', 'ascii', ...(named ? (['names'] as const) : [])] as const).map(
    (kind) => ({ kind, name: RADIX_NAMES[kind] }),
  );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`Menu of ${nameOfRow(row)}`}
        className="ml-0.5 text-transparent hover:text-ink focus-visible:text-ink group-hover/row:text-quiet"
        onClick={(event) => event.stopPropagation()}
      >
        <MoreHorizontal aria-hidden className="size-4" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={MENU} align="start" onClick={(event) => event.stopPropagation()}>
          <DropdownMenu.Item className={ITEM} onSelect={() => setTimeout(onRename)}>
            Rename
          </DropdownMenu.Item>
          {row.kind === 'signal' && isReal && (
            <DropdownMenu.Item
              className={ITEM}
              onSelect={() =>
                onRows(changedRow(rows, row.id, { style: row.style === 'analog' ? 'digital' : 'analog' }))
              }
            >
              {row.style === 'analog' ? 'Draw as numbers' : 'Draw as a curve'}
            </DropdownMenu.Item>
          )}
          {row.kind === 'signal' && !isReal && width > 1 && (
            <SignalItems
              kinds={kinds}
              radix={radix}
              setRadix={setRadix}
              width={width}
              onRows={onRows}
              rows={rows}
              row={row}
            />
          )}
          <DropdownMenu.Separator className="my-1 border-line border-t" />
          <DropdownMenu.Item
            className={ITEM}
            disabled={several.size < 2}
            onSelect={() => onRows(joined(rows, several))}
          >
            Join chosen rows
          </DropdownMenu.Item>
          {row.kind === 'group' ? (
            <DropdownMenu.Item className={ITEM} onSelect={() => onRows(ungrouped(rows, row.id))}>
              Dissolve group
            </DropdownMenu.Item>
          ) : (
            <DropdownMenu.Item className={ITEM} onSelect={() => onRows(grouped(rows, several))}>
              Group {several.size > 1 ? 'chosen rows' : 'this row'}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={ITEM} onSelect={() => onRows(withoutRows(rows, several))}>
            Take {several.size > 1 ? 'chosen rows' : 'row'} away
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface SignalItemsProps {
  readonly kinds: { kind: 'hex' | 'binary' | 'signed' | 'unsigned' | 'names' | 'ascii'; name: string }[];
  readonly radix: Radix | null;
  readonly setRadix: (next: Radix) => void;
  readonly width: number;
  readonly onRows: (rows: Row[]) => void;
  readonly rows: readonly Row[];
  readonly row: SignalRow;
}

function SignalItems({ kinds, radix, setRadix, width, onRows, rows, row }: SignalItemsProps) {
  return (
    <>
      <DropdownMenu.Separator className="my-1 border-line border-t" />
      {kinds.map(({ kind, name }) => (
        <DropdownMenu.CheckboxItem
          key={kind}
          className={ITEM}
          checked={radix?.kind === kind}
          onSelect={() => setRadix({ kind })}
        >
          {name} {radix?.kind === kind && <span className="text-quiet">now</span>}
        </DropdownMenu.CheckboxItem>
      ))}
      <DropdownMenu.Sub>
        <DropdownMenu.SubTrigger className={ITEM}>
          fixed point {radix?.kind === 'fixed' && <span className="text-quiet">{radix.point} places</span>}
        </DropdownMenu.SubTrigger>
        <DropdownMenu.Portal>
          <DropdownMenu.SubContent className={MENU}>
            {Array.from({ length: Math.min(32, width) }, (_, i) => i + 1).map((point) => (
              <DropdownMenu.Item key={point} className={ITEM} onSelect={() => setRadix({ kind: 'fixed', point })}>
                {point} binary {point === 1 ? 'place' : 'places'}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.SubContent>
        </DropdownMenu.Portal>
      </DropdownMenu.Sub>
      <DropdownMenu.Separator className="my-1 border-line border-t" />
      <DropdownMenu.Item
        className={ITEM}
        onSelect={() => onRows(changedRow(rows, row.id, { style: row.style === 'analog' ? 'digital' : 'analog' }))}
      >
        {row.style === 'analog' ? 'Draw as words' : 'Draw as a curve'}
      </DropdownMenu.Item>
      <DropdownMenu.Item className={ITEM} onSelect={() => onRows(split(rows, row.id))}>
        {row.parts.length > 1 ? 'Split into its parts' : 'Split into bits'}
      </DropdownMenu.Item>
    </>
  );
}

/** Signals of the record that no row shows. */
function AddRow({
  rows,
  signals,
  onRows,
}: {
  readonly rows: readonly Row[];
  readonly signals: readonly OpenSignal[];
  readonly onRows: (rows: Row[]) => void;
}) {
  const shown = new Set(
    leavesOf(rows).flatMap((row) => (row.kind === 'signal' ? row.parts.map(({ signal }) => signal) : [])),
  );
  const hidden = signals.filter(({ name }) => !shown.has(name));
  if (hidden.length === 0) return null;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="px-2 py-1 text-quiet text-sm hover:text-ink hover:underline">
        Add a row ({hidden.length})
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={MENU} align="start">
          {hidden.map((signal) => (
            <DropdownMenu.Item
              key={signal.name}
              className={clsx(ITEM, 'code text-xs')}
              onSelect={() => onRows([...rows, wholeRow(signal, freshId(rows, signal.name))])}
            >
              {signal.name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
