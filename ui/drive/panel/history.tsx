'use client';
import { useMemo } from 'react';
import {
  type ValueForm,
  type PanelMap,
  READINGS_KEPT,
  readingsCsv,
  type TimedReading,
} from '../../../core/probes/index.ts';
import { Button, Chart, colour, DataTable, Field, Section, Select, saveText } from '../../shared/index.ts';
import { show } from './digits.tsx';

const COUNTS = [READINGS_KEPT.least, 100, 1000, 10_000, READINGS_KEPT.most] as const;
const STRIP_HEIGHT = 56;
/** So many points are drawn of a strip; of more, every so many-th. */
const MOST_POINTS = 2000;

interface Props {
  readonly kept: readonly TimedReading[];
  readonly most: number;
  readonly onMost: (most: number) => void;
  readonly panels: readonly PanelMap[];
  readonly formOf: (name: string) => ValueForm;
}

/** The last readings of all gauges, as strips over time and as a table. */
export function History({ kept, most, onMost, panels, formOf }: Props) {
  const gauges = panels.flatMap((panel) => panel.gauges);
  const newest = useMemo(() => kept.toReversed(), [kept]);
  if (gauges.length === 0) return null;
  return (
    <Section
      title="History"
      aside={
        <>
          <Field name="Keep">
            <Select
              size="small"
              className="tabular"
              aria-label="Readings kept"
              value={most}
              onChange={(event) => onMost(Number(event.target.value))}
            >
              {COUNTS.map((count) => (
                <option key={count} value={count}>
                  {count.toLocaleString('en')}
                </option>
              ))}
            </Select>
          </Field>
          <Button
            className="h-7"
            disabled={kept.length === 0}
            onClick={() => saveText('readings.csv', 'text/csv', readingsCsv(kept, gauges))}
          >
            CSV
          </Button>
        </>
      }
    >
      <Strips kept={kept} gauges={gauges} />
      <DataTable
        className="max-h-60"
        name="readings"
        rows={newest}
        empty="Nothing was read yet."
        columns={[
          {
            id: 'time',
            header: 'Time',
            accessorFn: ({ at }: TimedReading) => new Date(at).toISOString().slice(11, 23),
            cell: (c) => <span className="tabular text-xs">{String(c.getValue())}</span>,
          },
          ...gauges.map((gauge) => ({
            id: gauge.name,
            header: gauge.name.slice(gauge.name.indexOf('.') + 1),
            accessorFn: ({ reading }: TimedReading) => show(reading.gauges[gauge.name], gauge, formOf(gauge.name)),
            cell: (c: { getValue: () => unknown }) => <span className="code text-xs">{String(c.getValue())}</span>,
          })),
        ]}
      />
    </Section>
  );
}

function Strips({ kept, gauges }: { readonly kept: readonly TimedReading[]; readonly gauges: PanelMap['gauges'] }) {
  const option = useMemo(() => {
    const every = Math.max(1, Math.ceil(kept.length / MOST_POINTS));
    const points = kept.filter((_, i) => i % every === 0 || i === kept.length - 1);
    const strip = (i: number) => ({ left: 4, right: 8, top: 10 + i * STRIP_HEIGHT, height: STRIP_HEIGHT - 20 });
    return {
      animation: false,
      tooltip: { trigger: 'axis' },
      grid: gauges.map((_, i) => strip(i)),
      xAxis: gauges.map((_, i) => ({
        type: 'time',
        gridIndex: i,
        show: i === gauges.length - 1,
        axisLabel: { show: false },
      })),
      yAxis: gauges.map((_, i) => ({ type: 'value', gridIndex: i, scale: true, show: false })),
      series: gauges.map(({ name, width, signed }, i) => ({
        name,
        type: 'line',
        step: 'end',
        symbol: 'none',
        xAxisIndex: i,
        yAxisIndex: i,
        lineStyle: { width: 1.2, color: colour('ink') },
        data: points.map(({ at, reading }) => {
          const value = reading.gauges[name];
          return [at, value === undefined ? null : Number(signed ? BigInt.asIntN(width, value) : value)];
        }),
      })),
    };
  }, [kept, gauges]);
  return (
    <div className="mb-2 flex" style={{ height: gauges.length * STRIP_HEIGHT }}>
      <ul className="w-36 shrink-0">
        {gauges.map(({ name }) => (
          <li
            key={name}
            className="flex items-center border-line border-b"
            style={{ height: STRIP_HEIGHT }}
            title={name}
          >
            <span className="code truncate text-xs">{name.slice(name.indexOf('.') + 1)}</span>
          </li>
        ))}
      </ul>
      <Chart option={option} label="Gauges over time" className="h-full min-w-0 flex-1" />
    </div>
  );
}
