'use client';
import { Crosshair, ListTree, Zap } from 'lucide-react';
import { type Dispatch, type SetStateAction, useMemo, useState } from 'react';
import { item } from '../../core/lists.ts';
import type { RecorderMap } from '../../core/probes/index.ts';
import { compileCondition, formOf, type FormStage, sentenceOf } from '../../core/trigger/index.ts';
import { counted } from '../../core/words.ts';
import { SentenceInput } from '../sentence/index.ts';
import {
  Button,
  hasFailed,
  OtherBuild,
  ProblemNote,
  useAct,
  useLatestJob,
  useLive,
  useRemembered,
  api,
  Select,
  TextButton,
  Field,
} from '../shared/index.ts';
import { ConditionForm, shortName } from './condition-form.tsx';
import { TriggerPosition } from './position.tsx';
import { Waiting } from './waiting.tsx';
import type { Problem, Result } from '../../core/result.ts';
import type { CompiledCondition } from '../../core/trigger/index.ts';

interface Props {
  readonly recorders: readonly RecorderMap[];
  /** How fast their clocks could run beside what is wanted, by the clock's name; empty where that is not known. */
  readonly rates: ReadonlyMap<string, string>;
  /** The build these recorders belong to. */
  readonly fingerprint: string;
  readonly onArmed: () => void;
}

type Repeat = 'once' | 'every' | 'different';

/** What is chosen while it runs, for one recorder. */
interface Settings {
  readonly when: string;
  readonly keep: string;
  /** Of a segment, before the trigger. */
  readonly share: number;
  readonly segments: number;
  readonly repeat: Repeat;
}

const NO_CHOICE = { name: null };

/** What to wait for, what to keep, and where the trigger stands: all of it free without building again. */
export function Arm({ recorders, rates, fingerprint, onArmed }: Props) {
  const state = useLive('running', 'project', 'armed', 'armedBefore');
  const runs = state?.running?.fingerprint === fingerprint;
  const { busy, act } = useAct();
  const job = useLatestJob('capture');
  const project = state?.project?.id ?? 0;
  const [{ name }, setChoice] = useRemembered<{ name: string | null }>(`capture ${project}`, NO_CHOICE);
  const recorder = recorders.find((one) => one.name === name) ?? item(recorders, 0);
  const plain = useMemo(
    (): Settings => ({
      when: `${shortName(recorder, recorder.signals[0]?.name ?? '')} == 1`,
      keep: '',
      share: 0.25,
      segments: 1,
      repeat: 'once',
    }),
    [recorder],
  );
  const [{ when, keep, share, segments: wantedSegments, repeat }, change] = useRemembered(
    `capture ${project} ${recorder.name}`,
    plain,
  );
  const setWhen = (text: string) => change({ when: text });
  const [asForm, setAsForm] = useState(false);
  const [fields, setFields] = useState<{ readonly text: string; readonly stages: readonly FormStage[] } | null>(null);
  const segments = Math.min(wantedSegments, recorder.segments);
  const size = recorder.depth / segments;
  const before = Math.min(size - 1, Math.round(size * share));
  const armed = state?.armed.some((one) => one.recorder === recorder.name) ?? false;
  const check = compileCondition(when, recorder, recorder.qualifier ? keep : '');
  const trouble = check.ok ? null : check.error;
  const keepsRight = !recorder.qualifier || compileCondition('', recorder, keep).ok;
  // Fields that are being filled in need not make a sentence yet.
  const stages = fields?.text === when ? fields.stages : formOf(when);
  const left = (state?.armedBefore ?? []).filter(
    ({ recorder: one }) =>
      !state?.armed.some(({ recorder }) => recorder === one) && recorders.some(({ name }) => name === one),
  );
  const submit = async (now: boolean) => {
    onArmed();
    await act(() =>
      api.capture.arm.mutate({
        recorder: recorder.name,
        when: now ? '' : when,
        ...(recorder.qualifier ? { keep } : {}),
        before: now ? 0 : before,
        segments,
        repeat: now ? 'once' : repeat,
      }),
    );
  };
  return (
    <>
      <OtherBuild wanted={fingerprint} what="this recorder belongs" />
      {hasFailed(job) && job?.problem && <ProblemNote problem={job.problem} />}
      {left.map(({ recorder: one, when: waited }) => (
        <p key={one} className="mb-2 flex items-center gap-3 border-doubt border-l-4 bg-raised px-3 py-1.5 text-sm">
          The recorder {one} was armed with "{waited || 'at once'}" when the work broke off; what it holds is still in
          the hardware.
          <Button onClick={() => act(() => api.capture.resume.mutate({ recorder: one }))} disabled={busy}>
            Go on with it
          </Button>
        </p>
      ))}
      <ArmForm
        submit={submit}
        recorders={recorders}
        recorder={recorder}
        setChoice={setChoice}
        asForm={asForm}
        setAsForm={setAsForm}
        when={when}
        setWhen={setWhen}
        trouble={trouble}
        armed={armed}
        runs={runs}
        size={size}
        before={before}
        segments={segments}
        change={change}
        busy={busy}
      />
      {asForm &&
        (stages ? (
          <ConditionForm
            stages={stages}
            recorder={recorder}
            disabled={armed}
            onStages={(next) => {
              const text = sentenceOf(next);
              setFields({ text, stages: next });
              setWhen(text);
            }}
          />
        ) : (
          <p className="mt-2 text-quiet text-sm">
            This sentence does not parse, or has brackets that fields cannot show; go on with it as a sentence.
          </p>
        ))}
      <Storing
        recorder={recorder}
        keep={keep}
        change={change}
        armed={armed}
        keepsRight={keepsRight}
        segments={segments}
        repeat={repeat}
      />
      <Checked trouble={trouble} check={check} recorder={recorder} rate={rates.get(recorder.clock)} />
      {(state?.armed ?? []).map((one) => (
        <Waiting key={one.recorder} armed={one} />
      ))}
    </>
  );
}

