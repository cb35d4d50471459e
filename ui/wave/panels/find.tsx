'use client';
import { Flag, Search, X } from 'lucide-react';
import { type Dispatch, type SetStateAction, useEffect, useState } from 'react';
import type { Problem } from '../../../core/result.ts';
import {
  type Axis,
  type Found,
  nextStretch,
  secondsText,
  type Stretch,
  ticksBetween,
} from '../../../core/wave/index.ts';
import { Button, DataTable, TextButton, IconButton } from '../../shared/index.ts';
import { SentenceInput } from '../../sentence/index.ts';
import type { WaveDesk } from '../desk.ts';
import { timeText } from '../draw.ts';
import type { OpenSignal } from '../messages.ts';

interface Props {
  readonly desk: WaveDesk;
  readonly axis: Axis;
  readonly signals: readonly OpenSignal[];
  readonly tick: number;
  readonly rules: readonly string[];
  readonly found: { readonly text: string; readonly result: Found } | null;
  readonly onFound: (found: { readonly text: string; readonly result: Found } | null) => void;
  readonly onRules: (rules: readonly string[]) => void;
  readonly onGo: (tick: number) => void;
}

/**
 * Places where a sentence holds, or where a rule is broken; a rule can be kept, so that every record is looked at with
 * it.
 */
export function FindPanel({ desk, axis, signals, tick, rules, found, onFound, onRules, onGo }: Props) {
  const [text, setText] = useState(found?.text ?? '');
  const [problem, setProblem] = useState<Problem | null>(null);
  useEffect(() => {
    if (text.trim() === '') {
      setProblem(null);
      return;
    }
    let gone = false;
    void desk.ask('check', { text }).then((wrong) => !gone && setProblem(wrong));
    return () => {
      gone = true;
    };
  }, [desk, text]);
  const search = async (sentence: string, thenGo: boolean) => {
    const answer = await desk.ask('find', { text: sentence });
    if (!answer.ok) return setProblem(answer.error);
    onFound({ text: sentence, result: answer.value });
    const [first] = answer.value.stretches;
    if (thenGo && first) onGo((nextStretch(answer.value.stretches, tick, true) ?? first).from);
  };
  const step = (forward: boolean) => {
    const next = found && nextStretch(found.result.stretches, tick, forward);
    if (next) onGo(next.from);
  };
  return (
    <div className="flex flex-col gap-2">
      <FindSentence
        search={search}
        text={text}
        signals={signals}
        setText={setText}
        problem={problem}
        step={step}
        found={found}
        onRules={onRules}
        rules={rules}
      />
      <p className="tabular min-h-5 text-sm" data-testid="found">
        {problem ? (
          <span className="text-bad">
            {problem.place ? `At ${problem.place.column}: ` : ''}
            {problem.message} {problem.tryNext[0]}
          </span>
        ) : (
          found && <FoundText found={found.result} text={found.text} />
        )}
      </p>
      {rules.length > 0 && <KeptSentences rules={rules} setText={setText} search={search} onRules={onRules} />}
      {found && found.result.stretches.length > 0 && <PlaceTable found={found} onGo={onGo} tick={tick} axis={axis} />}
    </div>
  );
}

interface PlaceTableProps {
  readonly found: { readonly text: string; readonly result: Found };
  readonly onGo: (tick: number) => void;
  readonly tick: number;
  readonly axis: Axis;
}

