'use client';
import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { ImageRow, LoadPlan, LoadStep, WorkState } from '../../server/index.ts';
import {
  upload,
  Button,
  FileButton,
  dateTime,
  Section,
  shortPrint,
  useAct,
  useLive,
  useImages,
  useImagesKept,
  KeptList,
  api,
  Select,
  Checkbox,
  DownloadLink,
} from '../shared/index.ts';

const ANY = 'any';

/** Which file goes to which device, in this order; all others are in BYPASS. */
export function Plan({ busy }: { readonly busy: boolean }) {
  const state = useLive('loadPlan', 'usable', 'scan', 'stale', 'latest');
  const { act } = useAct();
  const cache = useQueryClient();
  const images = useImages().filter(({ format }) => format === 'nbits');
  const plan = state?.loadPlan;
  const usable = state?.usable ?? null;
  if (!plan) return null;
  const [first] = plan.steps;
  const put = (next: Partial<LoadPlan>) => act(() => api.load.setPlan.mutate(next));
  const step = (i: number, change: Partial<LoadStep>) =>
    put({ steps: plan.steps.map((old, k) => (k === i ? { ...old, ...change } : old)) });
  const add = async (file: File) => {
    const added = await act(() => upload<{ id: number; part: string }>('/api/images', file));
    if (!added) return;
    await cache.invalidateQueries({ queryKey: ['images'] });
    const device = state?.scan?.devices.find((one) => one.candidates.includes(added.part))?.index ?? null;
    await put({ steps: [...plan.steps, { device, source: { kind: 'image', id: added.id } }] });
    toast.success(`${file.name} is for a ${added.part}.`);
  };
  return (
    <Section
      title="Plan"
      aside={`${plan.steps.length} ${plan.steps.length === 1 ? 'device' : 'devices'}, the others in BYPASS`}
    >
      <ol className="border border-line bg-raised text-sm" data-testid="load-plan">
        {plan.steps.map(({ device, source }, i) => (
          <PlanStep
            // biome-ignore lint/suspicious/noArrayIndexKey: the order is what a step is
            key={i}
            i={i}
            busy={busy}
            source={source}
            step={step}
            usable={usable}
            images={images}
            device={device}
            state={state}
            put={put}
            plan={plan}
          />
        ))}
      </ol>
      <PlanTools add={add} busy={busy} plan={plan} put={put} first={first} act={act} />
    </Section>
  );
}

interface PlanToolsProps {
  readonly add: (file: File) => Promise<void>;
  readonly busy: boolean;
  readonly plan: LoadPlan;
  readonly put: (next: Partial<LoadPlan>) => Promise<unknown>;
  readonly first: LoadStep | undefined;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
}

function PlanTools({ add, busy, plan, put, first, act }: PlanToolsProps) {
  return (
    <div className="mt-1 flex flex-wrap items-center gap-3 text-sm">
      <FileButton
        label="Bitstream for another device"
        accept=".nbits"
        className="px-0!"
        testId="plan-file"
        disabled={busy}
        onFile={(file) => void add(file)}
      >
        Add another device
      </FileButton>
      <Files busy={busy} />
      <label className="flex items-center gap-1">
        <Checkbox checked={plan.verify} disabled={busy} onChange={(event) => put({ verify: event.target.checked })} />
        read back and compare afterwards
      </label>
      <span className="ml-auto flex items-center gap-3">
        <DownloadLink className="text-quiet underline hover:text-ink" href="/api/svf/export?what=load">
          Export as SVF
        </DownloadLink>
        <Button
          look="quiet"
          className="px-0!"
          disabled={busy || !first}
          title="Sends the file to the pod, which checks and loads it without the network"
          onClick={() => first && act(() => api.jobs.start.mutate({ kind: 'stage', step: first }))}
        >
          Let the pod load the first by itself
        </Button>
      </span>
    </div>
  );
}

