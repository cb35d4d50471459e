'use client';
import { type Dispatch, type SetStateAction, useState } from 'react';
import type { Problem } from '../../../core/result.ts';
import {
  type Alignment,
  type Axis,
  type Comparison,
  type Difference,
  secondsText,
  ticksBetween,
} from '../../../core/wave/index.ts';
import { Button, DataTable, ProblemNote, answerOf, api, Select } from '../../shared/index.ts';
import type { WaveDesk } from '../desk.ts';
import { timeText } from '../draw.ts';

export interface OtherCapture {
  readonly id: number;
  readonly title: string;
  readonly isReference: boolean;
}

interface Props {
  readonly desk: WaveDesk;
  readonly axis: Axis;
  readonly others: readonly OtherCapture[];
  readonly tick: number;
  readonly comparison: { readonly with: number; readonly result: Comparison } | null;
  readonly onComparison: (comparison: { readonly with: number; readonly result: Comparison } | null) => void;
  readonly onGo: (tick: number) => void;
}

/** Lays another capture over this one; what differs is marked in the rows and listed. */
export function ComparePanel({ desk, axis, others, tick, comparison, onComparison, onGo }: Props) {
  const [other, setOther] = useState<number | null>(null);
  const [by, setBy] = useState<'trigger' | 'best' | 'cursor'>(axis.triggers.length > 0 ? 'trigger' : 'best');
  const [problem, setProblem] = useState<Problem | null>(null);
  const chosen = other ?? others.find(({ isReference }) => isReference)?.id ?? others[0]?.id ?? null;
  const compare = async () => {
    if (chosen === null) return;
    const fetched = await answerOf(api.capture.read.query({ id: chosen }));
    if (!fetched.ok) return setProblem(fetched.problem);
    // By cursor: the trigger of the other one is laid where the cursor stands.
    const alignment: Alignment = by === 'cursor' ? { onTick: tick } : by;
    const answer = await desk.ask('compare', { capture: fetched.value, alignment });
    setProblem(answer.ok ? null : answer.error);
    onComparison(answer.ok ? { with: chosen, result: answer.value } : null);
  };
  if (others.length === 0)
    return (
      <p className="border border-line border-dashed px-4 py-6 text-center text-quiet text-sm">
        There is no {axis.sampled ? 'other ' : ''}capture to compare with yet. Arm{' '}
        {axis.sampled ? 'again, or keep this one as reference for the next' : 'a recorder first'}.
      </p>
    );
  const result = comparison?.result;
  const unit = axis.sampled ? 'samples' : 'ticks';
  return (
    <div className="flex flex-col gap-2">
      <CompareTools
        chosen={chosen}
        setOther={setOther}
        others={others}
        by={by}
        setBy={setBy}
        axis={axis}
        compare={compare}
        comparison={comparison}
        onComparison={onComparison}
        result={result}
        unit={unit}
      />
      {problem && <ProblemNote problem={problem} />}
      {result && result.differences.length > 0 && (
        <DifferenceTable result={result} onGo={onGo} tick={tick} axis={axis} unit={unit} />
      )}
    </div>
  );
}

interface DifferenceTableProps {
  readonly result: Comparison;
  readonly onGo: (tick: number) => void;
  readonly tick: number;
  readonly axis: Axis;
  readonly unit: 'ticks' | 'samples';
}

function DifferenceTable({ result, onGo, tick, axis, unit }: DifferenceTableProps) {
  return (
    <DataTable
      name="differences"
      className="max-h-56"
      rows={result.differences}
      empty=""
      onRow={({ from }) => onGo(from)}
      chosen={({ from, to }) => tick >= from && tick < to}
      columns={[
        {
          id: 'time',
          header: 'Time',
          accessorFn: ({ from }: Difference) => timeText(axis, from),
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
        {
          id: 'name',
          header: 'Signal',
          accessorFn: ({ name }: Difference) => name,
          cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
        },
        {
          id: 'long',
          header: 'For',
          accessorFn: ({ from, to }: Difference) => {
            const ticks = ticksBetween(axis, from, to);
            return ticks === null
              ? ''
              : `${Math.round(ticks).toLocaleString('en')} ${unit}, ${secondsText(ticks * axis.tickSeconds)}`;
          },
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
      ]}
    />
  );
}

interface CompareToolsProps {
  readonly chosen: number | null;
  readonly setOther: Dispatch<SetStateAction<number | null>>;
  readonly others: readonly OtherCapture[];
  readonly by: 'trigger' | 'best' | 'cursor';
  readonly setBy: Dispatch<SetStateAction<'trigger' | 'best' | 'cursor'>>;
  readonly axis: Axis;
  readonly compare: () => Promise<void>;
  readonly comparison: { readonly with: number; readonly result: Comparison } | null;
  readonly onComparison: (comparison: { readonly with: number; readonly result: Comparison } | null) => void;
  readonly result: Comparison | undefined;
  readonly unit: 'ticks' | 'samples';
}

function CompareTools({
  chosen,
  setOther,
  others,
  by,
  setBy,
  axis,
  compare,
  comparison,
  onComparison,
  result,
  unit,
}: CompareToolsProps) {
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="text-quiet">With</span>
      <Select
        size="normal"
        className="tabular max-w-72"
        aria-label="Other capture"
        value={chosen ?? ''}
        onChange={(event) => setOther(Number(event.target.value))}
      >
        {others.map(({ id, title, isReference }) => (
          <option key={id} value={id}>
            {isReference ? 'reference: ' : ''}
            {title}
          </option>
        ))}
      </Select>
      <span className="text-quiet">laid</span>
      <Select size="normal" aria-label="Alignment" value={by} onPick={setBy}>
        <option value="trigger">
          {axis.triggers.length > 0 ? 'trigger on trigger' : 'its trigger on the beginning'}
        </option>
        <option value="cursor">its trigger on the cursor</option>
        <option value="best">where it fits best</option>
      </Select>
      <Button onClick={() => void compare()}>Compare</Button>
      {comparison && (
        <Button look="quiet" onClick={() => onComparison(null)}>
          Take the marks away
        </Button>
      )}
      {result && (
        <span className="tabular" data-testid="compared">
          {result.differences.length === 0 ? (
            <span className="text-good">
              no difference in {Math.round(result.shared).toLocaleString('en')} {unit}
            </span>
          ) : (
            <span className="text-bad">
              {result.cut ? 'more than ' : ''}
              {result.differences.length.toLocaleString('en')}{' '}
              {result.differences.length === 1 ? 'difference' : 'differences'}
            </span>
          )}
          {by === 'best' &&
            ', moved by ' +
              `${axis.sampled ? `${Math.round(result.offset).toLocaleString('en')} samples` : secondsText(result.offset * axis.tickSeconds)}`}
          {result.apart.length > 0 && `, only in one: ${result.apart.join(', ')}`}
        </span>
      )}
    </div>
  );
}
