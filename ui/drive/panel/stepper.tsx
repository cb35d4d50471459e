'use client';
import { clsx } from 'clsx';
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { StepOrder } from '../../../core/operations/index.ts';
import type { StepperMap, StepperState } from '../../../core/probes/index.ts';
import type { Problem } from '../../../core/result.ts';
import { answerOf, api, Button, CountInput, TextInput, useRemembered } from '../../shared/index.ts';

const LOOK_MILLISECONDS = 400;
const MOST = 2 ** 32 - 1;
const FRESH = { count: '10', condition: '', most: '1000000' };

interface Props {
  readonly stepper: StepperMap;
  readonly disabled: boolean;
  /** The clock has moved, or was let go: what is read may be otherwise now. */
  readonly onMoved: () => void;
  readonly onProblem: (problem: Problem | null) => void;
}

/** A clock that can be held: how it stands, and steps by number or until something holds. */
export function Stepper({ stepper, disabled, onMoved, onProblem }: Props) {
  const { state, made, order } = useStepper(stepper, disabled, onMoved, onProblem);
  const [typed, setTyped] = useRemembered(`drive-stepper-${stepper.name}`, FRESH);
  const number = (text: string): number | null => (/^\d+$/.test(text) && Number(text) <= MOST ? Number(text) : null);
  const steps = (text: string, give: (count: number) => StepOrder) => {
    const count = number(text);
    if (count === null) toast.error(`"${text}" is no number of steps.`, { description: `Write one up to ${MOST}.` });
    else order(give(count));
  };
  return (
    <div className="mb-4 border border-line bg-raised px-3 py-2" data-testid={`stepper-${stepper.name}`}>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3 text-sm">
        <span className="code">{stepper.clock.slice(stepper.clock.indexOf('.') + 1)}</span>
        <Standing state={state} />
        <span className="tabular text-quiet" data-testid="steps-made">
          {made.toLocaleString('en')} {made === 1 ? 'step' : 'steps'} since it was held
        </span>
        {state && stepper.comparators > 0 && state.holds && <span className="text-quiet">the condition holds</span>}
        <span className="ml-auto flex gap-2">
          <Button
            disabled={disabled || (state !== null && !state.running && !state.stepping)}
            onClick={() => order({ way: 'hold' })}
          >
            Hold
          </Button>
          <Button disabled={disabled || state?.running === true} onClick={() => order({ way: 'run' })}>
            Let go
          </Button>
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-2 text-sm">
        <Button disabled={disabled} onClick={() => order({ way: 'step', count: 1 })}>
          Step
        </Button>
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            steps(typed.count, (count) => ({ way: 'step', count }));
          }}
        >
          <CountInput
            className="w-24"
            aria-label="Number of steps"
            value={typed.count}
            onText={(count) => setTyped({ count })}
          />
          <Button type="submit" disabled={disabled}>
            steps
          </Button>
        </form>
        {stepper.comparators > 0 && (
          <form
            className="flex min-w-0 flex-1 items-center gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              steps(typed.most, (most) => ({ way: 'until', condition: typed.condition, most }));
            }}
          >
            <Button type="submit" disabled={disabled || typed.condition.trim() === ''}>
              Step until
            </Button>
            <TextInput
              size="normal"
              isCode
              className="min-w-32 flex-1"
              aria-label="Condition to step until"
              placeholder={`${stepper.signals[0]?.name.split('.').at(-1) ?? 'level'} == 3`}
              value={typed.condition}
              onChange={(event) => setTyped({ condition: event.target.value })}
            />
            <span className="text-quiet">within</span>
            <CountInput
              className="w-24"
              aria-label="Most steps"
              value={typed.most}
              onText={(most) => setTyped({ most })}
            />
          </form>
        )}
      </div>
    </div>
  );
}

function Standing({ state }: { readonly state: StepperState | null }) {
  const word = state === null ? 'not asked' : state.running ? 'runs' : state.stepping ? 'steps' : 'held';
  return (
    <span className={clsx('font-bold', word === 'held' && 'text-signal-deep')} data-testid="stepper-state">
      {word}
    </span>
  );
}

/** How a stepper stands, asked again and again while something moves; and the steps made since it was held last. */
function useStepper(
  { name }: StepperMap,
  disabled: boolean,
  onMoved: () => void,
  onProblem: (problem: Problem | null) => void,
) {
  const [state, setState] = useState<StepperState | null>(null);
  const [made, setMade] = useState(0);
  /** Steps that were asked for and are not counted yet. */
  const asked = useRef<number | null>(null);
  const took = useRef({ onMoved, onProblem });
  took.current = { onMoved, onProblem };
  const ask = useCallback(
    async (order: StepOrder | null) => {
      const answer = await answerOf(api.drive.step.mutate({ stepper: name, order }));
      if (!answer.ok) return took.current.onProblem(answer.problem);
      took.current.onProblem(null);
      setState(answer.value);
      const { running, stepping, left } = answer.value;
      if (running || stepping || asked.current === null) return;
      const count = asked.current - left;
      asked.current = null;
      setMade((before) => before + count);
      took.current.onMoved();
    },
    [name],
  );
  const order = (what: StepOrder) => {
    if (what.way === 'run') setMade(0);
    if (what.way === 'step') asked.current = what.count;
    if (what.way === 'until') asked.current = what.most;
    void ask(what).then(() => took.current.onMoved());
  };
  const moves = state === null || state.stepping;
  useEffect(() => {
    if (disabled || !moves) return;
    let timer: ReturnType<typeof setTimeout>;
    let ended = false;
    const turn = async () => {
      await ask(null);
      if (!ended) timer = setTimeout(turn, LOOK_MILLISECONDS);
    };
    void turn();
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [disabled, moves, ask]);
  return { state, made, order };
}
