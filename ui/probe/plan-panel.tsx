'use client';
import { Plus } from 'lucide-react';
import type { SignalInfo } from '../../core/build/index.ts';
import {
  DEFAULT_COMPARATORS,
  DEFAULT_STAGES,
  MOST_COMPARATORS,
  MOST_SEGMENTS,
  MOST_STAGES,
  type PanelPlan,
  type ProbePlan,
  partOf,
  type RecorderPlan,
} from '../../core/probes/index.ts';
import { Button, Checkbox, TextButton } from '../shared/index.ts';
import { Choice, Chosen, ClockRate, CoreHead, Settled } from './core-parts.tsx';
import { Cost } from './cost.tsx';
import {
  candidatesFor,
  foreignSignals,
  newPanel,
  newRecorder,
  newStepper,
  proposedClock,
  setPanel,
  setRecorder,
  setSteppers,
  type Target,
} from './plan-edit.ts';
import { StepperCard } from './stepper-card.tsx';

const DEPTHS = [64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384];

interface Props {
  readonly plan: ProbePlan;
  /** What other plans in the build add. */
  readonly others: ProbePlan;
  readonly target: Target;
  readonly clocks: readonly string[];
  /** How fast each clock runs and could run, by its full name. */
  readonly rates: ReadonlyMap<string, string>;
  readonly known: ReadonlyMap<string, SignalInfo>;
  readonly onTarget: (target: Target) => void;
  readonly onPlan: (plan: ProbePlan) => void;
}

/** Recorders and panels of the plan. One of each takes what is chosen in the table. */
export function PlanPanel({ plan, others, target, clocks, rates, known, onTarget, onPlan }: Props) {
  const { steppers = [] } = plan;
  return (
    <section className="min-h-0 overflow-auto pr-1 text-sm" aria-label="Probe plan">
      <Cost plan={plan} others={others} onPlan={onPlan} />
      {plan.recorders.map((recorder, at) => (
        <Recorder
          key={recorder.name}
          recorder={recorder}
          clocks={clocks}
          rates={rates}
          known={known}
          isHeld={steppers.some((one) => !one.off && one.clock === recorder.clock)}
          isTarget={at === target.recorder}
          onTarget={() => onTarget({ ...target, recorder: at })}
          onChange={(change) => onPlan(setRecorder(plan, at, change))}
        />
      ))}
      {plan.recorders.length === 0 && <p className="py-2 text-quiet">Press Record on a signal.</p>}
      {plan.recorders.length > 0 && (
        <More
          kind="Recorder"
          onMore={() => {
            const first = plan.recorders[target.recorder]?.signals[0];
            if (first) {
              onTarget({ ...target, recorder: plan.recorders.length });
              onPlan({
                ...plan,
                recorders: [...plan.recorders, newRecorder(plan, plan.recorders[0]?.clock ?? clocks[0] ?? '', [first])],
              });
            }
          }}
        />
      )}
      {plan.panels.map((panel, at) => (
        <Panel
          key={panel.name}
          panel={panel}
          clocks={clocks}
          rates={rates}
          known={known}
          isTarget={at === target.panel}
          onTarget={() => onTarget({ ...target, panel: at })}
          onChange={(change) => onPlan(setPanel(plan, at, change))}
          onRemove={() => onPlan({ ...plan, panels: plan.panels.filter((_, i) => i !== at) })}
        />
      ))}
      {plan.panels.length === 0 ? (
        <p className="py-2 text-quiet">
          Press Gauge or Lever on a signal. A lever on a driven signal overrides it until released.
        </p>
      ) : (
        <More
          kind="Panel"
          onMore={() => {
            onTarget({ ...target, panel: plan.panels.length });
            onPlan({ ...plan, panels: [...plan.panels, newPanel(plan, plan.panels[0]?.clock ?? clocks[0] ?? '')] });
          }}
        />
      )}
      {steppers.map((stepper, at) => (
        <StepperCard
          key={stepper.name}
          stepper={stepper}
          clocks={clocks}
          rates={rates}
          known={known}
          candidates={candidatesFor(plan, stepper)}
          onChange={(change) =>
            onPlan(
              setSteppers(
                plan,
                steppers.map((one, i) => (i === at ? { ...one, ...change } : one)),
              ),
            )
          }
          onRemove={() =>
            onPlan(
              setSteppers(
                plan,
                steppers.filter((_, i) => i !== at),
              ),
            )
          }
        />
      ))}
      {clocks.some((one) => one !== '') && (
        <More
          kind="Held clock"
          title="Holds a clock of the design, and lets so many of its edges through"
          onMore={() => onPlan(setSteppers(plan, [...steppers, newStepper(plan, clocks[0] ?? '')]))}
        />
      )}
    </section>
  );
}

