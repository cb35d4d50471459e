'use client';
import { useQuery } from '@tanstack/react-query';
import { Crosshair, Download } from 'lucide-react';
import { useState } from 'react';
import type { RecorderMap } from '../../core/probes/index.ts';
import { compileCondition } from '../../core/trigger/index.ts';
import type { Capture } from '../../core/wave/index.ts';
import type { WorkState } from '../../server/index.ts';
import { useBuilds } from '../design/index.ts';
import { ask, Button, clockTime, Empty, frequency, JobProgress, ProblemNote, send, StationHead, useAct, useLatestJob, useLive, hasFailed } from '../shared/index.ts';
import { type ReceivedCapture, Waveform } from '../wave/index.ts';

type Listed = { readonly id: number; readonly created: string; readonly about: Omit<Capture, 'data'> };

export function CaptureStation() {
  const state = useLive();
  const usable = useBuilds().data?.usable?.details ?? null;
  const recorder = usable?.probes?.cores.find((core): core is RecorderMap => core.kind === 'recorder') ?? null;
  const [chosen, setChosen] = useState<number | null>(null);
  const captures = useCaptures(state?.latestCapture ?? null);
  const shown = chosen ?? captures[0]?.id ?? null;
  const capture = useQuery({
    queryKey: ['capture', shown],
    enabled: shown !== null,
    queryFn: async () => {
      const answer = await ask<ReceivedCapture>(`/api/captures/${shown}`);
      return answer.ok ? answer.value : null;
    },
  }).data;
  return (
    <>
      <StationHead title="Capture" hint="Arm a condition, let it happen, see what led to it." />
      {recorder ? <Arm recorder={recorder} runs={state?.running?.fingerprint === usable?.fingerprint} onArmed={() => setChosen(null)} /> : <Empty>The newest build has no recorder. Choose signals under Probe, build, and load.</Empty>}
      <div className="mt-4 mb-2 flex flex-wrap items-center gap-3 border-line border-t pt-3 text-sm">
        <h2 className="font-bold text-base">Record</h2>
        {shown !== null && (
          <>
            <select className="tabular h-8 max-w-80 border border-line bg-raised px-1" value={shown} onChange={(event) => setChosen(Number(event.target.value))} aria-label="Captures">
              {captures.map(({ id, created, about }) => (
                <option key={id} value={id}>
                  {id} · {clockTime(created)} · {about.condition || 'at once'}
                </option>
              ))}
            </select>
            <a href={`/api/captures/${shown}/vcd`} className="inline-flex h-8 items-center gap-1.5 px-1 text-quiet hover:text-ink hover:underline" data-testid="vcd">
              <Download aria-hidden className="size-4" /> VCD
            </a>
          </>
        )}
        {capture && (
          <span className="tabular ml-auto text-quiet">
            {capture.about.samples} samples at {frequency(capture.about.sampleRate)}, trigger at {capture.about.triggerIndex}, build {capture.about.fingerprint.slice(0, 8)}
          </span>
        )}
      </div>
      {capture ? <Waveform key={capture.id} capture={capture} /> : <Empty>Nothing captured yet.</Empty>}
    </>
  );
}

function useCaptures(latest: number | null): readonly Listed[] {
  return (
    useQuery({
      queryKey: ['captures', latest],
      placeholderData: (before: Listed[] | undefined) => before,
      queryFn: async () => {
        const answer = await ask<Listed[]>('/api/captures');
        return answer.ok ? answer.value : [];
      },
    }).data ?? []
  );
}

