'use client';
import { RefreshCw } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import {
  type ValueForm,
  type PanelMap,
  type PanelReading,
  parseValueIn,
  readingRate,
  type StepperMap,
  type TimedReading,
  withReading,
} from '../../../core/probes/index.ts';
import type { Problem } from '../../../core/result.ts';
import { useProbes } from '../../design/index.ts';
import {
  answerOf,
  api,
  Button,
  DRIVE_VIEWS,
  Empty,
  Field,
  OtherBuild,
  ProblemNote,
  Section,
  Select,
  StationHead,
  useLive,
  useRemembered,
  ViewLinks,
} from '../../shared/index.ts';
import { Gauges } from './gauges.tsx';
import { History } from './history.tsx';
import { Presets } from './presets.tsx';
import { kindsFor, Lever, type LeverKind } from './lever.tsx';
import { Stepper } from './stepper.tsx';

const INTERVALS = [
  ['off', 0],
  ['100 ms', 100],
  ['250 ms', 250],
  ['500 ms', 500],
  ['1 s', 1000],
  ['2 s', 2000],
] as const;

const LOOKS: { readonly radix: ValueForm; readonly interval: number; readonly most: number } = {
  ...{ radix: 'dec', interval: 500, most: 1000 },
};
const NO_KINDS: Readonly<Record<string, LeverKind>> = {};
const NO_TEXT: Readonly<Record<string, string>> = {};
const MOST_UNDO = 50;

type Changes = Readonly<Record<string, bigint | null>>;