interface MoreProps {
  readonly kind: string;
  readonly title?: string;
  readonly onMore: () => void;
}

/** One more core of a kind. */
const More = ({ kind, title, onMore }: MoreProps) => (
  <Button look="quiet" className="h-7 px-0!" title={title} onClick={onMore}>
    <Plus aria-hidden className="size-4" /> {kind}
  </Button>
);

interface RecorderProps {
  readonly recorder: RecorderPlan;
  /** A stepper of the plan holds its clock. */
  readonly isHeld: boolean;
  readonly clocks: readonly string[];
  /** How fast each clock runs and could run, by its full name. */
  readonly rates: ReadonlyMap<string, string>;
  readonly known: ReadonlyMap<string, SignalInfo>;
  readonly isTarget: boolean;
  readonly onTarget: () => void;
  readonly onChange: (change: Partial<RecorderPlan>) => void;
}

const upTo = (most: number): string[] => Array.from({ length: most }, (_, i) => String(i + 1));

function Recorder({ recorder, isHeld, clocks, rates, known, isTarget, onTarget, onChange }: RecorderProps) {
  const {
    name,
    off = false,
    clock,
    depth,
    signals,
    comparators = DEFAULT_COMPARATORS,
    stages = DEFAULT_STAGES,
    qualifier = false,
    segments = 1,
    synchronised = [],
    atTrigger = [],
  } = recorder;
  const foreign = foreignSignals(recorder, known);
  const proposed = proposedClock(signals, known);
  const bitsOf = (names: readonly string[]) =>
    names.reduce((sum, one) => sum + (partOf((name) => known.get(name), one)?.width ?? 0), 0);
  const bits = bitsOf(signals);
  return (
    <div className={off ? 'opacity-60' : ''}>
      <CoreHead
        kind="Recorder"
        name={name}
        off={off}
        isTarget={isTarget}
        onTarget={onTarget}
        onChange={(change) => onChange(change as Partial<RecorderPlan>)}
        onRemove={() => onChange({ signals: [] })}
      />
      <RecorderSettings
        clock={clock}
        clocks={clocks}
        rates={rates}
        onChange={onChange}
        proposed={proposed}
        depth={depth}
        comparators={comparators}
        stages={stages}
        segments={segments}
        qualifier={qualifier}
        signals={signals}
        known={known}
        synchronised={synchronised}
      />
      {foreign.length > 0 && (
        <div className="mt-1 border-doubt border-l-4 bg-raised px-2 py-1 text-xs">
          {foreign.map((one) => one.split('.').at(-1)).join(', ')} {foreign.length === 1 ? 'belongs' : 'belong'} to
          another clock: sampled with {clock.split('.').at(-1)} {foreign.length === 1 ? 'it' : 'they'} may read wrong
          where {foreign.length === 1 ? 'it changes' : 'they change'}.
          <TextButton
            className="ml-1 text-signal-deep"
            onClick={() => onChange({ synchronised: [...synchronised, ...foreign] })}
          >
            Insert a synchroniser
          </TextButton>
        </div>
      )}
      {synchronised.length > 0 && (
        <p className="mt-1 text-quiet text-xs">
          {synchronised.map((one) => one.split('.').at(-1)).join(', ')} come in through two registers, two samples late.{' '}
          <TextButton onClick={() => onChange({ synchronised: undefined })}>Without</TextButton>
        </p>
      )}
      {atTrigger.length > 0 && (
        <div className="mt-1 text-xs">
          <p className="tabular text-quiet">{bitsOf(atTrigger)} bits read once, at the trigger:</p>
          <Chosen
            names={atTrigger}
            known={known}
            onRemove={(one) => onChange({ atTrigger: atTrigger.filter((other) => other !== one) })}
          />
        </div>
      )}
      <p className="tabular mt-1 text-quiet text-xs">
        {bits} bits a sample{isHeld ? ', two more for what is let through of its clock' : ''}. Free while it runs:
        condition, what is stored, trigger position, segments used.
      </p>
    </div>
  );
}

interface RecorderSettingsProps {
  readonly clock: string;
  readonly clocks: readonly string[];
  /** How fast each clock runs and could run, by its full name. */
  readonly rates: ReadonlyMap<string, string>;
  readonly onChange: (change: Partial<RecorderPlan>) => void;
  readonly proposed: string | null;
  readonly depth: number;
  readonly comparators: number;
  readonly stages: number;
  readonly segments: number;
  readonly qualifier: boolean;
  readonly signals: string[];
  readonly known: ReadonlyMap<string, SignalInfo>;
  readonly synchronised: string[];
}

