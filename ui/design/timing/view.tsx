'use client';
import { clsx } from 'clsx';
import { useMemo, useState } from 'react';
import type { ClockTiming, TimingPath } from '../../../core/mapping/index.ts';
import { Ports } from './ports.tsx';
import { SayOfWay, SetAside } from './rules.tsx';
import { DEBUG_FILE } from '../../../core/probes/index.ts';
import { Chart, Empty, frequency, RowButton, Section, TextButton, Tile, useColour } from '../../shared/index.ts';
import { type SourcePlace, useOpenSource } from '../places.ts';
import { useBuilds } from '../queries.ts';

/** How fast each clock could run, what is left at its ends, and the longest ways step by step. */
export function TimingView() {
  const details = useBuilds().data?.latest?.details ?? null;
  const timing = details?.timing ?? null;
  const [chosen, setChosen] = useState<string | null>(null);
  if (details?.taken)
    return <Empty>How fast the design is in a {details.part} its own tools know, and nobody else.</Empty>;
  if (!timing) return <Empty>Timing comes from a build without errors. Press Build.</Empty>;
  const clock = timing.clocks.find((c) => c.clock === chosen) ?? timing.clocks[0];
  if (!clock) return <Empty>The design has no clock.</Empty>;
  return (
    <div className="min-h-0 overflow-auto">
      <p className="mb-2 text-quiet text-sm">
        An estimate: LUTs, carry chains and block RAMs are counted after mapping and given the delays of the data sheet;
        a wire's delay follows from how many places it reaches, since nothing is laid out.
      </p>
      <div className="mb-3 flex flex-wrap gap-3">
        {timing.clocks.map((c) => (
          <Tile key={c.clock} isChosen={c === clock} onClick={() => setChosen(c.clock)}>
            <span className="code font-bold">{c.clock}</span>
            {c.made && (
              <span className="tabular block text-quiet">
                {c.made.source} × {c.made.times}
                {c.made.over > 1 && ` / ${c.made.over}`}
              </span>
            )}
            <span className="tabular block">
              {c.highest === null ? 'no register feeds another' : `up to ${frequency(c.highest)}`}
            </span>
            <span
              className={clsx(
                'tabular block',
                c.worstSlack !== null && c.worstSlack < 0 ? 'font-bold text-bad' : 'text-quiet',
              )}
            >
              {c.wanted === null
                ? 'no constraint'
                : `wanted ${frequency(c.wanted)}, ` +
                  `${c.worstSlack === null ? '' : `${c.worstSlack.toFixed(2)} ns to spare`}`}
            </span>
          </Tile>
        ))}
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,2fr)] gap-4">
        <Histogram clock={clock} />
        <Paths key={clock.clock} paths={clock.paths} isRuled />
      </div>
      <Ports ports={timing.ports ?? []} />
      <SetAside rules={timing.rules ?? []} />
      {timing.crossings.length > 0 && (
        <Section
          title="From one clock to another"
          aside="no frequency follows from these ways; see the messages on crossings"
          className="mt-4"
        >
          <Paths
            paths={timing.crossings.map(({ longest, from, to, count }) => ({
              ...longest,
              from: `${longest.from} (${from})`,
              to: `${longest.to} (${to}), ${count} ${count === 1 ? 'way' : 'ways'}`,
            }))}
          />
        </Section>
      )}
    </div>
  );
}

function Histogram({ clock }: { readonly clock: ClockTiming }) {
  const colour = useColour();
  const option = useMemo(() => {
    const { histogram, wanted } = clock;
    return {
      animation: false,
      grid: { left: 40, right: 8, top: 12, bottom: 40 },
      tooltip: {
        formatter: ({ dataIndex }: { dataIndex: number }) => {
          const bin = histogram[dataIndex];
          return bin ? `${bin.from.toFixed(2)} to ${bin.to.toFixed(2)} ns: ${bin.count}` : '';
        },
      },
      xAxis: {
        type: 'category',
        data: histogram.map((bin) => bin.from.toFixed(1)),
        name: wanted === null ? 'delay, ns' : 'time to spare, ns',
        nameLocation: 'middle',
        nameGap: 24,
        axisLabel: { color: colour('quiet'), fontFamily: 'B612' },
        nameTextStyle: { color: colour('quiet'), fontFamily: 'B612' },
      },
      yAxis: {
        type: 'value',
        minInterval: 1,
        axisLabel: { color: colour('quiet'), fontFamily: 'B612' },
        splitLine: { lineStyle: { color: colour('line') } },
      },
      series: [
        {
          type: 'bar',
          barCategoryGap: '8%',
          data: histogram.map((bin) => ({
            value: bin.count,
            itemStyle: { color: colour(wanted !== null && bin.from < 0 ? 'bad' : 'ink') },
          })),
        },
      ],
    };
  }, [clock, colour]);
  return (
    <div>
      <h2 className="font-bold text-sm">
        {clock.endpoints} ends of {clock.clock}
        {clock.failing > 0 && <span className="text-bad">, {clock.failing} too late</span>}
      </h2>
      {clock.endpoints === 0 ? (
        <p className="text-quiet text-sm">None.</p>
      ) : (
        <Chart option={option} label="Ends by time to spare" className="h-60 w-full" />
      )}
    </div>
  );
}

