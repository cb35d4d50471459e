// @vitest-environment happy-dom
import { useState } from 'react';
import { describe, expect, test } from 'vitest';
import type { SignalInfo } from '../../core/build/index.ts';
import type { ProbePlan, Standstill } from '../../core/probes/index.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { PlanPanel } from './plan-panel.tsx';

const PLAN: ProbePlan = {
  recorders: [{ name: 'main', clock: 't.clk', depth: 64, signals: ['t.state'] }],
  panels: [{ name: 'main', clock: 't.clk', levers: ['t.go'], gauges: ['t.level'] }],
};
const STANDSTILL: Standstill = {
  ...{ registers: 40, memories: 1, resets: 3 },
  others: [
    { clock: 't.clk2', count: 7 },
    { clock: null, count: 2 },
  ],
};
const known = new Map(
  ['t.clk', 't.clk2', 't.state', 't.go', 't.level'].map((name) => [name, { name, width: 4 } as unknown as SignalInfo]),
);

/** The plan's cores, with the plan itself as text. */
function Held() {
  const [plan, setPlan] = useState(PLAN);
  return (
    <>
      <output>{JSON.stringify(plan.steppers ?? [])}</output>
      <PlanPanel
        plan={plan}
        others={{ recorders: [], panels: [] }}
        target={{ recorder: 0, panel: 0 }}
        clocks={['t.clk', 't.clk2']}
        rates={new Map()}
        known={known}
        onTarget={() => {}}
        onPlan={setPlan}
      />
    </>
  );
}

async function shown() {
  const page = await renderPage(<Held />, { answers: { 'probe.standstill': () => STANDSTILL } });
  const steppers = () => JSON.parse(page.container.querySelector('output')?.textContent ?? '[]') as unknown;
  return { ...page, steppers };
}

describe('a held clock in a plan', () => {
  test('is added with the first clock, which can be another one, and goes again', async () => {
    const { screen, user, steppers } = await shown();
    expect(steppers()).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'Held clock' }));
    expect(steppers()).toEqual([{ name: 'clock', clock: 't.clk' }]);
    await user.click(screen.getByLabelText('held from its first edge on'));
    expect(steppers()).toEqual([{ name: 'clock', clock: 't.clk', held: true }]);
    await user.click(screen.getAllByRole('button', { name: 'Held clock' }).at(-1) as Element);
    expect(steppers()).toMatchObject([{ name: 'clock' }, { name: 'clock 2' }]);
    await user.click(screen.getByRole('button', { name: 'Remove held clock clock 2' }));
    expect(steppers()).toHaveLength(1);
  });

  test('its condition looks at what is read and recorded on its clock', async () => {
    const { screen, user, steppers } = await shown();
    await user.click(screen.getByRole('button', { name: 'Held clock' }));
    const choice = screen.getByLabelText('Let the condition look at');
    expect([...choice.querySelectorAll('option')].map(({ textContent }) => textContent)).toEqual([
      ...['add a signal', 'level', 'state'],
    ]);
    await user.selectOptions(choice, 'state');
    expect(steppers()).toMatchObject([{ signals: ['t.state'] }]);
  });

  test('what stands and what goes on is said', async () => {
    const { screen, user } = await shown();
    await user.click(screen.getByRole('button', { name: 'Held clock' }));
    const said = (await screen.findByTestId('standstill')).textContent ?? '';
    for (const part of [
      /40 registers and 1 memory stand/,
      /clk2 \(7\), logic-made clocks \(2\)/,
      /3 held registers can be cleared/,
    ])
      expect(said).toMatch(part);
  });
});
