'use client';
import {
  type CollisionDetection,
  DndContext,
  type DragEndEvent,
  DragOverlay,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  rectIntersection,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { Cpu, Download, Upload } from 'lucide-react';
import { type Dispatch, type SetStateAction, useCallback, useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import {
  checkPins,
  offerPins,
  parsePinTable,
  type PinEntry,
  type PinOffer,
  type PortNeed,
  readBoard,
  writePinTable,
} from '../../../core/constraints/index.ts';
import { type Part, partNamed } from '../../../core/families/index.ts';
import { counted } from '../../../core/words.ts';
import { Button, Empty, useFiles, useSaveFile, FileButton, useProject } from '../../shared/index.ts';
import { useBuilds, useSourcePorts } from '../queries.ts';
import { Offers } from './offers.tsx';
import { PackagePicture } from './package-picture.tsx';
import { PinTable } from './pin-table.tsx';
import { merged, placed, rowsFor } from './rows.ts';

/** The pin under the pointer; without a pointer, as with the keyboard, the one that is covered most. */
const underPointer: CollisionDetection = (args) =>
  args.pointerCoordinates ? pointerWithin(args) : rectIntersection(args);

/**
 * The package that pins are drawn and checked for: where the project names one the part does not come in, its usual
 * one.
 */
const packageIn = ({ packages }: Part, wanted: string | undefined): string | null =>
  packages.find((name) => name === wanted) ?? packages[0] ?? null;

const NO_PORTS: readonly PortNeed[] = [];

/** Hears of cells that are pasted wherever the focus is: with nothing chosen, and in a field, which takes one word. */
function usePasted(paste: (text: string) => void): void {
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const text = event.clipboardData?.getData('text/plain') ?? '';
      const isField = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
      if (text.trim() === '' || (isField && !/[\t;,\n]/.test(text.trim()))) return;
      event.preventDefault();
      paste(text);
    };
    document.addEventListener('paste', onPaste);
    return () => document.removeEventListener('paste', onPaste);
  }, [paste]);
}

/** Ports, the pins they are on in the project's table, and what the part and the board say of these. */
function usePins() {
  const project = useProject().data;
  const files = useFiles().data;
  const read = useSourcePorts();
  const built = useBuilds().data?.latest?.details.ports ?? NO_PORTS;
  const ports = read?.ports ?? built;
  const table = files?.find((file) => file.name === project?.file.pins);
  const part = project ? partNamed(project.file.part) : undefined;
  const packageName = part ? packageIn(part, project?.file.package) : null;
  const board = useMemo(() => (project?.board ? readBoard(project.file.board ?? '', project.board) : null), [project]);
  const rows = useMemo(() => rowsFor(table ? parsePinTable(table.text) : [], ports), [table, ports]);
  const supplies = board?.ok ? board.value.banks : {};
  const inTable = placed(rows);
  const checked = useMemo(
    () => (part && packageName ? checkPins(inTable, ports, { part, packageName }, supplies) : null),
    [inTable, ports, part, packageName, supplies],
  );
  // What nobody knows yet is not gone.
  const issues =
    ports.length > 0 ? (checked?.issues ?? []) : (checked?.issues ?? []).filter(({ code }) => code !== 'pin-port');
  return { project, files, read, built, ports, part, packageName, board, rows, supplies, inTable, checked, issues };
}

/**
 * Ports on pins: the table, the package to scale, and pins the board would offer. Rules are checked at every change.
 */