interface ArmFormProps {
  readonly submit: (now: boolean) => Promise<void>;
  readonly recorders: readonly RecorderMap[];
  readonly recorder: RecorderMap;
  readonly setChoice: (change: Partial<{ name: string | null }>) => void;
  readonly asForm: boolean;
  readonly setAsForm: Dispatch<SetStateAction<boolean>>;
  readonly when: string;
  readonly setWhen: (text: string) => void;
  readonly trouble: Problem | null;
  readonly armed: boolean;
  readonly runs: boolean;
  readonly size: number;
  readonly before: number;
  readonly segments: number;
  readonly change: (change: Partial<Settings>) => void;
  readonly busy: boolean;
}

function ArmForm({
  submit,
  recorders,
  recorder,
  setChoice,
  asForm,
  setAsForm,
  when,
  setWhen,
  trouble,
  armed,
  runs,
  size,
  before,
  segments,
  change,
  busy,
}: ArmFormProps) {
  return (
    <form
      className="flex flex-wrap items-end gap-x-4 gap-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        void submit(false);
      }}
    >
      {recorders.length > 1 && <WhichRecorder recorder={recorder} setChoice={setChoice} recorders={recorders} />}
      <When
        asForm={asForm}
        setAsForm={setAsForm}
        when={when}
        recorder={recorder}
        setWhen={setWhen}
        trouble={trouble}
        armed={armed}
        runs={runs}
        submit={submit}
      />
      <TriggerPosition
        size={size}
        before={before}
        segments={segments}
        disabled={armed}
        onBefore={(samples) => change({ share: samples / size })}
      />
      <Button look="main" type="submit" disabled={busy || armed || trouble !== null || !runs}>
        <Crosshair aria-hidden className="size-4" /> Arm
      </Button>
      <Button
        disabled={busy || armed || !runs}
        onClick={() => void submit(true)}
        title="Takes a capture without waiting for a condition"
      >
        <Zap aria-hidden className="size-4" /> Take now
      </Button>
    </form>
  );
}

interface CheckedProps {
  readonly rate: string | undefined;
  readonly trouble: Problem | null;
  readonly check: Result<CompiledCondition>;
  readonly recorder: RecorderMap;
}

/** What the hardware needs for it, or what does not fit. */
function Checked({ trouble, check, recorder, rate }: CheckedProps) {
  return (
    <p className="mt-1 h-5 truncate text-sm" data-testid="checked">
      {trouble ? (
        <span className="text-bad">
          {trouble.place ? `At ${trouble.place.column}: ` : ''}
          {trouble.message} {trouble.tryNext[0]}
        </span>
      ) : (
        check.ok && (
          <span className="tabular text-quiet">
            {`${check.value.comparators.length} of ${recorder.comparators} comparators, ` +
              `${check.value.stages.length} of ${counted(recorder.stages, 'stage')}; changed without building again; ` +
              `sampled by ${recorder.clock.slice(recorder.clock.indexOf('.') + 1)}${rate ? `, ${rate}` : ''}`}
          </span>
        )
      )}
    </p>
  );
}

