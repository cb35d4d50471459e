'use client';
import { useDebouncedValue } from '@tanstack/react-pacer';
import { type Dispatch, type SetStateAction, useEffect, useMemo, useState } from 'react';
import {
  type Axis,
  type BitMeasures,
  histogram,
  leavesOf,
  nameOfRow,
  type Row,
  secondsText,
  type SignalRow,
  ticksBetween,
  type WaveCursor,
  type WordMeasures,
} from '../../../core/wave/index.ts';
import { Chart, DataTable, frequency, useColour, Select } from '../../shared/index.ts';
import type { WaveDesk } from '../desk.ts';
import type { Measured } from '../messages.ts';

interface Props {
  readonly desk: WaveDesk;
  readonly axis: Axis;
  readonly rows: readonly Row[];
  readonly cursors: readonly WaveCursor[];
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: (ids: ReadonlySet<string>) => void;
}

const BINS = 24;
/** While a cursor is dragged, measuring waits this long. */
const REST_MILLISECONDS = 80;

type What = 'periods' | 'highs' | 'lows' | 'values';
const WHAT_NAMES: Readonly<Record<What, string>> = {
  periods: 'periods',
  highs: 'widths at 1',
  lows: 'widths at 0',
  values: 'time at each value',
};

/** Measurements of every row between two cursors, or over the whole record, and a histogram of the chosen row. */
export function MeasurePanel({ desk, axis, rows, cursors, chosen, onChoose }: Props) {
  const [from, setFrom] = useState('0');
  const [to, setTo] = useState('1');
  const [what, setWhat] = useState<What>('periods');
  const [measured, setMeasured] = useState<readonly Measured[]>([]);
  const signals = useMemo(() => leavesOf(rows).filter((row): row is SignalRow => row.kind === 'signal'), [rows]);
  const [a, b] = [cursors[Number(from)]?.tick, cursors[Number(to)]?.tick];
  const [start, end] =
    a === undefined || b === undefined || a === b ? [0, axis.length] : [Math.min(a, b), Math.max(a, b)];
  const wanted = useMemo(() => ({ signals, start, end }), [signals, start, end]);
  const [asked] = useDebouncedValue(wanted, { wait: REST_MILLISECONDS });
  useEffect(() => {
    void desk.ask('measure', { rows: asked.signals, from: asked.start, to: asked.end }).then(setMeasured);
  }, [desk, asked]);
  const table = signals.flatMap((row) => {
    const found = measured.find(({ rowId }) => rowId === row.id);
    return found ? [{ row, measures: found.measures }] : [];
  });
  const picked = table.find(({ row }) => chosen.has(row.id)) ?? table[0];
  const between = ticksBetween(axis, start, end);
  return (
    <div className="flex flex-col gap-2">
      <Span
        from={from}
        cursors={cursors}
        setFrom={setFrom}
        to={to}
        setTo={setTo}
        a={a}
        b={b}
        between={between}
        axis={axis}
      />
      <div className="flex flex-col gap-3">
        <MeasuredRows table={table} picked={picked} onChoose={onChoose} />
        {picked && (
          <Histogram
            key={picked.row.id}
            name={nameOfRow(picked.row)}
            measures={picked.measures}
            what={what}
            onWhat={setWhat}
          />
        )}
      </div>
    </div>
  );
}

interface SpanProps {
  readonly from: string;
  readonly cursors: readonly { name: string; tick: number }[];
  readonly setFrom: Dispatch<SetStateAction<string>>;
  readonly to: string;
  readonly setTo: Dispatch<SetStateAction<string>>;
  readonly a: number | undefined;
  readonly b: number | undefined;
  readonly between: number | null;
  readonly axis: Axis;
}

function Span({ from, cursors, setFrom, to, setTo, a, b, between, axis }: SpanProps) {
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="text-quiet">From</span>
      <CursorChoice label="First cursor" value={from} cursors={cursors} onChoose={setFrom} />
      <span className="text-quiet">to</span>
      <CursorChoice label="Second cursor" value={to} cursors={cursors} onChoose={setTo} />
      <span className="tabular" data-testid="between">
        {a === undefined || b === undefined || a === b ? 'the whole record: ' : ''}
        {between === null
          ? 'a gap of unknown length lies between'
          : `${Math.round(between).toLocaleString('en')} ${axis.sampled ? 'samples' : 'ticks'}, ` +
            `${secondsText(between * axis.tickSeconds)}, ${frequency(1 / (between * axis.tickSeconds))}`}
      </span>
      {cursors.length < 2 && <span className="text-quiet">Add a second cursor to measure between two places.</span>}
    </div>
  );
}

interface MeasuredRowsProps {
  readonly table: { row: SignalRow; measures: BitMeasures | WordMeasures }[];
  readonly picked: { row: SignalRow; measures: BitMeasures | WordMeasures } | undefined;
  readonly onChoose: (ids: ReadonlySet<string>) => void;
}