export function PinsView() {
  const { project, files, read, built, ports, part, packageName, board, rows, supplies, inTable, checked, issues } =
    usePins();
  const saving = useSaveFile();
  const [chosen, setChosen] = useState<string | null>(null);
  const [dragged, setDragged] = useState<string | null>(null);
  const [pasted, setPasted] = useState<readonly PinEntry[] | null>(null);
  const [offers, setOffers] = useState<readonly PinOffer[] | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor),
  );
  const paste = useCallback((text: string) => {
    const entries = parsePinTable(text);
    if (entries.length === 0 || entries.every((entry) => entry.pin === ''))
      toast.error('There are no port and pin columns in what was pasted.');
    else setPasted(entries);
  }, []);
  usePasted(paste);
  if (!project || !files || !part || packageName === null || !checked)
    return (
      <Empty>
        {project && !part
          ? project.file.foreign
            ? `A ${project.file.part} is built for by its own tools: give them the pins. Those of the board are under Bench, Pins.`
            : `There is no part "${project.file.part}". Choose one under Project.`
          : 'Reading the project.'}
      </Empty>
    );
  const drawing = part.family.drawing(packageName);
  const save = async (next: readonly PinEntry[]) => {
    saving.keep(project.file.pins, writePinTable(placed(next)));
    await saving.save(project.file.pins);
  };
  const change = (name: string, edit: Partial<PinEntry>) =>
    save(rows.map((row) => (row.name === name ? { ...row, ...edit } : row)));
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    setDragged(null);
    if (!over) return;
    setChosen(String(active.id));
    void change(String(active.id), { pin: String(over.id) });
  };
  const offer = () => {
    if (!board) toast.error('The project names no board.', { description: 'Choose its description under Project.' });
    else if (!board.ok) toast.error(board.error.message);
    else
      setOffers(
        offerPins(
          ports,
          new Set(inTable.map((row) => (row.name.endsWith(']') ? row.name : `${row.name}[0]`))),
          board.value,
          new Set(inTable.map((row) => row.pin)),
        ),
      );
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={underPointer}
      autoScroll={false}
      onDragStart={({ active }) => setDragged(String(active.id))}
      onDragCancel={() => setDragged(null)}
      onDragEnd={onDragEnd}
    >
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_22.5rem] gap-4">
        <div className="flex min-h-0 flex-col">
          <TableTools offer={offer} inTable={inTable} paste={paste} />
          {read && read.ports === null && (
            <p className="mb-1 border-doubt border-l-4 bg-raised px-3 py-1 text-sm" data-testid="ports-note">
              The sources make no design as they stand
              {read.trouble ? `: ${read.trouble.file}, line ${read.trouble.line}: ${read.trouble.message}` : '.'}{' '}
              {built.length > 0 ? 'These are the ports of the last build.' : 'The ports are read when they do.'}
            </p>
          )}
          {pasted && <Pasted pasted={pasted} rows={rows} save={save} setPasted={setPasted} />}
          {offers && (
            <Offers
              offers={offers}
              onTake={(list) => {
                void save(rows.map((row) => ({ ...row, pin: list.find((o) => o.name === row.name)?.pin ?? row.pin })));
                setOffers(null);
              }}
              onClose={() => setOffers(null)}
            />
          )}
          {rows.length === 0 ? (
            (read === null || read.ports !== null) && (
              <Empty>{read === null ? 'The ports are being read from the sources.' : 'The design has no ports.'}</Empty>
            )
          ) : (
            <PinTable
              rows={rows}
              ports={ports}
              drawing={drawing}
              standards={part.family.standards}
              issues={issues}
              inTable={inTable}
              chosen={chosen}
              onChoose={setChosen}
              onChange={change}
            />
          )}
        </div>
        <PackagePicture
          drawing={drawing}
          rows={inTable}
          ports={ports}
          issues={issues}
          supplies={supplies}
          chosen={chosen}
          onChoose={setChosen}
          onPlace={(name, pin) => change(name, { pin })}
        />
      </div>
      <DragOverlay dropAnimation={null}>
        {dragged !== null && (
          <span className="code inline-block border border-signal bg-raised px-1 text-xs">{dragged}</span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

interface PastedProps {
  readonly pasted: readonly PinEntry[];
  readonly rows: PinEntry[];
  readonly save: (next: readonly PinEntry[]) => Promise<void>;
  readonly setPasted: Dispatch<SetStateAction<readonly PinEntry[] | null>>;
}

/** What was pasted is looked at before it is taken. */
function Pasted({ pasted, rows, save, setPasted }: PastedProps) {
  return (
    <div className="mb-1 flex items-center gap-3 border-doubt border-l-4 bg-raised px-3 py-1 text-sm">
      <span>
        {counted(pasted.length, 'line')} read,{' '}
        {
          pasted.filter((entry) =>
            rows.some((row) => row.name === entry.name && row.pin !== '' && row.pin !== entry.pin),
          ).length
        }{' '}
        of them move a port that has a pin.
      </span>
      <Button
        onClick={() => {
          void save(merged(rows, pasted));
          setPasted(null);
        }}
      >
        Take them
      </Button>
      <Button look="quiet" onClick={() => setPasted(null)}>
        Leave them
      </Button>
    </div>
  );
}

interface TableToolsProps {
  readonly offer: () => void;
  readonly inTable: PinEntry[];
  readonly paste: (text: string) => void;
}

function TableTools({ offer, inTable, paste }: TableToolsProps) {
  return (
    <div className="mb-1 flex flex-wrap items-center gap-2 text-sm">
      <Button onClick={offer}>
        <Cpu aria-hidden className="size-4" /> Pins from the board
      </Button>
      <FileButton
        label="Pin table"
        accept=".csv,.tsv,.txt"
        look="plain"
        testId="pins-picker"
        onFile={(file) => void file.text().then(paste)}
      >
        <Upload aria-hidden className="size-4" /> Read .csv
      </FileButton>
      <a
        className="inline-flex items-center gap-1 text-quiet hover:text-ink hover:underline"
        download="pins.csv"
        href={`data:text/csv;charset=utf-8,${encodeURIComponent(writePinTable(inTable))}`}
      >
        <Download aria-hidden className="size-4" /> pins.csv
      </a>
      <span className="ml-auto text-quiet text-xs">Or paste from a spreadsheet.</span>
    </div>
  );
}