function PlaceTable({ found, onGo, tick, axis }: PlaceTableProps) {
  return (
    <DataTable
      name="places"
      className="max-h-56"
      rows={found.result.stretches}
      empty=""
      onRow={({ from }) => onGo(from)}
      chosen={({ from, to }) => tick >= from && tick < to}
      columns={[
        {
          id: 'at',
          header: 'Time',
          accessorFn: ({ from }: Stretch) => timeText(axis, from),
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
        {
          id: 'tick',
          header: axis.sampled ? 'Sample' : 'Tick',
          accessorFn: ({ from }: Stretch) => Math.round(from),
          cell: (cell) => <span className="tabular">{Number(cell.getValue()).toLocaleString('en')}</span>,
        },
        {
          id: 'long',
          header: 'Holds for',
          accessorFn: ({ from, to }: Stretch) => {
            const ticks = ticksBetween(axis, from, to);
            return ticks === null
              ? ''
              : `${Math.round(ticks).toLocaleString('en')} ` +
                  (axis.inSteps
                    ? 'steps'
                    : `${axis.sampled ? (ticks === 1 ? 'sample' : 'samples') : 'ticks'}, ` +
                      secondsText(ticks * axis.tickSeconds));
          },
          cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
        },
      ]}
    />
  );
}

interface KeptSentencesProps {
  readonly rules: readonly string[];
  readonly setText: Dispatch<SetStateAction<string>>;
  readonly search: (sentence: string, thenGo: boolean) => Promise<void>;
  readonly onRules: (rules: readonly string[]) => void;
}

function KeptSentences({ rules, setText, search, onRules }: KeptSentencesProps) {
  return (
    <ul className="flex flex-wrap gap-2 text-sm" aria-label="Kept sentences">
      {rules.map((rule) => (
        <li key={rule} className="flex items-center gap-1 border border-line bg-raised px-2 py-0.5">
          <TextButton
            className="code"
            onClick={() => {
              setText(rule);
              void search(rule, true);
            }}
          >
            {rule}
          </TextButton>
          <IconButton
            isRemoval
            label={`Forget ${rule}`}
            onClick={() => onRules(rules.filter((other) => other !== rule))}
          >
            <X className="size-3.5" />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}

interface FindSentenceProps {
  readonly search: (sentence: string, thenGo: boolean) => Promise<void>;
  readonly text: string;
  readonly signals: readonly OpenSignal[];
  readonly setText: Dispatch<SetStateAction<string>>;
  readonly problem: Problem | null;
  readonly step: (forward: boolean) => void;
  readonly found: { readonly text: string; readonly result: Found } | null;
  readonly onRules: (rules: readonly string[]) => void;
  readonly rules: readonly string[];
}

function FindSentence({ search, text, signals, setText, problem, step, found, onRules, rules }: FindSentenceProps) {
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void search(text, true);
      }}
    >
      <SentenceInput
        value={text}
        label="Sentence to find"
        placeholder="level_a == level_b, or: whenever gate_open rises, level_diff < 5"
        signals={signals}
        onChange={setText}
        onEnter={() => void search(text, true)}
        wrong={problem !== null}
      />
      <Button type="submit" disabled={text.trim() === '' || problem !== null}>
        <Search aria-hidden className="size-4" /> Find
      </Button>
      <Button onClick={() => step(false)} disabled={!found}>
        Previous
      </Button>
      <Button onClick={() => step(true)} disabled={!found}>
        Next
      </Button>
      <Button
        onClick={() => onRules([...rules.filter((rule) => rule !== text), text])}
        disabled={text.trim() === '' || problem !== null}
        title="Marks its places in every record that is looked at in this way"
      >
        <Flag aria-hidden className="size-4" /> Keep
      </Button>
    </form>
  );
}

function FoundText({ found, text }: { readonly found: Found; readonly text: string }) {
  const count = found.stretches.length;
  const places = `${found.cut ? 'more than ' : ''}${count.toLocaleString('en')} ${count === 1 ? 'place' : 'places'}`;
  if (found.isRule)
    return count === 0 ? (
      <span className="text-good">Kept throughout the record: {text}</span>
    ) : (
      <span className="text-bad">Broken in {places}.</span>
    );
  return count === 0 ? (
    <span className="text-doubt">Holds nowhere in this record.</span>
  ) : (
    <span>Holds in {places}.</span>
  );
}