function Arm({ recorder, runs, onArmed }: { readonly recorder: RecorderMap; readonly runs: boolean; readonly onArmed: () => void }) {
  const state = useLive();
  const { busy, act } = useAct();
  const job = useLatestJob('capture');
  const [when, setWhen] = useState(`${recorder.signals[0]?.name.split('.').slice(-1)[0] ?? ''} == 1`);
  const [share, setShare] = useState(25);
  const armed = job?.endedAt === null;
  const before = Math.min(recorder.depth - 1, Math.round((recorder.depth * share) / 100));
  const check = when.trim() === '' ? null : compileCondition(when, recorder);
  const trouble = check && !check.ok ? check.error : null;
  const submit = async () => {
    onArmed();
    await act(() => send('/api/capture', 'POST', { recorder: recorder.name, when, before }));
  };
  return (
    <>
      {!runs && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">The board does not run the build this recorder belongs to. Load it under Load.</p>}
      {hasFailed(job) && job?.problem && <ProblemNote problem={job.problem} />}
      <form
        className="flex flex-wrap items-end gap-x-4 gap-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <label className="min-w-72 flex-1 text-sm">
          <span className="mb-1 block text-quiet">Trigger when</span>
          <input className="code h-8 w-full border border-line bg-raised px-2" value={when} aria-label="Condition" aria-invalid={trouble !== null} placeholder="gate rises then level > 40 within 2000; empty takes a capture at once" list="recorded" onChange={(event) => setWhen(event.target.value)} disabled={armed} />
          <datalist id="recorded">
            {recorder.signals.map((signal) => (
              <option key={signal.name} value={`${signal.name.slice(signal.name.indexOf('.') + 1)} == `} />
            ))}
          </datalist>
        </label>
        <label className="w-64 text-sm">
          <span className="tabular mb-1 block whitespace-nowrap text-quiet">
            Trigger at sample {before} of {recorder.depth}
          </span>
          <input type="range" min={0} max={100} value={share} aria-label="Trigger position" className="block h-8 w-full accent-signal" onChange={(event) => setShare(Number(event.target.value))} disabled={armed} />
        </label>
        <Button look="main" type="submit" disabled={busy || armed || trouble !== null || !runs}>
          <Crosshair aria-hidden className="size-4" /> Arm
        </Button>
      </form>
      <p className="mt-1 h-5 truncate text-sm">{trouble && <span className="text-bad">{trouble.place ? `At ${trouble.place.column}: ` : ''}{trouble.message} {trouble.tryNext[0]}</span>}{check?.ok && <span className="tabular text-quiet">{check.value.comparators.length} of {recorder.comparators} comparators, {check.value.stages.length} of {recorder.stages} stages</span>}</p>
      {armed && job && (
        <div className="border border-line bg-raised px-3 py-2" data-testid="waiting">
          <JobProgress job={job} />
          {state?.armed && (
            <p className="tabular mt-1 text-quiet text-sm">
              {state.armed.status}: {state.armed.when || 'at once'}, sampling clock alive at {frequency(state.armed.sampleRate)}
              {state.armed.stages > 1 && `, stage ${state.armed.stage + 1} of ${state.armed.stages}`}
              {state.armed.left > 0 && `, ${state.armed.left} samples to come before a trigger counts`}
            </p>
          )}
          {state?.armed && <Conditions armed={state.armed} />}
        </div>
      )}
    </>
  );
}

/** Every comparison while it is waited for: true or not now, and how often it was. */
function Conditions({ armed }: { readonly armed: NonNullable<WorkState['armed']> }) {
  if (armed.conditions === null) return <p className="text-doubt text-sm">The sampling clock does not answer; it stands still or is very slow.</p>;
  if (armed.conditions.length === 0) return null;
  return (
    <table className="mt-1 text-sm" data-testid="conditions">
      <tbody>
        {armed.conditions.map(({ label, now, seen }) => (
          <tr key={label}>
            <td className="code pr-6">{label}</td>
            <td className={now ? 'w-16 text-good' : 'w-16 text-quiet'}>{now ? 'true' : 'false'}</td>
            <td className="tabular text-quiet">true in {seen.toLocaleString('en')} {seen === 1 ? 'sample' : 'samples'} so far</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
