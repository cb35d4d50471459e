'use client';
import { clsx } from 'clsx';
import { RefreshCw } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { LeverMap, PanelMap } from '../../core/probes/index.ts';
import type { Problem } from '../../core/result.ts';
import { parseValue } from '../../core/trigger/index.ts';
import { useProbes } from '../design/index.ts';
import { Button, Empty, OtherBuild, ProblemNote, Section, send, StationHead, useLive } from '../shared/index.ts';

interface Reading {
  readonly gauges: Readonly<Record<string, string>>;
  readonly levers: Readonly<Record<string, { readonly value: string; readonly released: boolean }>>;
}

const INTERVALS = [
  ['off', 0],
  ['100 ms', 100],
  ['250 ms', 250],
  ['500 ms', 500],
  ['1 s', 1000],
  ['2 s', 2000],
] as const;

type Radix = 'hex' | 'dec' | 'bin';
const BASE: Readonly<Record<Radix, number>> = { hex: 16, dec: 10, bin: 2 };

export function DriveStation() {
  const state = useLive();
  const { probes, note } = useProbes();
  const panels = probes?.cores.filter((core): core is PanelMap => core.kind === 'panel') ?? [];
  const runs = probes !== null && state?.running?.fingerprint === probes.fingerprint;
  const [reading, setReading] = useState<Reading | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [interval, setInterval] = useState(500);
  const [radix, setRadix] = useState<Radix>('dec');
  const [reads, setReads] = useState(0);
  const exchange = useCallback(async (set: Readonly<Record<string, string | null>>): Promise<boolean> => {
    const answer = await send<{ reading: Reading }>('/api/drive', 'POST', { set });
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
        <Empty>{probes && state?.foreign ? 'The design that runs has' : 'The newest build has'} no panel. Choose levers and gauges under Probe, build, and load.</Empty>
      </>
    );
  return (
    <>
      <StationHead title="Drive" hint="Move levers, read gauges, on running hardware.">
        <label className="flex items-center gap-2 text-sm">
          <span className="text-quiet">Read every</span>
          <select className="h-8 border border-line bg-raised px-1" value={interval} onChange={(event) => setInterval(Number(event.target.value))} aria-label="Reading interval">
            {INTERVALS.map(([name, value]) => (
              <option key={name} value={value}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <select className="h-8 border border-line bg-raised px-1 text-sm" value={radix} onChange={(event) => setRadix(event.target.value as Radix)} aria-label="Radix">
          <option value="dec">decimal</option>
          <option value="hex">hexadecimal</option>
          <option value="bin">binary</option>
        </select>
        <Button disabled={!runs} onClick={() => exchange({})}>
          <RefreshCw aria-hidden className="size-4" /> Read now
        </Button>
      </StationHead>
      {note && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">{note}</p>}
      <OtherBuild wanted={probes?.fingerprint} what="these probes belong" />
      {problem && <ProblemNote problem={problem} />}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Section title="Levers" aside="you → design">
          {panels.every(({ levers }) => levers.length === 0) && <Empty>No lever in this build. Choose one under Probe.</Empty>}
          {panels.flatMap((panel) => panel.levers.map((lever) => ({ panel, lever }))).map(({ panel, lever }) => (
            <Lever key={`${panel.name} ${lever.name}`} lever={lever} now={reading?.levers[lever.name] ?? null} radix={radix} disabled={!runs} onSet={(value) => exchange({ [lever.name]: value })} />
          ))}
        </Section>
        <Section title="Gauges" aside={<span>design → you, <span className="tabular">{reads}</span> readings</span>}>
          {panels.every(({ gauges }) => gauges.length === 0) && <Empty>No gauge in this build. Choose one under Probe.</Empty>}
          <dl>
            {panels.flatMap((panel) => panel.gauges.map((gauge) => ({ panel, gauge }))).map(({ panel, gauge }) => (
              <div key={`${panel.name} ${gauge.name}`} className="flex items-baseline gap-3 border-line border-b py-1.5">
                <dt className="min-w-0 flex-1 truncate text-sm" title={panels.length > 1 ? `${gauge.name}, panel ${panel.name}` : gauge.name}>
                  {gauge.name.slice(gauge.name.indexOf('.') + 1)} <span className="tabular text-quiet text-xs">{gauge.width} bit</span>
                </dt>
                <dd className="code text-lg" data-testid={`gauge-${gauge.name}`}>
                  {show(reading?.gauges[gauge.name], gauge.width, radix)}
                </dd>
              </div>
            ))}
          </dl>
        </Section>
      </div>
    </>
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

function show(value: string | undefined, width: number, radix: Radix): string {
  if (value === undefined) return '–';
  const digits = radix === 'dec' ? 1 : Math.ceil(width / (radix === 'hex' ? 4 : 1));
  const text = BigInt(value).toString(BASE[radix]).toUpperCase().padStart(digits, '0');
  return radix === 'hex' && width > 1 ? `0x${text}` : text;
}

interface LeverProps {
  readonly lever: LeverMap;
  readonly now: { readonly value: string; readonly released: boolean } | null;
  readonly radix: Radix;
  readonly disabled: boolean;
  readonly onSet: (value: string | null) => Promise<boolean>;
}

function Lever({ lever, now, radix, disabled, onSet }: LeverProps) {
  const [text, setText] = useState<string | null>(null);
  const apply = async () => {
    if (text === null) return;
    const value = parseValue(text, lever.width);
    if (!value.ok) toast.error(value.error.message, { description: value.error.tryNext[0] });
    else if (await onSet(value.value.value.toString())) setText(null);
  };
  const overriding = lever.enable !== null && now !== null && !now.released;
  return (
    <div className="border-line border-b py-2" data-testid={`lever-${lever.name}`}>
      <div className="mb-1 flex items-baseline gap-2 text-sm">
        <span className="min-w-0 truncate" title={lever.name}>
          {lever.name.slice(lever.name.indexOf('.') + 1)}
        </span>
        <span className="tabular text-quiet text-xs">{lever.width} bit</span>
        <span className={clsx('ml-auto text-xs', overriding ? 'text-signal-deep' : 'text-quiet')}>{lever.enable === null ? 'drives a free signal' : overriding ? 'overrides its driver' : 'released'}</span>
      </div>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void apply();
        }}
      >
        <span className="code w-28 shrink-0 text-lg" data-testid="value">
          {now?.released ? '–' : show(now?.value, lever.width, radix)}
        </span>
        {lever.width === 1 ? (
          <>
            <Button disabled={disabled} onClick={() => onSet('0')}>
              Set 0
            </Button>
            <Button disabled={disabled} onClick={() => onSet('1')}>
              Set 1
            </Button>
          </>
        ) : (
          <>
            <input className="code h-8 w-28 border border-line bg-raised px-2 text-sm" value={text ?? ''} placeholder="new value" aria-label={`Value for ${lever.name}`} onChange={(event) => setText(event.target.value)} />
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
