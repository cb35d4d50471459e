'use client';
import { clsx } from 'clsx';
import { RefreshCw } from 'lucide-react';
import { type Dispatch, type SetStateAction, useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import {
  type DriveRadix,
  type LeverMap,
  type PanelMap,
  type PanelReading,
  parseLeverValue,
  writeLeverValue,
} from '../../core/probes/index.ts';
import type { Problem } from '../../core/result.ts';
import { useProbes } from '../design/index.ts';
import {
  answerOf,
  api,
  Button,
  Empty,
  OtherBuild,
  ProblemNote,
  Section,
  Select,
  StationHead,
  TextInput,
  useLive,
  Field,
} from '../shared/index.ts';

const RADIX_WORDS: Readonly<Record<DriveRadix, string>> = { dec: 'decimal', hex: 'hexadecimal', bin: 'binary' };

const INTERVALS = [
  ['off', 0],
  ['100 ms', 100],
  ['250 ms', 250],
  ['500 ms', 500],
  ['1 s', 1000],
  ['2 s', 2000],
] as const;

export function DriveStation() {
  const state = useLive('running', 'foreign');
  const { probes, note } = useProbes();
  const panels = probes?.cores.filter((core): core is PanelMap => core.kind === 'panel') ?? [];
  const runs = probes !== null && state?.running?.fingerprint === probes.fingerprint;
  const [reading, setReading] = useState<PanelReading | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [interval, setInterval] = useState(500);
  const [radix, setRadix] = useState<DriveRadix>('dec');
  const [reads, setReads] = useState(0);
  const exchange = useCallback(async (set: Readonly<Record<string, bigint | null>>): Promise<boolean> => {
    const answer = await answerOf(api.drive.move.mutate({ set }));
    if (answer.ok) {
      setReading(answer.value.reading);
      setProblem(null);
      setReads((n) => n + 1);
      return true;
    }
    setProblem(answer.problem);
    return false;
  }, []);
  useLiveReading(runs && panels.length > 0 ? interval : 0, exchange);
  if (panels.length === 0)
    return (
      <>
        <StationHead title="Drive" hint="Move levers, read gauges, on running hardware." />
        {note && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">{note}</p>}
        <Empty>
          {probes && state?.foreign ? 'The design that runs has' : 'The newest build has'} no panel. Choose levers and
          gauges under Probe, build, and load.
        </Empty>
      </>
    );
  return (
    <>
      <DriveHead
        interval={interval}
        setInterval={setInterval}
        radix={radix}
        setRadix={setRadix}
        runs={runs}
        exchange={exchange}
      />
      {note && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">{note}</p>}
      <OtherBuild wanted={probes?.fingerprint} what="these probes belong" />
      {problem && <ProblemNote problem={problem} />}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Section title="Levers" aside="you → design" className="min-w-0">
          {panels.every(({ levers }) => levers.length === 0) && (
            <Empty>No lever in this build. Choose one under Probe.</Empty>
          )}
          {panels
            .flatMap((panel) => panel.levers.map((lever) => ({ panel, lever })))
            .map(({ panel, lever }) => (
              <Lever
                key={`${panel.name} ${lever.name}`}
                lever={lever}
                now={reading?.levers[lever.name] ?? null}
                radix={radix}
                disabled={!runs}
                onSet={(value) => exchange({ [lever.name]: value })}
              />
            ))}
        </Section>
        <Gauges reads={reads} panels={panels} reading={reading} radix={radix} />
      </div>
    </>
  );
}

interface GaugesProps {
  readonly reads: number;
  readonly panels: PanelMap[];
  readonly reading: PanelReading | null;
  readonly radix: DriveRadix;
}

function Gauges({ reads, panels, reading, radix }: GaugesProps) {
  return (
    <Section
      className="min-w-0"
      title="Gauges"
      aside={
        <span>
          design → you, <span className="tabular">{reads}</span> readings
        </span>
      }
    >
      {panels.every(({ gauges }) => gauges.length === 0) && (
        <Empty>No gauge in this build. Choose one under Probe.</Empty>
      )}
      <dl>
        {panels
          .flatMap((panel) => panel.gauges.map((gauge) => ({ panel, gauge })))
          .map(({ panel, gauge }) => (
            <div
              key={`${panel.name} ${gauge.name}`}
              className="flex flex-wrap items-baseline gap-x-3 border-line border-b py-1.5"
            >
              <dt
                className="min-w-32 flex-1 truncate text-sm"
                title={panels.length > 1 ? `${gauge.name}, panel ${panel.name}` : gauge.name}
              >
                {gauge.name.slice(gauge.name.indexOf('.') + 1)}{' '}
                <span className="tabular text-quiet text-xs">{gauge.width} bit</span>
              </dt>
              <dd className="code min-w-0 max-w-full text-right text-lg" data-testid={`gauge-${gauge.name}`}>
                <Digits text={show(reading?.gauges[gauge.name], gauge.width, radix)} label={gauge.name} />
              </dd>
            </div>
          ))}
      </dl>
    </Section>
  );
}

interface DriveHeadProps {
  readonly interval: number;
  readonly setInterval: Dispatch<SetStateAction<number>>;
  readonly radix: DriveRadix;
  readonly setRadix: Dispatch<SetStateAction<DriveRadix>>;
  readonly runs: boolean;
  readonly exchange: (set: Readonly<Record<string, bigint | null>>) => Promise<boolean>;
}

function DriveHead({ interval, setInterval, radix, setRadix, runs, exchange }: DriveHeadProps) {
  return (
    <StationHead title="Drive" hint="Move levers, read gauges, on running hardware.">
      <Field name="Read every">
        <Select
          size="normal"
          value={interval}
          onChange={(event) => setInterval(Number(event.target.value))}
          aria-label="Reading interval"
        >
          {INTERVALS.map(([name, value]) => (
            <option key={name} value={value}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
      <Select size="normal" value={radix} onPick={setRadix} aria-label="Radix">
        <option value="dec">decimal</option>
        <option value="hex">hexadecimal</option>
        <option value="bin">binary</option>
      </Select>
      <Button disabled={!runs} onClick={() => exchange({})}>
        <RefreshCw aria-hidden className="size-4" /> Read now
      </Button>
    </StationHead>
  );
}

/** One reading after another, each `interval` after the last one came back; 0 rests. */
function useLiveReading(interval: number, exchange: (set: Record<string, never>) => Promise<boolean>): void {
  useEffect(() => {
    if (interval === 0) return;
    let timer: ReturnType<typeof setTimeout>;
    let ended = false;
    const turn = async () => {
      await exchange({});
      if (!ended) timer = setTimeout(turn, interval);
    };
    void turn();
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [interval, exchange]);
}

const show = (value: bigint | undefined, width: number, radix: DriveRadix): string =>
  value === undefined ? '–' : writeLeverValue(value, width, radix);

/** Digits of a value in groups, so that a long one may be broken between them wherever its line ends. */
function Digits({ text, label }: { readonly text: string; readonly label: string }) {
  if (text.length <= SHORT_DIGITS) return <>{text}</>;
  const first = text.length % GROUP_DIGITS || GROUP_DIGITS;
  const groups = [text.slice(0, first), ...(text.slice(first).match(new RegExp(`.{${GROUP_DIGITS}}`, 'g')) ?? [])];
  return (
    <span title={label} className="inline-flex flex-wrap justify-end gap-x-1.5 text-sm leading-snug">
      {groups.map((group, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a group is its place in the number
        <span key={i}>{group}</span>
      ))}
    </span>
  );
}

/** Longer values than this take lines of their own. */
const SHORT_DIGITS = 12;
const GROUP_DIGITS = 8;

interface LeverProps {
  readonly lever: LeverMap;
  readonly now: PanelReading['levers'][string] | null;
  readonly radix: DriveRadix;
  readonly disabled: boolean;
  readonly onSet: (value: bigint | null) => Promise<boolean>;
}

function Lever({ lever, now, radix, disabled, onSet }: LeverProps) {
  const [text, setText] = useState<string | null>(null);
  const apply = async () => {
    if (text === null) return;
    const value = parseLeverValue(text, lever.width, radix);
    if (!value.ok) toast.error(value.error.message, { description: value.error.tryNext[0] });
    else if (await onSet(value.value)) setText(null);
  };
  const shown = now?.released ? '–' : show(now?.value, lever.width, radix);
  const isLong = show(0n, lever.width, radix).length > SHORT_DIGITS || shown.length > SHORT_DIGITS;
  const overriding = lever.enable !== null && now !== null && !now.released;
  return (
    <div className="border-line border-b py-2" data-testid={`lever-${lever.name}`}>
      <div className="mb-1 flex items-baseline gap-2 text-sm">
        <span className="min-w-0 truncate" title={lever.name}>
          {lever.name.slice(lever.name.indexOf('.') + 1)}
        </span>
        <span className="tabular text-quiet text-xs">{lever.width} bit</span>
        <span className={clsx('ml-auto text-xs', overriding ? 'text-signal-deep' : 'text-quiet')}>
          {lever.enable === null ? 'drives a free signal' : overriding ? 'overrides its driver' : 'released'}
        </span>
      </div>
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void apply();
        }}
      >
        <span className={clsx('code text-lg', isLong ? 'w-full' : 'w-28 shrink-0')} data-testid="value">
          <Digits text={shown} label={lever.name} />
        </span>
        {lever.width === 1 ? (
          <>
            <Button disabled={disabled} onClick={() => onSet(0n)}>
              Set 0
            </Button>
            <Button disabled={disabled} onClick={() => onSet(1n)}>
              Set 1
            </Button>
          </>
        ) : (
          <>
            <TextInput
              size="normal"
              isCode
              className={isLong ? 'min-w-28 flex-1' : 'w-28'}
              title={`In ${RADIX_WORDS[radix]}, or with 0x, 0b or 0d in front`}
              value={text ?? ''}
              placeholder="new value"
              aria-label={`Value for ${lever.name}`}
              onChange={(event) => setText(event.target.value)}
            />
            <Button type="submit" disabled={disabled || text === null}>
              Set
            </Button>
          </>
        )}
        {lever.enable !== null && (
          <Button look="quiet" disabled={disabled || !overriding} onClick={() => onSet(null)}>
            Release
          </Button>
        )}
      </form>
    </div>
  );
}
