'use client';
import { clsx } from 'clsx';
import { useEffect, useState } from 'react';
import type { Cause, Explanation } from '../../core/replay/index.ts';
import { freshId, leavesOf, wholeRow } from '../../core/wave/index.ts';
import { useOpenSchematic, useOpenSource } from '../design/index.ts';
import { Button, Empty, TextButton } from '../shared/index.ts';
import { type OpenRecord, timeText, type Waves } from '../wave/index.ts';
import { inside } from './words.ts';

interface Props {
  readonly record: OpenRecord;
  readonly waves: Waves;
}

/** The signal of the row that was chosen; null where none or several are, or it is made of several. */
function chosenSignal({ view, chosen }: Waves): string | null {
  const rows = leavesOf(view.rows).filter(({ id }) => chosen.has(id));
  const [row] = rows;
  return rows.length === 1 && row?.kind === 'signal' && row.parts.length === 1 ? (row.parts[0]?.signal ?? null) : null;
}

/** Why the chosen signal is what it is at the cursor, back through time, a step a click. */
export function WhyPanel({ record, waves }: Props) {
  const [steps, setSteps] = useState<readonly Explanation[]>([]);
  const signal = chosenSignal(waves);
  const { tick } = waves;
  const { desk } = record;
  const isThis = steps.some((step) => step.signal === signal && step.tick === tick);
  useEffect(() => {
    if (signal === null || isThis) return;
    let isGone = false;
    void desk.ask('why', { signal: signal.replace(/^simulation: /, ''), tick }).then((found) => {
      if (!isGone) setSteps(found ? [found] : []);
    });
    return () => {
      isGone = true;
    };
  }, [desk, signal, tick, isThis]);
  const follow = async (at: number, cause: Cause) => {
    const found = await desk.ask('why', { signal: cause.signal, tick: cause.tick });
    if (!found) return;
    setSteps([...steps.slice(0, at + 1), found]);
    show(waves, record, cause);
  };
  if (signal === null && steps.length === 0)
    return <Empty>Choose a row and put the cursor on a value: what decided it is told, step by step back.</Empty>;
  return (
    <ol className="flex flex-col gap-2 text-sm" aria-label="Why">
      {steps.map((step, i) => (
        <Step
          key={`${step.signal} ${step.tick}`}
          step={step}
          called={(name, text) => nameOfValue(record, name, text)}
          isLast={i === steps.length - 1}
          axis={waves.axis}
          onCause={(cause) => void follow(i, cause)}
        />
      ))}
    </ol>
  );
}

/** Moves the cursor there, with the signal's row in sight and chosen. */
function show(waves: Waves, { opened }: OpenRecord, { signal, tick }: Cause): void {
  const rows = leavesOf(waves.view.rows);
  const row = rows.find((one) => one.kind === 'signal' && one.parts.length === 1 && one.parts[0]?.signal === signal);
  const known = opened.signals.find(({ name }) => name === signal);
  if (row) waves.setChosen(new Set([row.id]));
  else if (known) {
    const id = freshId(waves.view.rows, signal);
    waves.setRows([...waves.view.rows, wholeRow(known, id)]);
    waves.setChosen(new Set([id]));
  }
  waves.go(tick);
}

const HOW: Readonly<Record<Explanation['how'], string>> = {
  logic: 'decided at the same moment by',
  edge: 'taken at the clock edge before, from',
  reset: 'held by an active reset:',
  'edge-of-design': 'comes from outside, or from what the design does not decide.',
  start: 'stood before the record begins: nothing is known of how it came.',
  constant: 'is always so.',
};

interface StepProps {
  readonly step: Explanation;
  /** What the source calls a value of a signal; null where it has no name. */
  readonly called: (signal: string, digits: string) => string | null;
  readonly isLast: boolean;
  readonly axis: Waves['axis'];
  readonly onCause: (cause: Cause) => void;
}

function Step({ step, called, isLast, axis, onCause }: StepProps) {
  const openSource = useOpenSource();
  const openSchematic = useOpenSchematic();
  const { at } = step;
  return (
    <li className={clsx('border-l-4 bg-raised px-3 py-1.5', isLast ? 'border-signal' : 'border-line')}>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className="code text-xs">{inside(step.signal)}</span>
        <Value text={step.value} name={called(step.signal, step.value)} />
        <span className="tabular text-quiet">
          at {timeText(axis, step.tick)}
          {step.since < step.tick && `, since ${timeText(axis, step.since)}`}
        </span>
        <span>{HOW[step.how]}</span>
        <span className="ml-auto flex gap-3">
          {at && (
            <TextButton className="text-quiet" onClick={() => openSource({ file: at.file, line: at.line })}>
              {at.file}, line {at.line}
            </TextButton>
          )}
          <TextButton className="text-quiet" onClick={() => openSchematic({ cone: step.signal })}>
            Drawing
          </TextButton>
        </span>
      </div>
      {step.causes.length > 0 && (
        <ul className="mt-1 flex flex-wrap gap-1.5">
          {step.causes.map((cause) => (
            <li key={cause.signal}>
              <Button
                className="h-7 px-2!"
                title={`${cause.role === 'chose' ? 'Chose which value' : 'Gave the value'}, at ${timeText(axis, cause.tick)}`}
                onClick={() => onCause(cause)}
              >
                <span className="text-quiet text-xs">{cause.role === 'chose' ? 'because' : 'from'}</span>
                <span className="code text-xs">{inside(cause.signal)}</span>
                <Value text={cause.value} name={called(cause.signal, cause.value)} />
              </Button>
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function nameOfValue({ opened }: OpenRecord, signal: string, digits: string): string | null {
  const names = opened.signals.find(({ name }) => name === signal)?.names;
  if (!names || digits.includes('x')) return null;
  const value = String(BigInt(`0b${digits}`));
  return Object.entries(names).find(([, one]) => one === value)?.[0] ?? null;
}

/** Its name where the source has one, bits as they are where they are few, else a number. */
function Value({ text, name }: { readonly text: string; readonly name: string | null }) {
  const isWide = text.length > 8 && !text.includes('x');
  return (
    <span className="code font-bold text-xs" title={`${text.length} ${text.length === 1 ? 'bit' : 'bits'}: ${text}`}>
      {name ?? (isWide ? `${BigInt(`0b${text}`)}` : text)}
    </span>
  );
}