function RecorderSettings({
  clock,
  clocks,
  rates,
  onChange,
  proposed,
  depth,
  comparators,
  stages,
  segments,
  qualifier,
  signals,
  known,
  synchronised,
}: RecorderSettingsProps) {
  return (
    <Settled when="build">
      <Choice label="Sampling clock" value={clock} options={clocks} onChoose={(next) => onChange({ clock: next })} />
      <ClockRate of={rates.get(clock)} />
      {proposed !== null && !clock.endsWith(`.${proposed}`) && (
        <TextButton
          className="text-doubt text-xs"
          onClick={() => onChange({ clock: `${clock.slice(0, clock.lastIndexOf('.'))}.${proposed}` })}
        >
          Most of its signals belong to {proposed}: sample with it
        </TextButton>
      )}
      <Choice
        label="Depth"
        value={String(depth)}
        options={DEPTHS.map(String)}
        onChoose={(next) => onChange({ depth: Number(next) })}
        unit="samples"
      />
      <Choice
        label="Comparators"
        value={String(comparators)}
        options={upTo(MOST_COMPARATORS)}
        onChoose={(next) => onChange({ comparators: Number(next) })}
        unit="at once"
      />
      <Choice
        label="Stages"
        value={String(stages)}
        options={upTo(MOST_STAGES)}
        onChoose={(next) => onChange({ stages: Number(next) })}
      />
      <Choice
        label="Segments"
        value={String(segments)}
        options={Array.from({ length: Math.log2(MOST_SEGMENTS) + 1 }, (_, i) => String(2 ** i))}
        onChoose={(next) => onChange({ segments: Number(next) === 1 ? undefined : Number(next) })}
        unit="at most"
      />
      <label className="mt-1 flex items-center gap-2">
        <span className="w-24 shrink-0 text-quiet">Qualifier</span>
        <Checkbox
          aria-label="Qualifier"
          checked={qualifier}
          onChange={(event) => onChange({ qualifier: event.target.checked ? true : undefined })}
        />
        <span className="text-quiet text-xs">stores chosen samples with their time</span>
      </label>
      <Chosen
        names={signals}
        known={known}
        onRemove={(one) =>
          onChange({
            signals: signals.filter((other) => other !== one),
            synchronised: synchronised.filter((other) => other !== one),
          })
        }
      />
    </Settled>
  );
}

interface PanelProps extends Omit<RecorderProps, 'recorder' | 'isHeld' | 'onChange'> {
  readonly panel: PanelPlan;
  readonly onChange: (change: Partial<PanelPlan>) => void;
  readonly onRemove: () => void;
}

function Panel({ panel, clocks, rates, known, isTarget, onTarget, onChange, onRemove }: PanelProps) {
  const { name, off = false, clock, levers, gauges, pulse = false, activity = false } = panel;
  return (
    <div className={off ? 'opacity-60' : ''}>
      <CoreHead
        kind="Panel"
        name={name}
        off={off}
        isTarget={isTarget}
        onTarget={onTarget}
        onChange={(change) => onChange(change as Partial<PanelPlan>)}
        onRemove={onRemove}
      />
      <Settled when="build">
        <Choice
          label="Clock"
          value={clock}
          options={[...clocks.filter((one) => one !== ''), '']}
          none="TCK"
          onChoose={(next) => onChange({ clock: next })}
        />
        <ClockRate of={rates.get(clock)} />
        <Checkbox className="mt-1" checked={pulse} onChange={(event) => onChange({ pulse: event.target.checked })}>
          levers can be set for so many cycles
        </Checkbox>
        <Checkbox checked={activity} onChange={(event) => onChange({ activity: event.target.checked })}>
          gauges say what rose or fell meanwhile
        </Checkbox>
        {levers.length > 0 && <p className="mt-2 text-quiet">Levers, you to design</p>}
        <Chosen
          names={levers}
          known={known}
          onRemove={(one) => onChange({ levers: levers.filter((other) => other !== one) })}
        />
        {gauges.length > 0 && <p className="mt-2 text-quiet">Gauges, design to you</p>}
        <Chosen
          names={gauges}
          known={known}
          onRemove={(one) => onChange({ gauges: gauges.filter((other) => other !== one) })}
        />
      </Settled>
      <p className="mt-1 text-quiet text-xs">Free while it runs: lever values, which levers override.</p>
    </div>
  );
}
