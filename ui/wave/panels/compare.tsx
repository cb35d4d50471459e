'use client';
import { type Dispatch, type SetStateAction, useState } from 'react';
import type { Problem } from '../../../core/result.ts';
import {
  type Alignment,
  type Axis,
  type Comparison,
  type Difference,
  type Measure,
  secondsText,
  ticksBetween,
} from '../../../core/wave/index.ts';
import { Button, DataTable, ProblemNote, answerOf, api, fetchFile, Select } from '../../shared/index.ts';
import type { WaveDesk } from '../desk.ts';
import type { ReceivedCapture } from '../messages.ts';
import { timeText } from '../draw.ts';

/** A record that another one can be laid over: a capture, or the waves of a simulation. */
export interface OtherRecord {
  readonly kind: 'capture' | 'simulation';
  readonly id: number;
  readonly title: string;
  readonly isReference: boolean;
}

export interface Compared {
  readonly with: OtherRecord;
  readonly result: Comparison;
}

interface Props {
  readonly desk: WaveDesk;
  readonly axis: Axis;
  readonly others: readonly OtherRecord[];
  readonly tick: number;
  readonly comparison: Compared | null;
  readonly onComparison: (comparison: Compared | null) => void;
  readonly onGo: (tick: number) => void;
}

const keyOf = ({ kind, id }: OtherRecord): string => `${kind} ${id}`;

const fetched = ({ kind, id }: OtherRecord) =>
  answerOf<ReceivedCapture | File>(
    kind === 'capture' ? api.capture.read.query({ id }) : fetchFile(`/api/simulations/${id}`),
  );

/** Lays another record over this one; what differs is marked in the rows and listed. */
export function ComparePanel({ desk, axis, others, tick, comparison, onComparison, onGo }: Props) {
  const [other, setOther] = useState<string | null>(null);
  const [measure, setMeasure] = useState<Measure>('clock');
  const [by, setBy] = useState<'trigger' | 'best' | 'cursor'>(axis.triggers.length > 0 ? 'trigger' : 'best');
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const chosen =
    others.find((one) => keyOf(one) === other) ?? others.find(({ isReference }) => isReference) ?? others[0] ?? null;
  const compare = async () => {
    if (chosen === null) return;
    setBusy(true);
    await ask(chosen);
    setBusy(false);
  };
  const ask = async (chosen: OtherRecord) => {
    const second = await fetched(chosen);
    if (!second.ok) return setProblem(second.problem);
    // By cursor: the trigger of the other one is laid where the cursor stands.
    const alignment: Alignment = by === 'cursor' ? { onTick: tick } : by;
    const answer = await desk.ask('compare', { other: second.value, alignment, by: measure });
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
  const unit = result?.by === 'clock' ? 'cycles' : axis.sampled ? 'samples' : 'ticks';
  return (
    <div className="flex flex-col gap-2">
      <CompareTools
        chosen={chosen}
        setOther={setOther}
        others={others}
        by={by}
        setBy={setBy}
        measure={measure}
        setMeasure={setMeasure}
        axis={axis}
        compare={compare}
        busy={busy}
        comparison={comparison}
        onComparison={onComparison}
        result={result}
        unit={unit}
      />
      {problem && <ProblemNote problem={problem} />}
      {result && result.differences.length > 0 && (
        <DifferenceTable result={result} onGo={onGo} tick={tick} axis={axis} />
      )}
    </div>
  );
}

interface DifferenceTableProps {
  readonly result: Comparison;
  readonly onGo: (tick: number) => void;
  readonly tick: number;
  readonly axis: Axis;
}

function DifferenceTable({ result, onGo, tick, axis }: DifferenceTableProps) {
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
            const unit = axis.sampled ? 'samples' : 'ticks';
            return ticks === null
              ? ''
              : `${Math.round(ticks).toLocaleString('en')} ${unit}${axis.inSteps ? '' : `, ${secondsText(ticks * axis.tickSeconds)}`}`;
          },
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
      ]}
    />
  );
}

interface CompareToolsProps {
  readonly chosen: OtherRecord | null;
  readonly setOther: Dispatch<SetStateAction<string | null>>;
  readonly others: readonly OtherRecord[];
  readonly by: 'trigger' | 'best' | 'cursor';
  readonly setBy: Dispatch<SetStateAction<'trigger' | 'best' | 'cursor'>>;
  readonly measure: Measure;
  readonly setMeasure: Dispatch<SetStateAction<Measure>>;
  readonly axis: Axis;
  readonly compare: () => Promise<void>;
  readonly busy: boolean;
  readonly comparison: Compared | null;
  readonly onComparison: (comparison: Compared | null) => void;
  readonly result: Comparison | undefined;
  readonly unit: 'ticks' | 'samples' | 'cycles';
}

function CompareTools({
  chosen,
  setOther,
  others,
  by,
  setBy,
  measure,
  setMeasure,
  axis,
  compare,
  busy,
  comparison,
  onComparison,
  result,
  unit,
}: CompareToolsProps) {
  // A dump has every change, a capture what its clock saw: they may be counted in either.
  const isBesideSimulation = chosen !== null && axis.sampled !== (chosen.kind === 'capture');
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="text-quiet">With</span>
      <Select
        size="normal"
        className="tabular max-w-72"
        aria-label="Other capture"
        value={chosen ? keyOf(chosen) : ''}
        onChange={(event) => setOther(event.target.value)}
      >
        {others.map((one) => (
          <option key={keyOf(one)} value={keyOf(one)}>
            {one.isReference ? 'reference: ' : ''}
            {one.title}
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
      {isBesideSimulation && (
        <>
          <span className="text-quiet">counted in</span>
          <Select size="normal" aria-label="Counted in" value={measure} onPick={setMeasure}>
            <option value="clock">cycles of the capture’s clock</option>
            <option value="time">time</option>
          </Select>
        </>
      )}
      <Button disabled={busy} onClick={() => void compare()}>
        {busy ? 'Comparing…' : 'Compare'}
      </Button>
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
              `${result.by === 'clock' || axis.sampled ? `${Math.round(result.offset).toLocaleString('en')} ${unit}` : secondsText(result.offset * axis.tickSeconds)}`}
          {result.scope !== '' && (
            <>
              , of the instance <span className="code">{result.scope}</span>
            </>
          )}
          {result.apart.length > 0 && `, only in one: ${result.apart.join(', ')}`}
        </span>
      )}
    </div>
  );
}