export function PanelView({ hint }: { readonly hint: string }) {
  const state = useLive('running', 'foreign');
  const { probes, note } = useProbes();
  const panels = probes?.cores.filter((core): core is PanelMap => core.kind === 'panel') ?? [];
  const steppers = probes?.cores.filter((core): core is StepperMap => core.kind === 'stepper') ?? [];
  const runs = probes !== null && state?.running?.fingerprint === probes.fingerprint;
  const [looks, setLooks] = useRemembered('drive-panel', LOOKS);
  const { radix, interval, most } = looks;
  const [forms, setForms] = useForms();
  const formOf = (name: string): ValueForm => forms[name] ?? radix;
  const { reading, kept, reads, problem, pending, exchange, tell } = useExchange(most);
  useLiveReading(runs && panels.length > 0 ? interval : 0, exchange);
  const head = (
    <>
      <StationHead title="Drive" hint={hint}>
        {panels.length > 0 && <HeadTools {...{ interval, radix, runs, exchange, setLooks }} />}
      </StationHead>
      <ViewLinks station="Drive" views={DRIVE_VIEWS} current="panel" />
      {note && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">{note}</p>}
    </>
  );
  if (panels.length + steppers.length === 0)
    return (
      <>
        {head}
        <Empty>
          {probes && state?.foreign ? 'The design that runs has' : 'The newest build has'} no panel. Choose levers and
          gauges under Probe, build, and load.
        </Empty>
      </>
    );
  return (
    <>
      {head}
      <OtherBuild wanted={probes?.fingerprint} what="these probes belong" />
      {problem && <ProblemNote problem={problem} />}
      {steppers.map((stepper) => (
        <Stepper
          key={stepper.name}
          stepper={stepper}
          disabled={!runs}
          onMoved={() => panels.length > 0 && void exchange({})}
          onProblem={tell}
        />
      ))}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <Levers {...{ panels, reading, formOf, forms, pending, exchange }} onForm={setForms} disabled={!runs} />
        <Gauges
          reads={reads}
          rate={readingRate(kept)}
          panels={panels}
          reading={reading}
          formOf={formOf}
          forms={forms}
          onForm={setForms}
          onStop={() => setLooks({ interval: 0 })}
        />
      </div>
      <History kept={kept} most={most} onMost={(next) => setLooks({ most: next })} panels={panels} formOf={formOf} />
    </>
  );
}

interface HeadToolsProps {
  readonly interval: number;
  readonly radix: ValueForm;
  readonly runs: boolean;
  readonly exchange: (set: Changes) => Promise<boolean>;
  readonly setLooks: (change: Partial<typeof LOOKS>) => void;
}

function HeadTools({ interval, radix, runs, exchange, setLooks }: HeadToolsProps) {
  return (
    <>
      <Field name="Read every">
        <Select
          size="normal"
          value={interval}
          onChange={(event) => setLooks({ interval: Number(event.target.value) })}
          aria-label="Reading interval"
        >
          {INTERVALS.map(([name, value]) => (
            <option key={name} value={value}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
      <Select size="normal" value={radix} onPick={(next) => setLooks({ radix: next })} aria-label="Radix">
        <option value="dec">decimal</option>
        <option value="hex">hexadecimal</option>
        <option value="bin">binary</option>
      </Select>
      <Button disabled={!runs} onClick={() => exchange({})}>
        <RefreshCw aria-hidden className="size-4" /> Read now
      </Button>
    </>
  );
}

interface LeversProps {
  readonly panels: readonly PanelMap[];
  readonly reading: PanelReading | null;
  readonly formOf: (name: string) => ValueForm;
  readonly forms: Readonly<Record<string, ValueForm>>;
  readonly onForm: (name: string, form: ValueForm | null) => void;
  readonly disabled: boolean;
  readonly pending: ReadonlySet<string>;
  readonly exchange: (set: Changes, cycles?: number) => Promise<boolean>;
}

/** All levers; several that are typed can be set in one go, and what was set can be taken back. */
function Levers({ panels, reading, formOf, forms, onForm, disabled, pending, exchange }: LeversProps) {
  const [kinds, setKinds] = useRemembered('drive-lever-kinds', NO_KINDS);
  const [typed, setTyped] = useState(NO_TEXT);
  const [undo, setUndo] = useState<readonly Changes[]>([]);
  const levers = panels.flatMap((panel) => panel.levers.map((lever) => ({ panel, lever })));
  const set = async (changes: Changes): Promise<boolean> => {
    const before = Object.keys(changes).flatMap((name) => {
      const was = reading?.levers[name];
      return was ? [[name, was.released ? null : was.value] as const] : [];
    });
    const done = await exchange(changes);
    if (done && before.length > 0) setUndo((list) => [...list.slice(1 - MOST_UNDO), Object.fromEntries(before)]);
    return done;
  };
  // Behind a pulse all is as it was: there is nothing to take back.
  const pulse = (name: string, value: bigint | null, cycles: number) => exchange({ [name]: value }, cycles);
  const takeBack = async () => {
    const last = undo.at(-1);
    if (last && (await exchange(last))) setUndo((list) => list.slice(0, -1));
  };
  const waiting = levers.filter(({ lever }) => typed[lever.name] !== undefined);
  const setAll = async () => {
    const changes: Record<string, bigint> = {};
    for (const { lever } of waiting) {
      const value = parseValueIn(typed[lever.name] ?? '', lever, formOf(lever.name));
      if (!value.ok)
        return void toast.error(`${lever.name}: ${value.error.message}`, { description: value.error.tryNext[0] });
      changes[lever.name] = value.value;
    }
    if (await set(changes)) setTyped(NO_TEXT);
  };
  const overriding = levers.filter(
    ({ lever }) => lever.enable !== null && reading?.levers[lever.name]?.released === false,
  );
  return (
    <Section
      title="Levers"
      aside={
        <>
          {waiting.length > 1 && (
            <Button className="h-7" disabled={disabled} onClick={setAll}>
              Set {waiting.length} together
            </Button>
          )}
          <Button look="quiet" className="h-7" disabled={disabled || undo.length === 0} onClick={takeBack}>
            Undo
          </Button>
          <Button
            look="quiet"
            className="h-7"
            disabled={disabled || overriding.length === 0}
            onClick={() => set(Object.fromEntries(overriding.map(({ lever }) => [lever.name, null])))}
          >
            Release all
          </Button>
          <span>you → design</span>
        </>
      }
      className="min-w-0"
    >
      {levers.length === 0 && <Empty>No lever in this build. Choose one under Probe.</Empty>}
      {levers.length > 0 && (
        <Presets levers={levers.map(({ lever }) => lever)} reading={reading} disabled={disabled} onSet={set} />
      )}
      {levers.map(({ panel, lever }) => {
        const kind = kinds[lever.name];
        return (
          <Lever
            key={`${panel.name} ${lever.name}`}
            lever={lever}
            now={reading?.levers[lever.name] ?? null}
            radix={formOf(lever.name)}
            form={forms[lever.name] ?? null}
            onForm={(form) => onForm(lever.name, form)}
            disabled={disabled}
            text={typed[lever.name] ?? null}
            onText={(text) =>
              setTyped(({ [lever.name]: _, ...rest }) => (text === null ? rest : { ...rest, [lever.name]: text }))
            }
            kind={kind !== undefined && kindsFor(lever.width, panel.pulse).includes(kind) ? kind : 'value'}
            onKind={(next) => setKinds({ [lever.name]: next })}
            isPending={pending.has(lever.name)}
            hasPulse={panel.pulse}
            onSet={(value, cycles) =>
              cycles === undefined ? set({ [lever.name]: value }) : pulse(lever.name, value, cycles)
            }
          />
        );
      })}
    </Section>
  );
}

const NO_FORMS: { readonly forms: Readonly<Record<string, ValueForm>> } = { forms: {} };

/** Forms that were chosen for single signals; all others are written as the head says. */
function useForms() {
  const [{ forms }, setKept] = useRemembered('drive-forms', NO_FORMS);
  const set = (name: string, form: ValueForm | null) => {
    const { [name]: _, ...others } = forms;
    setKept({ forms: form === null ? others : { ...others, [name]: form } });
  };
  return [forms, set] as const;
}

/**
 * What is told to the panel and what it tells, one exchange at a time: what is set meanwhile goes with the next one,
 * the newest value of each lever.
 */
function useExchange(most: number) {
  const [kept, setKept] = useState<readonly TimedReading[]>([]);
  const [reads, setReads] = useState(0);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [pending, setPending] = useState<ReadonlySet<string>>(new Set());
  const queue = useRef<{ next: Record<string, bigint | null>; running: Promise<boolean> | null }>({
    ...{ next: {}, running: null },
  });
  const limit = useRef(most);
  limit.current = most;
  const exchange = useCallback(async (set: Changes, cycles?: number): Promise<boolean> => {
    const { current: on } = queue;
    // A pulse goes by itself: what else is set is to stay.
    while (cycles !== undefined && on.running) await on.running;
    if (cycles === undefined) Object.assign(on.next, set);
    if (Object.keys(set).length > 0) setPending((before) => new Set([...before, ...Object.keys(set)]));
    // Whoever waits for the one that runs goes together with the others that do.
    if (on.running) await on.running;
    on.running ??= (async () => {
      const next = cycles === undefined ? on.next : set;
      if (cycles === undefined) on.next = {};
      const answer = await answerOf(api.drive.move.mutate({ set: next, ...(cycles === undefined ? {} : { cycles }) }));
      on.running = null;
      setPending((before) => new Set([...before].filter((name) => !(name in next))));
      if (!answer.ok) {
        setProblem(answer.problem);
        return false;
      }
      const one = { at: Date.now(), reading: answer.value.reading };
      setKept((before) => withReading(before, one, limit.current));
      setReads((n) => n + 1);
      setProblem(null);
      return true;
    })();
    return on.running;
  }, []);
  return { reading: kept.at(-1)?.reading ?? null, kept, reads, problem, pending, exchange, tell: setProblem };
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
