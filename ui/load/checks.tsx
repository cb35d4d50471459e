'use client';
import { clsx } from 'clsx';
import { Check as CheckMark, OctagonX, TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import type { Check } from '../../core/operations/index.ts';
import type { Problem } from '../../core/result.ts';
import { Button, ProblemNote, Section, send, useLive } from '../shared/index.ts';

const NAMES: Readonly<Record<Check['name'], string>> = { pod: 'Pod', power: 'Power', device: 'Device', part: 'Part', package: 'Package', size: 'Size', crc: 'CRC', fingerprint: 'Fingerprint', fresh: 'Sources', age: 'Age' };
const MARKS = { pass: CheckMark, warn: TriangleAlert, stop: OctagonX } as const;
const SAYS = { pass: 'passes', warn: 'warns', stop: 'stops' } as const;

/** What is looked at before the first bit: asked for, or as the last load found it. */
export function Checks({ busy }: { readonly busy: boolean }) {
  const state = useLive();
  const [asked, setAsked] = useState<{ readonly at: number; readonly steps: readonly (readonly Check[])[] } | null>(null);
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const report = state?.loadReport ?? null;
  const look = async () => {
    const steps: (readonly Check[])[] = [];
    setTrouble(null);
    for (const step of state?.loadPlan.steps ?? []) {
      const answer = await send<Check[]>('/api/load-checks', 'POST', step);
      if (!answer.ok) return setTrouble(answer.problem);
      steps.push(answer.value);
    }
    setAsked({ at: Date.now(), steps });
  };
  const newer = report && (!asked || Date.parse(report.time) > asked.at);
  const steps = newer ? report.steps.map((step) => step.checks) : (asked?.steps ?? []);
  return (
    <Section title="Checks before the first bit" aside={<Button look="quiet" className="h-6! px-0!" disabled={busy || state?.pod.state !== 'connected'} onClick={look}>check now</Button>}>
      {trouble && <ProblemNote problem={trouble} />}
      {steps.length === 0 && !trouble && <p className="text-quiet text-sm">Part, package, fingerprint, age, size, CRC, pod and power are looked at before every load; only what stops keeps it from beginning.</p>}
      {steps.map((checks, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place in the plan
        <ul key={i} className="mb-2 border border-line bg-raised text-sm" data-testid="checks">
          {checks.map(({ name, state: how, message }) => {
            const Mark = MARKS[how];
            return (
              <li key={name} data-check={name} data-state={how} className="grid grid-cols-[1.5rem_6rem_1fr] gap-x-1 border-line border-t px-2 py-1 first:border-t-0">
                <Mark aria-label={SAYS[how]} className={clsx('mt-0.5 size-4', how === 'pass' ? 'text-good' : how === 'warn' ? 'text-doubt' : 'text-bad')} />
                <span>{NAMES[name]}</span>
                <span className={clsx('min-w-0 break-words', how === 'pass' ? 'text-quiet' : 'font-bold')}>{message}</span>
              </li>
            );
          })}
        </ul>
      ))}
    </Section>
  );
}
