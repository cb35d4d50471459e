'use client';
import { Plus, X } from 'lucide-react';
import { item } from '../../core/lists.ts';
import type { RecorderMap } from '../../core/probes/index.ts';
import {
  emptyStage,
  emptyTerm,
  FORM_RELATIONS,
  type FormStage,
  type FormTerm,
  takesValue,
} from '../../core/trigger/index.ts';
import { Button, Select, TextInput, IconButton, Checkbox } from '../shared/index.ts';

interface Props {
  readonly stages: readonly FormStage[];
  readonly recorder: RecorderMap;
  readonly disabled: boolean;
  readonly onStages: (stages: readonly FormStage[]) => void;
}

/** The condition for those who prefer clicking; every field is a word of the sentence above. */
export function ConditionForm({ stages, recorder, disabled, onStages }: Props) {
  const first = shortName(recorder, recorder.signals[0]?.name ?? '');
  const change = (at: number, stage: FormStage) => onStages(stages.map((one, i) => (i === at ? stage : one)));
  return (
    <fieldset className="mt-2 flex flex-col gap-2 text-sm" disabled={disabled} aria-label="Condition as a form">
      {stages.map((stage, at) => (
        <Stage
          // biome-ignore lint/suspicious/noArrayIndexKey: stages have no other name than their place
          key={at}
          at={at}
          stages={stages}
          stage={stage}
          change={change}
          onStages={onStages}
          recorder={recorder}
          first={first}
        />
      ))}
      <Button
        look="quiet"
        className="self-start px-0!"
        onClick={() => onStages([...stages, emptyStage(first)])}
        disabled={stages.length >= Math.max(1, recorder.stages)}
        title={
          stages.length >= recorder.stages
            ? `The recorder was built with ${recorder.stages} ${recorder.stages === 1 ? 'stage' : 'stages'}`
            : undefined
        }
      >
        <Plus aria-hidden className="size-3.5" /> {stages.length === 0 ? 'Condition' : 'Then another stage'}
      </Button>
    </fieldset>
  );
}

interface StageProps {
  readonly at: number;
  readonly stages: readonly FormStage[];
  readonly stage: FormStage;
  readonly change: (at: number, stage: FormStage) => void;
  readonly onStages: (stages: readonly FormStage[]) => void;
  readonly recorder: RecorderMap;
  readonly first: string;
}

function Stage({ at, stages, stage, change, onStages, recorder, first }: StageProps) {
  return (
    <div className="border-line border-l-2 pl-2">
      <div className="flex items-center gap-2 text-quiet">
        <span>{stages.length > 1 ? `Stage ${at + 1}` : 'Trigger when'}</span>
        {stage.terms.length > 1 && (
          <Select
            aria-label={`Stage ${at + 1} joined by`}
            value={stage.join}
            onPick={(join) => change(at, { ...stage, join })}
          >
            <option value="and">all of these hold</option>
            <option value="or">one of these holds</option>
          </Select>
        )}
        {stages.length > 1 && (
          <IconButton
            isRemoval
            label={`Remove stage ${at + 1}`}
            onClick={() =>
              onStages(
                stages
                  .filter((_, i) => i !== at)
                  .map((one) => ({ ...one, otherwise: Math.min(one.otherwise, stages.length - 2) })),
              )
            }
          >
            <X className="size-3.5" />
          </IconButton>
        )}
      </div>
      {stage.terms.map((term, i) => (
        <Term
          // biome-ignore lint/suspicious/noArrayIndexKey: terms have no other name than their place
          key={i}
          term={term}
          recorder={recorder}
          label={`${at + 1}.${i + 1}`}
          onTerm={(next) => change(at, { ...stage, terms: stage.terms.map((one, k) => (k === i ? next : one)) })}
          onRemove={
            stage.terms.length > 1 ? () => change(at, { ...stage, terms: stage.terms.filter((_, k) => k !== i) }) : null
          }
        />
      ))}
      <Within change={change} at={at} stage={stage} first={first} stages={stages} />
    </div>
  );
}

interface WithinProps {
  readonly change: (at: number, stage: FormStage) => void;
  readonly at: number;
  readonly stage: FormStage;
  readonly first: string;
  readonly stages: readonly FormStage[];
}