interface StoringProps {
  readonly recorder: RecorderMap;
  readonly keep: string;
  readonly change: (change: Partial<Settings>) => void;
  readonly armed: boolean;
  readonly keepsRight: boolean;
  readonly segments: number;
  readonly repeat: Repeat;
}

/** What of the samples is kept, in how many pieces, and what follows. */
function Storing({ recorder, keep, change, armed, keepsRight, segments, repeat }: StoringProps) {
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
      <span className="flex min-w-56 flex-1 items-center gap-2">
        <span className="shrink-0 text-quiet">Store only when</span>
        {recorder.qualifier ? (
          <SentenceInput
            value={keep}
            label="Store only when"
            placeholder="every sample; or: state changes"
            signals={recorder.signals}
            onChange={(text) => change({ keep: text })}
            disabled={armed}
            wrong={!keepsRight}
          />
        ) : (
          <span className="text-quiet" title="Switch the qualifier on under Probe and build again">
            every sample; this recorder was built without a qualifier
          </span>
        )}
      </span>
      <Field name="Segments">
        <Select
          className="tabular"
          aria-label="Segments"
          value={segments}
          onChange={(event) => change({ segments: Number(event.target.value) })}
          disabled={armed || recorder.segments === 1}
          title={recorder.segments === 1 ? 'This recorder was built in one piece' : undefined}
        >
          {Array.from({ length: Math.log2(recorder.segments) + 1 }, (_, i) => 2 ** i).map((n) => (
            <option key={n} value={n}>
              {n} × {(recorder.depth / n).toLocaleString('en')} samples
            </option>
          ))}
        </Select>
      </Field>
      <Field name="Then">
        <Select
          aria-label="Repeat"
          value={repeat}
          title="Differs from the capture that was made reference; without one, from the first of this go"
          onPick={(repeat) => change({ repeat })}
          disabled={armed}
        >
          <option value="once">stop</option>
          <option value="every">arm again, keep all</option>
          <option value="different">arm until one differs</option>
        </Select>
      </Field>
    </div>
  );
}

interface WhenProps {
  readonly asForm: boolean;
  readonly setAsForm: Dispatch<SetStateAction<boolean>>;
  readonly when: string;
  readonly recorder: RecorderMap;
  readonly setWhen: (text: string) => void;
  readonly trouble: Problem | null;
  readonly armed: boolean;
  readonly runs: boolean;
  readonly submit: (now: boolean) => Promise<void>;
}

/** The condition, as a sentence; fields show the same below. */
function When({ asForm, setAsForm, when, recorder, setWhen, trouble, armed, runs, submit }: WhenProps) {
  return (
    <div className="min-w-64 flex-1 text-sm">
      <span className="mb-1 flex justify-between text-quiet">
        Trigger when
        <TextButton
          className="inline-flex items-center gap-1 hover:text-ink"
          aria-pressed={asForm}
          onClick={() => setAsForm(!asForm)}
        >
          <ListTree aria-hidden className="size-3.5" /> {asForm ? 'as a sentence' : 'as a form'}
        </TextButton>
      </span>
      <div className="flex">
        <SentenceInput
          value={when}
          label="Condition"
          placeholder="gate rises then level > 40 within 2000; empty takes a capture at once"
          signals={recorder.signals}
          onChange={setWhen}
          onEnter={() => !trouble && !armed && runs && void submit(false)}
          wrong={trouble !== null}
          disabled={armed}
        />
      </div>
    </div>
  );
}

interface WhichRecorderProps {
  readonly recorder: RecorderMap;
  readonly setChoice: (change: Partial<{ name: string | null }>) => void;
  readonly recorders: readonly RecorderMap[];
}

function WhichRecorder({ recorder, setChoice, recorders }: WhichRecorderProps) {
  return (
    <label className="text-sm">
      <span className="mb-1 block text-quiet">Recorder</span>
      <Select
        size="normal"
        aria-label="Recorder"
        value={recorder.name}
        onChange={(event) => setChoice({ name: event.target.value })}
      >
        {recorders.map((one) => (
          <option key={one.name} value={one.name}>
            {one.name} · {one.clock.slice(one.clock.indexOf('.') + 1)}
          </option>
        ))}
      </Select>
    </label>
  );
}