interface PlanStepProps {
  readonly i: number;
  readonly busy: boolean;
  readonly source: { readonly kind: 'build' } | { readonly kind: 'image'; readonly id: number };
  readonly step: (i: number, change: Partial<LoadStep>) => Promise<unknown>;
  readonly usable: NonNullable<WorkState['usable']> | null;
  readonly images: ImageRow[];
  readonly device: number | null;
  readonly state: Pick<WorkState, 'scan' | 'loadPlan' | 'latest' | 'usable' | 'stale'>;
  readonly put: (next: Partial<LoadPlan>) => Promise<unknown>;
  readonly plan: LoadPlan;
}

function PlanStep({ i, busy, source, step, usable, images, device, state, put, plan }: PlanStepProps) {
  return (
    <li className="flex flex-wrap items-center gap-3 border-line border-t px-2 py-1 first:border-t-0">
      <span className="tabular w-4 text-quiet">{i + 1}</span>
      <Select
        className="min-w-52"
        aria-label={`File of step ${i + 1}`}
        disabled={busy}
        value={source.kind === 'build' ? 'build' : String(source.id)}
        onChange={(event) =>
          step(i, {
            source:
              event.target.value === 'build' ? { kind: 'build' } : { kind: 'image', id: Number(event.target.value) },
          })
        }
      >
        <option value="build">
          newest build{usable ? ` ${shortPrint(usable.fingerprint)}, ${usable.part}` : ' (none yet)'}
        </option>
        {images.map(({ id, name, added }) => (
          <option key={id} value={id}>
            {name}, {dateTime(added)}
          </option>
        ))}
      </Select>
      <span className="text-quiet">into</span>
      <Select
        aria-label={`Device of step ${i + 1}`}
        disabled={busy}
        value={device ?? ANY}
        onChange={(event) => step(i, { device: event.target.value === ANY ? null : Number(event.target.value) })}
      >
        <option value={ANY}>the device that fits</option>
        {state?.scan?.devices.map((one) => (
          <option key={one.index} value={one.index}>
            place {one.index}, {one.part ?? 'unknown'}
          </option>
        ))}
      </Select>
      {source.kind === 'build' && state && (state.stale.length > 0 || !state.latest?.good) && state.latest && (
        <span className="text-doubt">
          {state.stale.length > 0
            ? `not up to date: ${state.stale.map((edit) => edit.what).join(', ')} changed`
            : 'the newest build failed; an older one is used'}
        </span>
      )}
      <span className="ml-auto flex items-center gap-2">
        <Button
          look="quiet"
          className="h-6! px-0!"
          disabled={busy || i === 0}
          onClick={() => put({ steps: swapped(plan.steps, i) })}
        >
          earlier
        </Button>
        <Button
          look="quiet"
          className="h-6! px-0!"
          disabled={busy || plan.steps.length === 1}
          onClick={() => put({ steps: plan.steps.filter((_, k) => k !== i) })}
        >
          leave out
        </Button>
      </span>
    </li>
  );
}

/** Bitstreams that were given here, each of which can be taken away again. */
function Files({ busy }: { readonly busy: boolean }) {
  const { act } = useAct();
  const cache = useQueryClient();
  const images = useImages();
  const kept = useImagesKept();
  const remove = async (id: number) => {
    await act(() => api.load.removeImage.mutate({ id }));
    await cache.invalidateQueries({ queryKey: ['images'] });
  };
  if (!kept || kept.count === 0) return null;
  return (
    <KeptList
      what="file"
      rows={images.map(({ id, name, added, bytes }) => ({ id, title: name, time: added, bytes }))}
      kept={kept}
      then="At the end the oldest are deleted for new ones, but for what is chosen under Load and Keep."
      disabled={busy}
      onDelete={(id) => void remove(id)}
    />
  );
}

/** The step at `i` and the one before it change places. */
function swapped(steps: readonly LoadStep[], i: number): readonly LoadStep[] {
  const next = [...steps];
  const [a, b] = [next[i - 1], next[i]];
  if (a && b) {
    next[i - 1] = b;
    next[i] = a;
  }
  return next;
}
