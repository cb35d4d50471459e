'use client';
import { OctagonAlert, Trash2 } from 'lucide-react';
import { Fragment, type KeyboardEvent, useState } from 'react';
import { KINDS, type PartRow, wiresOf } from '../../../core/parts/index.ts';
import { IconButton, Select, TextInput, usePortsOnPins } from '../../shared/index.ts';
import type { EditedBench } from './use-bench.ts';

const HEADS = ['Kind', 'Name', 'Label', 'Pins', 'On at', ''];

const kindOf = (kind: PartRow['kind']) => KINDS.find(({ id }) => id === kind) ?? KINDS[0];

/** One line for each part. What is wrong is marked at its wire, and said below the line. */
export function PartTable({ rows, issues, drawing, change }: EditedBench) {
  const set = (at: number, part: Partial<PartRow>) =>
    void change(rows.map((row, i) => (i === at ? { ...row, ...part } : row)));
  return (
    <div className="min-h-40 flex-1 overflow-auto border border-line bg-raised">
      <datalist id="board-pins">
        {drawing.pins
          .filter((pin) => pin.kind === 'io')
          .map((pin) => (
            <option key={pin.name} value={pin.name} />
          ))}
      </datalist>
      <table className="w-full border-collapse text-sm" aria-label="Parts">
        <thead className="sticky top-0 z-10 bg-well text-left">
          <tr>
            {HEADS.map((head) => (
              <th key={head} className="px-2 py-1 font-bold">
                {head === '' ? <span className="sr-only">What can be done</span> : head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <PartLine
              // biome-ignore lint/suspicious/noArrayIndexKey: two may have one name, which is said and mended here
              key={at}
              row={row}
              issues={issues.filter((issue) => issue.row === at)}
              onChange={(part) => set(at, part)}
              onRemove={() => void change(rows.filter((_, i) => i !== at))}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface LineProps {
  readonly row: PartRow;
  readonly issues: EditedBench['issues'];
  readonly onChange: (part: Partial<PartRow>) => void;
  readonly onRemove: () => void;
}

function PartLine({ row, issues, onChange, onRemove }: LineProps) {
  const ports = usePortsOnPins();
  const kind = kindOf(row.kind);
  const messages = [...new Set(issues.map(({ message }) => message))];
  const shown = wiresOf(row.kind).filter(({ id, optional }, i, all) => {
    // Of wires it can do without, those that have a pin and the next one.
    const before = all[i - 1];
    return !optional || row.pins[id] || (before && (!before.optional || row.pins[before.id]));
  });
  return (
    <>
      <tr className="border-line border-t align-top">
        <td className="whitespace-nowrap px-2 py-1.5">{kind.name}</td>
        <td className="px-2 py-1">
          <Committed
            className="w-20"
            label={`Name of ${row.name}`}
            value={row.name}
            isCode
            onCommit={(name) => onChange({ name })}
          />
        </td>
        <td className="px-2 py-1">
          {kind.hasLabel && (
            <Committed
              className="w-28"
              label={`Label of ${row.name}`}
              value={row.label}
              onCommit={(label) => onChange({ label })}
            />
          )}
        </td>
        <td className="px-2 py-1">
          <span className="flex flex-wrap gap-x-3 gap-y-1">
            {shown.map(({ id, name }) => {
              const pin = row.pins[id] ?? '';
              return (
                <span key={id} className="flex items-center gap-1">
                  {shown.length > 1 && <span className="whitespace-nowrap text-quiet text-xs">{name}</span>}
                  <Committed
                    className="w-14"
                    label={`${name} of ${row.name}`}
                    value={pin}
                    isCode
                    list="board-pins"
                    isWrong={issues.some(({ wire }) => wire === id)}
                    onCommit={(next) => onChange({ pins: { ...row.pins, [id]: next.trim().toUpperCase() } })}
                  />
                  {ports.has(pin) && (
                    <span className="code text-quiet text-xs" title="Port of the open design on this pin">
                      {ports.get(pin)}
                    </span>
                  )}
                </span>
              );
            })}
            {row.kind === 'oscillator' && (
              <span className="flex items-center gap-1">
                <Committed
                  className="w-24 text-right"
                  label={`Frequency of ${row.name}`}
                  value={String(row.hertz)}
                  isCode
                  onCommit={(text) => {
                    const hertz = Number(text.replaceAll(/[ _]/g, ''));
                    if (hertz > 0) onChange({ hertz });
                  }}
                />
                <span className="text-quiet">Hz</span>
              </span>
            )}
          </span>
        </td>
        <td className="px-2 py-1">
          {kind.hasActive && (
            <Select
              aria-label={`Level at which ${row.name} is on`}
              value={row.active ? 'high' : 'low'}
              onPick={(level) => onChange({ active: level === 'high' })}
            >
              <option>high</option>
              <option>low</option>
            </Select>
          )}
        </td>
        <td className="px-1 py-1 text-right">
          <IconButton label={`Remove ${row.name}`} isRemoval onClick={onRemove}>
            <Trash2 className="size-4" />
          </IconButton>
        </td>
      </tr>
      {issues.length > 0 && (
        <tr>
          <td colSpan={HEADS.length} className="px-2 pb-1.5 text-bad text-xs">
            {messages.map((message) => (
              <Fragment key={message}>
                <OctagonAlert aria-hidden className="mr-1 inline size-3.5" />
                {message}{' '}
              </Fragment>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}

interface CommittedProps {
  readonly label: string;
  readonly value: string;
  readonly className: string;
  readonly isCode?: boolean;
  readonly isWrong?: boolean;
  readonly list?: string;
  readonly onCommit: (text: string) => void;
}

/** A field whose text counts with Enter or when it is left; Escape gives back what was there. */
function Committed({ label, value, className, isCode = false, isWrong = false, list, onCommit }: CommittedProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const commit = () => {
    if (typed !== null && typed !== value) onCommit(typed);
    setTyped(null);
  };
  return (
    <TextInput
      aria-label={label}
      className={className}
      isCode={isCode}
      aria-invalid={isWrong}
      {...(list !== undefined && { list })}
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={commit}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') setTyped(null);
      }}
    />
  );
}
