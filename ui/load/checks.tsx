'use client';
import { useState } from 'react';
import type { Check } from '../../core/operations/index.ts';
import type { Problem } from '../../core/result.ts';
import { Button, CheckList, ProblemNote, Section, useLive, answerOf, api } from '../shared/index.ts';

const NAMES: Readonly<Record<Check['name'], string>> = {
  pod: 'Pod',
  power: 'Power',
  device: 'Device',
  part: 'Part',
  package: 'Package',
  size: 'Size',
  crc: 'CRC',
  fingerprint: 'Fingerprint',
  fresh: 'Sources',
  age: 'Age',
};
/** What is looked at before the first bit: asked for, or as the last load found it. */
export function Checks({ busy }: { readonly busy: boolean }) {
  const state = useLive('loadReport', 'loadPlan', 'pod');
  const [asked, setAsked] = useState<{ readonly at: number; readonly steps: readonly (readonly Check[])[] } | null>(
    null,
  );
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const report = state?.loadReport ?? null;
  const look = async () => {
    const steps: (readonly Check[])[] = [];
    setTrouble(null);
    for (const step of state?.loadPlan.steps ?? []) {
      const answer = await answerOf(api.load.checks.query(step));
      if (!answer.ok) return setTrouble(answer.problem);
      steps.push(answer.value);
    }
    setAsked({ at: Date.now(), steps });
  };
  const newer = report && (!asked || Date.parse(report.time) > asked.at);
  const steps = newer ? report.steps.map((step) => step.checks) : (asked?.steps ?? []);
  return (
    <Section
      title="Checks before the first bit"
      aside={
        <Button look="quiet" className="h-6! px-0!" disabled={busy || state?.pod.state !== 'connected'} onClick={look}>
          check now
        </Button>
      }
    >
      {trouble && <ProblemNote problem={trouble} />}
      {steps.length === 0 && !trouble && (
        <p className="text-quiet text-sm">
          Part, package, fingerprint, age, size, CRC, pod and power are looked at before every load; only what stops
          keeps it from beginning.
        </p>
      )}
      {steps.map((checks, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place in the plan
        <CheckList key={i} checks={checks} label={(name) => NAMES[name as Check['name']]} />
      ))}
    </Section>
  );
}