interface PathsProps {
  readonly paths: readonly TimingPath[];
  /** Ways between registers of one clock, of which the timing table may say something. */
  readonly isRuled?: boolean;
}

function Paths({ paths, isRuled = false }: PathsProps) {
  const [open, setOpen] = useState<number | null>(0);
  return (
    <ol className="border border-line bg-raised text-sm" aria-label="Longest ways">
      {paths.map((path, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: several ways may have the same ends
        <li key={i} className="border-line border-b last:border-b-0">
          <RowButton
            aria-expanded={open === i}
            onClick={() => setOpen(open === i ? null : i)}
            className="grid grid-cols-[4.5rem_5rem_minmax(0,1fr)] gap-2 px-2 py-1"
          >
            <span className="tabular text-right">{path.delay.toFixed(2)} ns</span>
            <span className="text-quiet">
              {path.levels} {path.levels === 1 ? 'level' : 'levels'}
              {path.cycles !== undefined && <span className="block">{path.cycles} cycles</span>}
            </span>
            <span className="code min-w-0 break-words text-xs">
              <span className="block">{path.from}</span>
              <span className="block">→ {path.to}</span>
              {path.between && (
                <span className="block font-sans text-quiet">
                  from {path.between.from}
                  {path.between.time !== null && `, ${path.between.time.toFixed(2)} ns from edge to edge`}
                </span>
              )}
            </span>
          </RowButton>
          {open === i && <Opened path={path} isRuled={isRuled} />}
        </li>
      ))}
      {paths.length === 0 && <li className="px-2 py-3 text-center text-quiet">No way between registers.</li>}
    </ol>
  );
}

/** A way in full: what would shorten it, its steps, and what may be said of it. */
function Opened({ path, isRuled }: { readonly path: TimingPath; readonly isRuled: boolean }) {
  return (
    <div className="px-2 pb-1">
      <p className="mb-1 break-words">
        {path.steps.every(({ file }) => file === '' || file === DEBUG_FILE)
          ? 'It runs through a debug core; with fewer comparators, stages or signals that is smaller.'
          : (path.advice ?? 'Nothing in it can be made shorter: what it takes are the cells themselves.')}
      </p>
      <Steps path={path} />
      {isRuled && <SayOfWay path={path} />}
    </div>
  );
}

function Steps({ path }: { readonly path: TimingPath }) {
  const show = useOpenSource();
  return (
    <table className="mb-1 ml-2 w-[calc(100%-0.5rem)] table-fixed border-collapse text-xs">
      <thead>
        <tr className="text-left text-quiet">
          <th className="w-[34%] py-0.5 font-normal">step</th>
          <th className="w-[5.5rem] font-normal">what</th>
          <th className="w-[4.5rem] px-2 text-right font-normal">takes, ns</th>
          <th className="w-[3.5rem] px-2 text-right font-normal">at, ns</th>
          <th className="pl-3 font-normal">written in</th>
        </tr>
      </thead>
      <tbody>
        {path.steps.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: steps have no other name
          <tr key={i} className="border-line border-t">
            <td className="code break-words py-0.5 pr-2">
              {s.what === 'wire' ? <span className="text-quiet">{s.name}</span> : withoutTop(s.name)}
            </td>
            <td className="text-quiet">{s.what}</td>
            <td className="tabular px-2 text-right">{s.own.toFixed(2)}</td>
            <td className="tabular px-2 text-right">{s.at.toFixed(2)}</td>
            <td className="code break-words pl-3">
              {s.file !== '' && s.what !== 'wire' && <Place file={s.file} line={s.line} show={show} />}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Every name begins with the top module: in a narrow column that is left out. */
const withoutTop = (name: string): string => name.replace(/^(logic in )?[^.\s]+\./, '$1');

/** Where a step is written; what the product itself puts in is not among the user's files. */
function Place({ file, line, show }: SourcePlace & { readonly show: (place: SourcePlace) => void }) {
  return file === DEBUG_FILE ? (
    <span className="text-quiet">debug core</span>
  ) : (
    <TextButton onClick={() => show({ file, line })}>
      {file}:{line}
    </TextButton>
  );
}