function MeasuredRows({ table, picked, onChoose }: MeasuredRowsProps) {
  return (
    <DataTable
      name="rows"
      className="max-h-56"
      rows={table}
      empty="Nothing to measure."
      chosen={({ row }) => row.id === picked?.row.id}
      onRow={({ row }) => onChoose(new Set([row.id]))}
      columns={[
        {
          id: 'row',
          header: 'Row',
          accessorFn: ({ row }) => nameOfRow(row).split('.').slice(1).join('.') || nameOfRow(row),
          cell: (cell) => (
            <span className="block max-w-40 truncate" title={String(cell.getValue())}>
              {String(cell.getValue())}
            </span>
          ),
        },
        {
          id: 'edges',
          header: 'Edges',
          accessorFn: ({ measures }) =>
            measures.kind === 'bit'
              ? `${measures.rises} up, ${measures.falls} down`
              : `${measures.changes} ${measures.changes === 1 ? 'change' : 'changes'}`,
          cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
        },
        {
          id: 'period',
          header: 'Period, or range',
          accessorFn: ({ measures }) => periodText(measures),
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
        {
          id: 'jitter',
          header: 'Jitter, or mean',
          accessorFn: ({ measures }) =>
            measures.kind === 'bit'
              ? measures.jitter === null
                ? ''
                : measures.jitter === 0
                  ? '0 s'
                  : secondsText(measures.jitter)
              : (measures.mean ?? ''),
          cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
        },
        {
          id: 'high',
          header: 'At 1',
          accessorFn: ({ measures }) => (measures.kind === 'bit' && measures.high ? spreadText(measures.high) : ''),
          cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
        },
        {
          id: 'low',
          header: 'At 0',
          accessorFn: ({ measures }) => (measures.kind === 'bit' && measures.low ? spreadText(measures.low) : ''),
          cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
        },
        {
          id: 'duty',
          header: 'Duty',
          accessorFn: ({ measures }) =>
            measures.kind === 'bit' && measures.duty !== null ? `${+(measures.duty * 100).toPrecision(4)} %` : '',
          cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
        },
      ]}
    />
  );
}

function CursorChoice({
  label,
  value,
  cursors,
  onChoose,
}: {
  readonly label: string;
  readonly value: string;
  readonly cursors: readonly WaveCursor[];
  readonly onChoose: (value: string) => void;
}) {
  return (
    <Select aria-label={label} value={value} onChange={(event) => onChoose(event.target.value)}>
      {cursors.map(({ name }, i) => (
        <option key={name} value={String(i)}>
          {name}
        </option>
      ))}
      {Number(value) >= cursors.length && <option value={value}>the record</option>}
    </Select>
  );
}

const periodText = (measures: BitMeasures | WordMeasures): string => {
  if (measures.kind === 'word')
    return measures.least === null
      ? 'unknown'
      : measures.least === measures.most
        ? String(measures.least)
        : `${measures.least} to ${measures.most}`;
  return measures.period ? `${secondsText(measures.period.mean)}, ${frequency(1 / measures.period.mean)}` : '';
};

const spreadText = ({
  least,
  most,
  mean,
}: {
  readonly least: number;
  readonly most: number;
  readonly mean: number;
}): string => (most - least <= most * 1e-9 ? secondsText(mean) : `${secondsText(least)} to ${secondsText(most)}`);

interface HistogramProps {
  readonly name: string;
  readonly measures: BitMeasures | WordMeasures;
  readonly what: What;
  readonly onWhat: (what: What) => void;
}

function Histogram({ name, measures, what, onWhat }: HistogramProps) {
  const choices: readonly What[] = measures.kind === 'bit' ? ['periods', 'highs', 'lows'] : ['values'];
  const shown = choices.includes(what) ? what : (choices[0] as What);
  const bars = useMemo((): readonly (readonly [string, number])[] => {
    if (measures.kind === 'word')
      return measures.values.map(([value, seconds]) => [String(value), seconds * 1e6] as const);
    const values = shown === 'periods' ? measures.periods : shown === 'highs' ? measures.highs : measures.lows;
    return histogram(values, BINS).map(({ from, to, count }) => [secondsText((from + to) / 2), count] as const);
  }, [measures, shown]);
  const colour = useColour();
  const option = useMemo(
    () => ({
      animation: false,
      grid: { left: 48, right: 8, top: 12, bottom: 26 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: bars.map(([at]) => at), axisLabel: { fontSize: 10, color: colour('quiet') } },
      yAxis: {
        type: 'value',
        name: measures.kind === 'word' ? 'µs' : '',
        splitLine: { lineStyle: { color: colour('line') } },
        nameTextStyle: { fontSize: 10, color: colour('quiet') },
        axisLabel: { fontSize: 10, color: colour('quiet') },
      },
      series: [
        {
          type: 'bar',
          data: bars.map(([, count]) => count),
          itemStyle: { color: colour('water') },
          barCategoryGap: '8%',
        },
      ],
    }),
    [bars, measures.kind, colour],
  );
  return (
    <div className="border border-line bg-raised p-2">
      <div className="flex items-center gap-2 text-sm">
        <span className="min-w-0 truncate font-bold" title={name}>
          {name.split('.').at(-1)}
        </span>
        <Select size="tiny" className="ml-auto" aria-label="Histogram of" value={shown} onPick={onWhat}>
          {choices.map((choice) => (
            <option key={choice} value={choice}>
              {WHAT_NAMES[choice]}
            </option>
          ))}
        </Select>
      </div>
      {bars.length > 0 ? (
        <Chart option={option} label={`Histogram of ${WHAT_NAMES[shown]} of ${name}`} className="h-44" />
      ) : (
        <p className="py-8 text-center text-quiet text-sm">No whole ones between the two places.</p>
      )}
    </div>
  );
}
