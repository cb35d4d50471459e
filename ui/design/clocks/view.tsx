'use client';
import { useQueryClient } from '@tanstack/react-query';
import { Fragment, useState } from 'react';
import { own } from '../../../core/lists.ts';
import type { OscillatorOnPin } from '../../../core/constraints/index.ts';
import {
  api,
  Button,
  DataTable,
  Empty,
  frequency,
  Section,
  Select,
  TextInput,
  useAct,
  useFiles,
  useProject,
} from '../../shared/index.ts';
import { useBuilds, useSourcePorts } from '../queries.ts';
import { useClockPins } from './oscillators.ts';
import { MakeClocks } from './generator.tsx';
import { MadeClocks } from './made.tsx';
import { parseFrequency } from './parse-frequency.ts';
import { type ClockTiming, Reached } from './reached.tsx';
import type { ProjectFile } from '../../../core/build/index.ts';
import type { BuildDetails } from '../../../server/index.ts';

/** A lamp slower than this is seen to blink; faster ones only look dim (common practice). */
const VISIBLE_HERTZ = 20;

export function ClocksView() {
  const project = useProject().data;
  const files = useFiles().data;
  const details = useBuilds().data?.latest?.details;
  const read = useSourcePorts();
  const pinOf = useClockPins();
  if (!project || !files) return <Empty>Reading the project.</Empty>;
  const ports = read?.ports ?? details?.ports ?? null;
  const clocks = [
    ...new Set([...(ports ?? []).filter((p) => p.clock).map((p) => p.name), ...Object.keys(project.file.clocks)]),
  ];
  const timing = (clock: string) => details?.timing?.clocks.find((c) => c.clock === clock);
  const rates = details?.lampRates ?? [];
  const generators = read?.generators ?? details?.generators ?? [];
  const sources = (ports ?? []).flatMap(({ name, clock, direction, width }) => {
    if (direction !== 'input' || width !== 1) return [];
    const hertz = own(project.file.clocks, name) ?? (clock ? pinOf(name).oscillators[0]?.hertz : undefined);
    return hertz === undefined ? [] : [{ clock: name, hertz }];
  });
  const widthOf = (port: string) => details?.ports.find(({ name }) => name === port)?.width;
  return (
    <div className="min-h-0 overflow-auto">
      {clocks.length === 0 ? (
        <Empty>
          {ports
            ? 'The design has no clock.'
            : read === null
              ? 'The clocks are being read from the sources.'
              : 'The sources make no design as they ' +
                `stand${read.trouble ? `: ${read.trouble.file}, line ${read.trouble.line}: ${read.trouble.message}` : '.'}`}
        </Empty>
      ) : (
        <table className="mb-4 w-full border-collapse text-sm" aria-label="Clocks">
          <thead className="bg-well text-left">
            <tr>
              {['Clock', 'Pin', 'Oscillator', 'Runs at', 'Could run at (estimate)', 'To spare'].map((head) => (
                <th key={head} className="px-2 py-1 font-bold">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {clocks.map((clock) => {
              const { pin, oscillators } = pinOf(clock);
              return (
                <Fragment key={clock}>
                  <ClockRow
                    clock={clock}
                    pin={pin}
                    oscillators={oscillators}
                    project={project}
                    timing={timing(clock)}
                  />
                  {generators
                    .filter(({ input }) => input === clock)
                    .map((use) => (
                      <MadeClocks
                        key={use.path}
                        use={use}
                        hertz={own(project.file.clocks, clock) ?? null}
                        timing={timing}
                      />
                    ))}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      )}
      {read?.ports && <MakeClocks part={project.file.part} sources={sources} read={read} />}
      <Section title="Lamps on counters" aside="bit n of a counter that runs free at f blinks at f / 2^(n+1)">
        <LampTable rates={rates} widthOf={widthOf} />
        <LampHelper clocks={project.file.clocks} />
      </Section>
    </div>
  );
}

interface LampTableProps {
  readonly rates: BuildDetails['lampRates'];
  readonly widthOf: (port: string) => number | undefined;
}

function LampTable({ rates, widthOf }: LampTableProps) {
  return (
    <DataTable
      name="lamps"
      rows={rates}
      empty="No output is a bit of a counter."
      columns={[
        {
          id: 'port',
          header: 'Output',
          accessorFn: (r) => (widthOf(r.port) === 1 ? r.port : `${r.port}[${r.bit}]`),
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        {
          id: 'counter',
          header: 'Counter bit',
          accessorFn: (r) => `${r.counter}[${r.n}]`,
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        { accessorKey: 'clock', header: 'Clock' },
        {
          id: 'period',
          header: 'Comes round after',
          accessorFn: (r) => (r.period === undefined ? '' : `${BigInt(r.period).toLocaleString('en')} states`),
          cell: (c) => <span className="tabular whitespace-nowrap">{String(c.getValue())}</span>,
        },
        {
          id: 'while',
          header: 'Counts while',
          accessorFn: (r) =>
            (r.while ?? [])
              .map(({ signal, value }) => `${signal.slice(signal.indexOf('.') + 1)} is ${value}`)
              .join(', ') || 'always',
          cell: (c) => <span className="text-xs">{String(c.getValue())}</span>,
        },
        {
          id: 'rate',
          header: 'Blinks at',
          accessorFn: (r) => r.hertz ?? 0,
          cell: ({ row }) => (
            <span className="tabular">
              {row.original.hertz === null ? 'clock unknown' : frequency(row.original.hertz)}
            </span>
          ),
        },
        {
          id: 'seen',
          header: 'To the eye',
          accessorFn: (r) =>
            r.hertz === null
              ? ''
              : r.hertz > VISIBLE_HERTZ
                ? 'steady, half as bright'
                : r.hertz < 0.1
                  ? 'stands still for long'
                  : 'blinks',
        },
      ]}
    />
  );
}

interface ClockRowProps {
  readonly clock: string;
  readonly pin: string | null;
  readonly oscillators: readonly OscillatorOnPin[];
  readonly project: { readonly file: ProjectFile };
  readonly timing: ClockTiming | undefined;
}

function ClockRow({ clock, pin, oscillators, project, timing }: ClockRowProps) {
  return (
    <tr className="border-line border-t">
      <td className="code px-2 py-1">{clock}</td>
      <td className="code px-2 py-1">{pin ?? '–'}</td>
      <td className="px-2 py-1">
        {oscillators.map(({ name, hertz, from }) => (
          <span key={hertz} className="block">
            {name}, {frequency(hertz)}
            {from === 'bench' ? ', on the bench' : ''}
          </span>
        ))}
        {oscillators.length === 0 && '–'}
      </td>
      <td className="px-2 py-1">
        <ClockRate
          clock={clock}
          hertz={project.file.clocks[clock] ?? null}
          offered={oscillators}
          all={project.file.clocks}
        />
      </td>
      <Reached timing={timing} />
    </tr>
  );
}

interface RateProps {
  readonly clock: string;
  readonly hertz: number | null;
  /** What runs to the clock's pin. */
  readonly offered: readonly OscillatorOnPin[];
  readonly all: Readonly<Record<string, number>>;
}

/** A frequency or a period, in any usual unit. */
function ClockRate({ clock, hertz, offered, all }: RateProps) {
  const queries = useQueryClient();
  const { act } = useAct();
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const save = async (value: number | null) => {
    const { [clock]: _, ...others } = all;
    await act(() => api.project.change.mutate({ clocks: value === null ? others : { ...others, [clock]: value } }));
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['project'] }),
      queries.invalidateQueries({ queryKey: ['files'] }),
    ]);
  };
  const take = async () => {
    if (text === null) return;
    if (text.trim() === '') await save(null);
    else {
      const value = parseFrequency(text);
      setWrong(value === null);
      if (value === null) return;
      await save(value);
    }
    setText(null);
  };
  return (
    <span className="flex items-center gap-2">
      <TextInput
        value={text ?? (hertz === null ? '' : frequency(hertz))}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => event.key === 'Enter' && void take()}
        placeholder="12 MHz or 83.3 ns"
        aria-label={`Frequency of ${clock}`}
        aria-invalid={wrong}
        className="tabular w-40"
      />
      {wrong && <span className="text-bad text-xs">Hz, kHz, MHz, s, ms, µs or ns</span>}
      {offered
        .filter((one) => one.hertz !== hertz)
        .map((one) => (
          <Button
            key={one.hertz}
            title={
              `As ${one.name} runs, which ` +
              `${one.from === 'bench' ? 'the bench has' : 'the board description names'} on its pin`
            }
            onClick={() => save(one.hertz)}
          >
            Take {frequency(one.hertz)}
          </Button>
        ))}
    </span>
  );
}

/** Which bit of a counter gives a wanted blink. */
function LampHelper({ clocks }: { readonly clocks: Readonly<Record<string, number>> }) {
  const names = Object.keys(clocks);
  const [clock, setClock] = useState('');
  const [wanted, setWanted] = useState('1');
  const f = clocks[clock || (names[0] ?? '')];
  const rate = Number(wanted);
  const n = f !== undefined && rate > 0 && rate <= f / 2 ? Math.round(Math.log2(f / rate) - 1) : null;
  if (names.length === 0) return null;
  return (
    <p className="mt-3 flex flex-wrap items-center gap-2 text-sm">
      A lamp from a counter on
      <Select value={clock || names[0]} onChange={(event) => setClock(event.target.value)} aria-label="Clock">
        {names.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </Select>
      that blinks about
      <TextInput
        className="tabular w-16"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        aria-label="Wanted rate"
      />
      times a second:{' '}
      {n === null || f === undefined ? (
        <span className="text-doubt">give a rate below half the clock</span>
      ) : (
        <span>
          take bit <b className="tabular">{n}</b>, which blinks at{' '}
          <b className="tabular">{frequency(f / 2 ** (n + 1))}</b>; the counter needs {n + 1} bits.
        </span>
      )}
    </p>
  );
}
