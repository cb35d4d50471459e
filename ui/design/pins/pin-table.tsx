'use client';
import { Select, TextInput } from '../../shared/index.ts';
import { useDraggable } from '@dnd-kit/core';
import { clsx } from 'clsx';
import { GripVertical, OctagonAlert } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { PinEntry, PinIssue, PortNeed } from '../../../core/constraints/index.ts';
import { type IoStandard, type PackageDrawing, PULLS, SLEWS } from '../../../core/families/index.ts';

interface Props {
  readonly rows: readonly PinEntry[];
  readonly ports: readonly PortNeed[];
  readonly drawing: PackageDrawing;
  readonly standards: readonly IoStandard[];
  readonly issues: readonly PinIssue[];
  /** Rows as the issues count them. */
  readonly inTable: readonly PinEntry[];
  readonly chosen: string | null;
  readonly onChoose: (name: string) => void;
  readonly onChange: (name: string, edit: Partial<PinEntry>) => void;
}

const HEADS = ['Port', '', 'Pin', 'Standard', 'Drive', 'Pull', 'Slew'];

/** One line for each bit of each port. What is wrong is marked in its cell, and said below the row. */
export function PinTable({ rows, ports, drawing, standards, issues, inTable, chosen, onChoose, onChange }: Props) {
  return (
    <div className="min-h-0 flex-1 overflow-auto border border-line bg-raised">
      <datalist id="package-pins">
        {drawing.pins
          .filter((pin) => pin.kind === 'io')
          .map((pin) => (
            <option key={pin.name} value={pin.name} />
          ))}
      </datalist>
      <table className="w-full border-collapse text-sm" aria-label="Ports">
        <thead className="sticky top-0 z-10 bg-well text-left">
          <tr>
            {HEADS.map((head, i) => (
              <th key={head || i} className="px-1 py-1 font-bold">
                {head === '' ? <span className="sr-only">What can be done</span> : head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <PinRow
              key={row.name}
              row={row}
              standards={standards}
              isKnown={ports.length > 0}
              port={ports.find((p) => row.name === p.name || row.name.startsWith(`${p.name}[`))}
              issues={issues.filter((issue) => (issue.entry >= 0 ? inTable[issue.entry]?.name === row.name : false))}
              chosen={row.name === chosen}
              onChoose={onChoose}
              onChange={onChange}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface RowProps {
  readonly row: PinEntry;
  readonly standards: readonly IoStandard[];
  readonly port: PortNeed | undefined;
  /** The ports of the design are known. */
  readonly isKnown: boolean;
  readonly issues: readonly PinIssue[];
  readonly chosen: boolean;
  readonly onChoose: (name: string) => void;
  readonly onChange: (name: string, edit: Partial<PinEntry>) => void;
}

function PinRow({ row, standards, port, isKnown, issues, chosen, onChoose, onChange }: RowProps) {
  const { setNodeRef, listeners, attributes, isDragging } = useDraggable({ id: row.name });
  const line = useRef<HTMLTableRowElement>(null);
  useEffect(() => {
    if (chosen) line.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  const bad = (column: PinIssue['column']) => issues.find((issue) => issue.column === column);
  const edit = (change: Partial<PinEntry>) => onChange(row.name, change);
  return (
    <>
      <tr
        ref={line}
        className={clsx('border-line border-t', chosen && 'bg-well')}
        onFocus={() => onChoose(row.name)}
        onClick={() => onChoose(row.name)}
      >
        <td className={clsx('whitespace-nowrap px-1.5', bad('name') && 'bg-bad/10')}>
          <span
            ref={setNodeRef}
            {...listeners}
            {...attributes}
            title={`Drag ${row.name} to a pin`}
            data-drag={row.name}
            className={clsx('code inline-flex cursor-grab items-center gap-1 text-xs', isDragging && 'opacity-40')}
          >
            <GripVertical aria-hidden className="size-3 text-quiet" />
            {row.name}
          </span>
        </td>
        <td className="px-1 text-quiet text-xs">
          {port
            ? port.clock
              ? 'clock'
              : { input: 'in', output: 'out', inout: 'in/out' }[port.direction]
            : isKnown
              ? 'gone'
              : ''}
        </td>
        <td className={clsx('px-0.5', bad('pin') && 'bg-bad/10')}>
          <PinCell value={row.pin} label={`Pin of ${row.name}`} onChange={(pin) => edit({ pin })} />
        </td>
        <Choice
          label={`Standard of ${row.name}`}
          value={row.standard}
          options={standards.map((s) => s.name)}
          wrong={bad('standard') !== undefined}
          onChange={(standard) => edit({ standard })}
        />
        <Choice
          label={`Drive of ${row.name}`}
          value={row.drive}
          unit=" mA"
          options={(standards.find((s) => s.name === row.standard)?.drives ?? [8]).map(String)}
          wrong={bad('drive') !== undefined}
          onChange={(drive) => edit({ drive })}
        />
        <Choice
          label={`Pull of ${row.name}`}
          value={row.pull}
          options={PULLS}
          wrong={bad('pull') !== undefined}
          onChange={(pull) => edit({ pull })}
        />
        <Choice
          label={`Slew of ${row.name}`}
          value={row.slew}
          options={SLEWS}
          wrong={bad('slew') !== undefined}
          onChange={(slew) => edit({ slew })}
        />
      </tr>
      {issues.map((issue) => (
        <tr key={issue.code}>
          <td
            colSpan={HEADS.length}
            className={clsx('px-2 pb-1 text-xs', issue.severity === 'warning' ? 'text-doubt' : 'text-bad')}
          >
            <OctagonAlert aria-hidden className="mr-1 inline size-3" />
            {issue.message}
          </td>
        </tr>
      ))}
    </>
  );
}

/** Takes what is typed when the field is left or Enter is pressed. */
function PinCell({
  value,
  label,
  onChange,
}: {
  readonly value: string;
  readonly label: string;
  readonly onChange: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const take = () => text.trim().toUpperCase() !== value && onChange(text.trim().toUpperCase());
  return (
    <TextInput
      size="tiny"
      isCode
      className="my-px h-5.5! w-14 bg-paper!"
      value={text}
      list="package-pins"
      aria-label={label}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => event.key === 'Enter' && take()}
    />
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly string[];
  readonly wrong: boolean;
  readonly unit?: string;
  readonly onChange: (value: string) => void;
}

function Choice({ label, value, options, wrong, unit = '', onChange }: ChoiceProps) {
  return (
    <td className={clsx('px-0.5', wrong && 'bg-bad/10')}>
      <Select
        size="tiny"
        aria-label={label}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="border-0! bg-transparent! px-0! text-xs! hover:bg-well!"
      >
        {!options.includes(value) && <option value={value}>{value}</option>}
        {options.map((option) => (
          <option key={option} value={option}>
            {option}
            {unit}
          </option>
        ))}
      </Select>
    </td>
  );
}