/** How long after the stage before it may come, and what happens otherwise. */
function Within({ change, at, stage, first, stages }: WithinProps) {
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2">
      <Button
        look="quiet"
        className="h-7 px-0!"
        onClick={() => change(at, { ...stage, terms: [...stage.terms, emptyTerm(first)] })}
      >
        <Plus aria-hidden className="size-3.5" /> Comparison
      </Button>
      <span className="text-quiet">in</span>
      <TextInput
        className="tabular w-20"
        type="number"
        min={1}
        max={65536}
        aria-label={`Stage ${at + 1} samples`}
        value={stage.times}
        onChange={(event) => change(at, { ...stage, times: Math.max(1, Number(event.target.value)) })}
      />
      <Select
        aria-label={`Stage ${at + 1} count`}
        value={stage.inARow ? 'row' : 'any'}
        onChange={(event) => change(at, { ...stage, inARow: event.target.value === 'row' })}
      >
        <option value="any">{stage.times === 1 ? 'sample' : 'samples, in all'}</option>
        <option value="row">{stage.times === 1 ? 'sample in a row' : 'samples in a row'}</option>
      </Select>
      {stages.length > 1 && (
        <>
          <label className="flex items-center gap-1">
            <Checkbox
              checked={stage.within !== null}
              onChange={(event) => change(at, { ...stage, within: event.target.checked ? 1000 : null, otherwise: 0 })}
            />{' '}
            within
          </label>
          {stage.within !== null && (
            <>
              <TextInput
                className="tabular w-24"
                type="number"
                min={1}
                max={1048575}
                aria-label={`Stage ${at + 1} within`}
                value={stage.within}
                onChange={(event) => change(at, { ...stage, within: Math.max(1, Number(event.target.value)) })}
              />
              <span className="text-quiet">samples, else back to</span>
              <Select
                aria-label={`Stage ${at + 1} otherwise`}
                value={stage.otherwise}
                onChange={(event) => change(at, { ...stage, otherwise: Number(event.target.value) })}
              >
                {stages.map((_, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: stages have no other name than their place
                  <option key={i} value={i}>
                    stage {i + 1}
                  </option>
                ))}
              </Select>
            </>
          )}
        </>
      )}
    </div>
  );
}

/** The shortest end of a path that means one signal alone. */
export function shortName(recorder: RecorderMap, name: string): string {
  const path = name.split('.');
  for (let from = path.length - 1; from > 0; from--) {
    const end = path.slice(from).join('.');
    if (recorder.signals.filter((signal) => signal.name === end || signal.name.endsWith(`.${end}`)).length === 1)
      return end;
  }
  return name;
}

interface TermProps {
  readonly term: FormTerm;
  readonly recorder: RecorderMap;
  readonly label: string;
  readonly onTerm: (term: FormTerm) => void;
  readonly onRemove: (() => void) | null;
}

function Term({ term, recorder, label, onTerm, onRemove }: TermProps) {
  const signal = recorder.signals.find(({ name }) => name === term.signal || name.endsWith(`.${term.signal}`));
  const names = Object.keys(signal?.names ?? {});
  const relations = FORM_RELATIONS.filter((relation) =>
    signal?.width === 1 ? true : !['rises', 'falls', 'is 1'].includes(relation),
  );
  const setRelation = (relation: FormTerm['relation']) =>
    onTerm({
      ...term,
      relation,
      value:
        relation === 'in'
          ? term.value.includes('..')
            ? term.value
            : `0..${term.value || 1}`
          : takesValue(relation)
            ? item(term.value.split('..'), 0) || '1'
            : '',
    });
  const isRange = term.relation === 'in';
  const [low, high] = term.value.split('..') as [string, string | undefined];
  return (
    <div className="mt-1 flex items-center gap-1.5">
      <Select
        aria-label={`Comparison ${label} sense`}
        value={String(term.not)}
        onChange={(event) => onTerm({ ...term, not: event.target.value === 'true' })}
      >
        <option value="false">it is so that</option>
        <option value="true">it is not so that</option>
      </Select>
      <Select
        isCode
        aria-label={`Comparison ${label} signal`}
        value={signal?.name ?? term.signal}
        onChange={(event) => onTerm({ ...term, signal: shortName(recorder, event.target.value) })}
      >
        {!signal && <option value={term.signal}>{term.signal}</option>}
        {recorder.signals.map(({ name }) => (
          <option key={name} value={name}>
            {shortName(recorder, name)}
          </option>
        ))}
      </Select>
      <Select isCode aria-label={`Comparison ${label} relation`} value={term.relation} onPick={setRelation}>
        {relations.map((relation) => (
          <option key={relation} value={relation}>
            {relation}
          </option>
        ))}
      </Select>
      {takesValue(term.relation) && (
        <>
          <TextInput
            isCode
            className="w-28"
            aria-label={`Comparison ${label} value`}
            list={`names ${label}`}
            value={low}
            onChange={(event) =>
              onTerm({ ...term, value: isRange ? `${event.target.value}..${high ?? ''}` : event.target.value })
            }
          />
          {isRange && (
            <>
              <span className="text-quiet">to</span>
              <TextInput
                isCode
                className="w-28"
                aria-label={`Comparison ${label} end`}
                value={high ?? ''}
                onChange={(event) => onTerm({ ...term, value: `${low}..${event.target.value}` })}
              />
            </>
          )}
          <datalist id={`names ${label}`}>
            {names.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
        </>
      )}
      {onRemove && (
        <IconButton isRemoval label={`Remove comparison ${label}`} onClick={onRemove}>
          <X className="size-3.5" />
        </IconButton>
      )}
    </div>
  );
}
