// @vitest-environment happy-dom
import { useState } from 'react';
import { expect, test, vi } from 'vitest';
import type { SignalInfo } from '../../core/build/index.ts';
import type { ProbePlan } from '../../core/probes/index.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { PlanPanel } from './plan-panel.tsx';

const signal = (name: string, width: number): [string, SignalInfo] => [
  name,
  {
    ...{ name, width, kind: 'reg', signed: false, domain: 'clk', free: false, kept: true, removed: null },
    ...{ driver: { kind: 'logic', from: [], file: 't.v', line: 1 }, names: [], file: 't.v', line: 1 },
  },
];
const KNOWN = new Map([signal('t.a', 4), signal('t.n', 16), signal('t.key', 8), signal('t.clk', 1)]);

const PLAN: ProbePlan = {
  recorders: [{ name: 'r', clock: 't.clk', depth: 64, signals: ['t.a'], atTrigger: ['t.n[7:0]', 't.key'] }],
  panels: [],
  steppers: [{ name: 's', clock: 't.clk' }],
};

test('what a recorder reads once is listed with its bits, and can be left out; what a held clock adds is said', async () => {
  const saved = vi.fn();
  function Held() {
    const [plan, setPlan] = useState(PLAN);
    return (
      <PlanPanel
        {...{ plan, known: KNOWN, clocks: ['t.clk'], rates: new Map(), target: { recorder: 0, panel: 0 } }}
        others={{ recorders: [], panels: [] }}
        onTarget={() => {}}
        onPlan={(next) => {
          saved(next);
          setPlan(next);
        }}
      />
    );
  }
  const { screen, user } = await renderPage(<Held />);
  expect(screen.getByText('16 bits read once, at the trigger:')).toBeTruthy();
  expect(screen.getByText(/4 bits a sample, two more for what is let through/)).toBeTruthy();
  // A part of a signal is one of the design's.
  expect(screen.getByText('n[7:0]').className).not.toContain('line-through');
  await user.click(screen.getByRole('button', { name: /remove.*key/i }));
  expect(saved.mock.lastCall?.[0].recorders[0].atTrigger).toEqual(['t.n[7:0]']);
  expect(screen.getByText('8 bits read once, at the trigger:')).toBeTruthy();
});
