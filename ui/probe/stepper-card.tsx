import { useQuery } from '@tanstack/react-query';
import type { SignalInfo } from '../../core/build/index.ts';
import { DEFAULT_COMPARATORS, MOST_COMPARATORS, type StepperPlan } from '../../core/probes/index.ts';
import { counted } from '../../core/words.ts';
import { api, Checkbox, Select, useLive } from '../shared/index.ts';
import { Choice, Chosen, ClockRate, CoreHead, Settled } from './core-parts.tsx';

interface Props {
  readonly stepper: StepperPlan;
  readonly clocks: readonly string[];
  /** How fast each clock runs and could run, by its full name. */
  readonly rates: ReadonlyMap<string, string>;
  readonly known: ReadonlyMap<string, SignalInfo>;
  /** Signals that its condition may look at. */
  readonly candidates: readonly string[];
  readonly onChange: (change: Partial<StepperPlan>) => void;
  readonly onRemove: () => void;
}

const inside = (name: string): string => name.slice(name.indexOf('.') + 1);

/** A clock that is held and stepped under Drive. */
export function StepperCard({ stepper, clocks, rates, known, candidates, onChange, onRemove }: Props) {
  const { name, off = false, clock, held = false, signals = [], comparators = DEFAULT_COMPARATORS } = stepper;
  const more = candidates.filter((one) => !signals.includes(one));
  return (
    <div className={off ? 'opacity-60' : ''}>
      <CoreHead
        kind="Held clock"
        name={name}
        off={off}
        isTarget={false}
        onTarget={() => {}}
        onChange={onChange}
        onRemove={onRemove}
      />
      <Settled when="build">
        <Choice
          label="Clock"
          value={clock}
          options={clocks.filter((one) => one !== '')}
          onChoose={(next) => onChange({ clock: next })}
        />
        <ClockRate of={rates.get(clock)} />
        <Checkbox className="mt-1" checked={held} onChange={(event) => onChange({ held: event.target.checked })}>
          held from its first edge on
        </Checkbox>
        <p className="mt-2 text-quiet">Its condition looks at</p>
        <Chosen
          names={signals}
          known={known}
          onRemove={(one) => onChange({ signals: signals.filter((other) => other !== one) })}
        />
        {more.length > 0 && (
          <Select
            isCode
            className="mt-1 w-full"
            aria-label="Let the condition look at"
            value=""
            onChange={(event) => onChange({ signals: [...signals, event.target.value] })}
          >
            <option value="">add a signal</option>
            {more.map((one) => (
              <option key={one} value={one}>
                {inside(one)}
              </option>
            ))}
          </Select>
        )}
        {signals.length > 0 && (
          <Choice
            label="Comparators"
            value={String(comparators)}
            options={Array.from({ length: MOST_COMPARATORS }, (_, i) => String(i + 1))}
            onChoose={(next) => onChange({ comparators: Number(next) })}
          />
        )}
      </Settled>
      <Standstill clock={clock} />
    </div>
  );
}

/** What stands while the clock is held, and what goes on. */
function Standstill({ clock }: { readonly clock: string }) {
  const build = useLive('latest')?.latest?.id ?? 0;
  const { data } = useQuery({
    queryKey: ['standstill', build, clock],
    placeholderData: (before) => before,
    queryFn: () => api.probe.standstill.query({ clock }),
  });
  if (!data) return null;
  const { registers, memories, others, resets } = data;
  const goesOn = others.map(
    ({ clock: other, count }) => `${other === null ? 'logic-made clocks' : inside(other)} (${count})`,
  );
  return (
    <p className="mt-1 text-quiet text-xs" data-testid="standstill">
      Held, {counted(registers, 'register')}
      {memories > 0 ? ` and ${counted(memories, 'memory', 'memories')}` : ''} stand; the debug cores go on.{' '}
      {goesOn.length > 0 && `Other clocks go on: ${goesOn.join(', ')}. `}
      {resets > 0 && `${counted(resets, 'held register')} can be cleared by an asynchronous reset. `}
      Logic from pin to pin answers as ever.
    </p>
  );
}
