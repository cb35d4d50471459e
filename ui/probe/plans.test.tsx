// @vitest-environment happy-dom
import { useState } from 'react';
import { describe, expect, test } from 'vitest';
import type { PlanShelf, ProbePlan } from '../../core/probes/index.ts';
import { ProblemError, problem } from '../../core/result.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { Cost } from './cost.tsx';
import { Shelf } from './shelf.tsx';

const recorder = (name: string, depth = 64) => ({ name, clock: 't.clk', depth, signals: ['t.a'] });
const PLAN: ProbePlan = { recorders: [recorder('main', 4096)], panels: [] };
const NONE: ProbePlan = { recorders: [], panels: [] };

describe('the shelf of plans', () => {
  /** The shelf with what it holds as text. */
  function Held({ from }: { readonly from: PlanShelf }) {
    const [shelf, setShelf] = useState(from);
    const [chosen, setChosen] = useState(0);
    return (
      <>
        <output>{shelf.map(({ name, inBuild }) => `${name}${inBuild ? '+' : '-'}`).join(' ')}</output>
        <Shelf
          shelf={shelf}
          chosen={chosen}
          known={new Map(['t.a', 't.clk'].map((name) => [name, {} as never]))}
          onChoose={setChosen}
          onShelf={setShelf}
        />
      </>
    );
  }
  const held = async (from: PlanShelf = [{ name: 'one', inBuild: true, plan: PLAN }]) => {
    const page = await renderPage(<Held from={from} />);
    return { ...page, said: () => page.container.querySelector('output')?.textContent };
  };
  const file = (name: string, data: unknown) =>
    new File([typeof data === 'string' ? data : JSON.stringify(data)], name, { type: 'application/json' });

  test('a new one gets a name at once, and is in the build', async () => {
    const { screen, user, said } = await held();
    await user.click(screen.getByRole('button', { name: 'New plan' }));
    const field = screen.getByLabelText('Name of the plan');
    await user.clear(field);
    await user.type(field, 'gates{Enter}');
    expect(said()).toBe('one+ gates+');
  });

  test('one rests on the shelf until it is wanted again', async () => {
    const { screen, user, said } = await held();
    await user.click(screen.getByLabelText('in the build'));
    expect(said()).toBe('one-');
    expect(screen.getByRole('option', { name: 'one (shelved)' })).toBeTruthy();
    await user.click(screen.getByLabelText('in the build'));
    expect(said()).toBe('one+');
  });

  test('one is deleted, and comes back', async () => {
    const { screen, user, said } = await held();
    await user.click(screen.getByRole('button', { name: 'Delete plan' }));
    expect(said()).toBe('');
    expect(screen.getByRole('option', { name: 'none yet' })).toBeTruthy();
    await user.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(said()).toBe('one+');
  });

  test('one of another design comes in shelved, with the names that this one has not', async () => {
    const { screen, user, said } = await held();
    const other = { recorders: [{ ...recorder('far'), signals: ['t.a', 'mill.wheel'] }], panels: [] };
    await user.upload(screen.getByLabelText('Plan file'), file('other.plan.json', other));
    expect(await screen.findByText(/1 name does not exist in this design/)).toBeTruthy();
    expect(screen.getByText('mill.wheel')).toBeTruthy();
    expect(said()).toBe('one+ other-');
  });

  test('a file that is no plan is refused by its name', async () => {
    const { screen, user, said } = await held();
    await user.upload(screen.getByLabelText('Plan file'), file('list.json', 'shopping'));
    expect(await screen.findByText(/list\.json is no JSON/)).toBeTruthy();
    expect(said()).toBe('one+');
  });
});

describe('what a plan takes', () => {
  const cost = (luts: number) => ({
    total: { luts, registers: 20, blockRams: 1 },
    room: { luts: 100, registers: 200, blockRams: 4 },
    isExact: true,
    cores: [{ name: 'main', cost: { luts, registers: 20, blockRams: 1 } }],
  });
  const answer = (given: unknown) => ({ superseded: false, answer: given });
  const cheaper = {
    plan: { recorders: [recorder('main', 256)], panels: [] },
    change: 'a depth of 256',
    cost: { luts: 60, registers: 20, blockRams: 1 },
  };
  const shown = (answers: Readonly<Record<string, (input: never) => unknown>>, others = NONE) => {
    const plans: ProbePlan[] = [];
    const page = renderPage(<Cost plan={PLAN} others={others} onPlan={(plan) => plans.push(plan)} />, { answers });
    return page.then((made) => ({ ...made, plans }));
  };

  test('stands beside what is free', async () => {
    const { screen } = await shown({ 'probe.cost': () => answer(cost(70)) });
    const table = await screen.findByTestId('plan-cost');
    expect([...table.querySelectorAll('tbody tr')].map((row) => row.textContent)).toEqual([
      'LUTs70100',
      'Flip-flops20200',
      'Block RAMs14',
    ]);
    expect(table.querySelectorAll('[data-over]')).toHaveLength(0);
    expect(table.querySelector('table')?.title).toBe('main: 70 LUTs, 20 flip-flops, 1 block RAM, with the hub');
  });

  test('too much is marked, and the least to give up is offered', async () => {
    const { screen, user, plans } = await shown({
      'probe.cost': () => answer(cost(130)),
      'probe.cheaper': () => answer(cheaper),
    });
    expect(await screen.findByText(/Enough would be a depth of 256 \(60 LUTs, 1 block RAM\)/)).toBeTruthy();
    expect(screen.getByTestId('plan-cost').querySelectorAll('[data-over]')).toHaveLength(1);
    await user.click(screen.getByRole('button', { name: 'Do that' }));
    expect(plans).toEqual([cheaper.plan]);
  });

  test('where nothing helps that is said', async () => {
    const { screen } = await shown({ 'probe.cost': () => answer(cost(900)), 'probe.cheaper': () => answer(null) });
    expect(await screen.findByText(/The smallest settings are not enough/)).toBeTruthy();
  });

  test('counted without the design it is called so', async () => {
    const { screen } = await shown({ 'probe.cost': () => answer({ ...cost(70), isExact: false }) }, PLAN);
    expect(await screen.findByText(/The cores alone/)).toBeTruthy();
    expect(screen.getByText('takes, about')).toBeTruthy();
    expect(screen.getByText('With others in the build')).toBeTruthy();
  });

  test('an answer that was put off is asked again; what cannot be told says why', async () => {
    let asked = 0;
    const { screen, unmount } = await shown({
      'probe.cost': () => (asked++ === 0 ? { superseded: true } : answer(cost(70))),
    });
    expect(await screen.findByTestId('plan-cost', {}, { timeout: 5000 })).toBeTruthy();
    unmount();
    const broken = await shown({
      'probe.cost': () => {
        throw new ProblemError(problem('no-build', 'Build first.'));
      },
    });
    expect(await broken.screen.findByText('Build first.')).toBeTruthy();
  });
});
