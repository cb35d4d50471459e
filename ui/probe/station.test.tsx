// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { build, type ProjectFile } from '../../core/build/index.ts';
import { emptyPlan, type PlanShelf } from '../../core/probes/index.ts';
import { ProblemError, problem } from '../../core/result.ts';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { SUMMARY } from '../../tests/support/page/state.ts';
import { ProbeStation } from './station.tsx';

const SOURCE = `module top(input clk, input go, output reg [3:0] level);
  always @(posedge clk) if (go) level <= level + 1;
endmodule
`;
const FILE: ProjectFile = {
  ...{ format: 'nimble-project', version: 3, grade: 2, name: 'Lamp', part: 'CV25', pins: 'pins.csv' },
  ...{ accepted: [], clocks: {} },
};
const { bitstream: _, ...details } = build({
  project: { file: FILE, files: [{ name: 'top.v', text: SOURCE }] },
  plan: emptyPlan,
});

/** The station, with a server that keeps the plan as `save` says. */
async function probe(save: (next: PlanShelf) => unknown = done, held: PlanShelf = []) {
  const built = { id: 1, created: '', milliseconds: 1, good: true, inputs: {}, details };
  const page = await renderPage(<ProbeStation />, {
    state: { latest: SUMMARY, usable: SUMMARY },
    at: '/probe',
    answers: {
      'design.newest': () => ({ latest: built, usable: built }),
      'probe.shelf': () => held,
      'probe.saveShelf': (next: never) => save(next),
      'probe.cost': () => ({ superseded: true }),
      'probe.cheaper': () => ({ superseded: true }),
      'jobs.start': done,
    },
  });
  await page.screen.findByRole('button', { name: 'Record top.level' });
  const saved = () =>
    page.calls
      .filter(({ name }) => name === 'probe.saveShelf')
      .map(({ input }) => (input as PlanShelf).flatMap(({ plan }) => plan.recorders.flatMap((one) => one.signals)));
  return { ...page, saved, use: (name: string) => page.screen.getByRole('button', { name }) };
}

describe('the clock of a recorder', () => {
  test('is shown with how fast it could run, beside what is wanted of it', async () => {
    const plan = { recorders: [{ name: 'r', clock: 'top.clk', depth: 64, signals: ['top.level'] }], panels: [] };
    const { screen } = await probe(done, [{ name: 'plan', inBuild: true, plan }]);
    expect(await screen.findByText(/^up to [\d.]+ MHz$/)).toBeTruthy();
  });
});

describe('signals chosen for a plan', () => {
  test('two in a moment are both in it: the second click knows of the first', async () => {
    const { use, saved } = await probe();
    use('Record top.go').click();
    use('Record top.level').click();
    await expect.poll(() => saved().at(-1)).toEqual(['top.go', 'top.level']);
    expect(use('Record top.go').getAttribute('aria-pressed')).toBe('true');
  });

  test('a slow save is not overtaken by the one after it', async () => {
    let answer = () => {};
    const slow = new Promise<void>((go) => {
      answer = go;
    });
    const { use, user, saved } = await probe(async () => void (await slow));
    await user.click(use('Record top.go'));
    await user.click(use('Record top.level'));
    await expect.poll(saved).toEqual([['top.go']]);
    answer();
    await expect.poll(saved).toEqual([['top.go'], ['top.go', 'top.level']]);
  });

  test('what the server refuses is said, and not shown as kept', async () => {
    const { use, user, screen } = await probe(() => {
      throw new ProblemError(problem('full', 'The disk is full.', 'Make room.'));
    });
    await user.click(use('Record top.go'));
    expect(await screen.findByText('The disk is full.')).toBeTruthy();
    await expect.poll(() => use('Record top.go').getAttribute('aria-pressed')).toBe('false');
  });

  test('the plan is in the build that is started from here, to its last click', async () => {
    let answer = () => {};
    const slow = new Promise<void>((go) => {
      answer = go;
    });
    const { screen, user, use, calls } = await probe(async () => void (await slow));
    await user.click(use('Record top.go'));
    await user.click(use('Record top.level'));
    await user.click(screen.getByRole('button', { name: 'Build with probes' }));
    expect(calls.some(({ name }) => name === 'jobs.start')).toBe(false);
    answer();
    const writes = () => calls.map(({ name }) => name).filter((name) => /^(probe.saveShelf|jobs.start)$/.test(name));
    await expect.poll(writes).toEqual(['probe.saveShelf', 'probe.saveShelf', 'jobs.start']);
  });
});
