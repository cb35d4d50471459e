import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { type ValueForm, type LeverMap, parseValues } from '../../../core/probes/index.ts';
import { Button, TextInput, useRemembered } from '../../shared/index.ts';

const FRESH = { values: '0..15', period: '500' };
const LEAST_MILLISECONDS = 50;

interface Props {
  readonly lever: LeverMap;
  readonly radix: ValueForm;
  readonly disabled: boolean;
  readonly onSet: (value: bigint) => Promise<boolean>;
}

/** A lever that goes through a list or a ramp by itself, again and again, one value a period. */
export function ByItself({ lever, radix, disabled, onSet }: Props) {
  const [kept, setKept] = useRemembered(`drive-list-${lever.name}`, FRESH);
  const [running, setRunning] = useState<{ readonly values: readonly bigint[]; readonly period: number } | null>(null);
  const set = useRef(onSet);
  set.current = onSet;
  useEffect(() => {
    if (running === null || disabled) return;
    let [at, ended] = [0, false];
    let timer: ReturnType<typeof setTimeout>;
    const turn = async () => {
      const done = await set.current(running.values[at++ % running.values.length] ?? 0n);
      if (!done) setRunning(null);
      else if (!ended) timer = setTimeout(turn, running.period);
    };
    void turn();
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [running, disabled]);
  const start = () => {
    const values = parseValues(kept.values, lever, radix);
    const period = Number(kept.period);
    if (!values.ok) toast.error(values.error.message, { description: values.error.tryNext[0] });
    else if (!(period >= LEAST_MILLISECONDS)) toast.error(`A period is ${LEAST_MILLISECONDS} ms or more.`);
    else setRunning({ values: values.value, period });
  };
  return (
    <form
      className="flex min-w-0 flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        if (running) setRunning(null);
        else start();
      }}
    >
      <TextInput
        size="normal"
        isCode
        className="w-32"
        aria-label={`Values for ${lever.name}, one after another`}
        title="Values and ramps, such as 1, 2, 0..100 by 5"
        value={kept.values}
        disabled={running !== null}
        onChange={(event) => setKept({ values: event.target.value })}
      />
      <span className="text-quiet">every</span>
      <TextInput
        size="normal"
        className="tabular w-16 text-right"
        aria-label={`Period for ${lever.name} in milliseconds`}
        value={kept.period}
        disabled={running !== null}
        onChange={(event) => setKept({ period: event.target.value })}
      />
      <span className="text-quiet">ms</span>
      <Button type="submit" disabled={disabled}>
        {running ? 'Stop' : 'Start'}
      </Button>
    </form>
  );
}
