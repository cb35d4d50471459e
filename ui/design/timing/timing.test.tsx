// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import type { TimingPath, TimingReport } from '../../../core/mapping/index.ts';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { TimingView } from './index.ts';

const step = { what: 'LUT', name: 't.sum', own: 0.42, at: 2, fanout: 3 } as const;
const path = (over: Partial<TimingPath> = {}): TimingPath => ({
  ...{ from: 't.count[2]', to: 't.sum[7]', delay: 3.25, slack: -0.75, levels: 2 },
  steps: [
    { ...step, file: 'rtl/t.v', line: 12 },
    { ...step, name: 'nimble_debug.core_1', file: 'nimble_debug.v', line: 3 },
  ],
  advice: 'A register behind t.sum (rtl/t.v:12) makes two ways of it, 2.10 ns and 2.05 ns.',
  ...over,
});
const clock = (name: string, paths: readonly TimingPath[]) => ({
  ...{ clock: name, wanted: 400e6, highest: 307e6, worstSlack: -0.75, endpoints: 9, failing: 1, histogram: [] },
  paths,
});
const REPORT: TimingReport = {
  clocks: [clock('clk', [path(), path({ to: 't.wide[1]', cycles: 2, slack: 1 })]), clock('TCK (debug link)', [])],
  crossings: [],
  rules: [{ kind: 'multicycle', line: 3, from: 't.*', to: 't.wide', cycles: 2, ways: 8, longest: 4.5 }],
  ports: [
    {
      port: 'rx',
      direction: 'in',
      clock: 'clk',
      inside: 1.25,
      board: 6,
      slack: 2.75,
      line: 4,
      path: path({ to: 't.first', advice: 'Nearer.' }),
    },
    {
      port: 'tx',
      direction: 'out',
      clock: 'clk',
      inside: 5,
      board: 6,
      slack: -1,
      line: 5,
      path: path({ from: 't.last', advice: 'Sooner.' }),
    },
    {
      port: 'key',
      direction: 'through',
      clock: null,
      inside: 4.5,
      board: null,
      slack: null,
      line: null,
      path: path({ advice: 'Shorter.' }),
    },
  ],
};

const timing = (report: TimingReport = REPORT, files: readonly { name: string; text: string }[] = []) =>
  renderPage(<TimingView />, {
    state: { latest: SUMMARY, usable: SUMMARY },
    answers: {
      'design.newest': () => ({ latest: { ...SUMMARY, details: { timing: report } }, usable: null }),
      'project.files': () => files.map((one) => ({ ...one, version: 'a', changed: '' })),
      'project.addFiles': done,
    },
  });

const cells = (table: HTMLElement) =>
  [...table.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map(({ textContent }) => textContent),
  );

describe('timing', () => {
  test('each way says what would shorten it, and where its steps are written; debug cores are nobody’s file', async () => {
    const { screen } = await timing();
    const list = await screen.findByRole('list', { name: 'Longest ways' });
    expect(list.textContent).toContain('makes two ways of it, 2.10 ns and 2.05 ns.');
    expect(screen.getByRole('button', { name: 'rtl/t.v:12' })).toBeTruthy();
    expect(list.textContent).toContain('debug core');
    expect(list.textContent).not.toContain('nimble_debug.v');
    expect(list.textContent).toContain('2 cycles');
    // In the column of steps the top module's name is left out.
    expect([...list.querySelectorAll('tbody td:first-child')].map(({ textContent }) => textContent)).toEqual([
      'sum',
      'core_1',
    ]);
  });

  test('pins with what the part and the board take, and what is to spare of a cycle', async () => {
    const { screen } = await timing();
    expect(cells(await screen.findByRole('table', { name: 'Pins' }))).toEqual([
      ['rx', 'in, before the edge', 'clk', '1.25', '6.00', '2.75', 't.firstNearer.'],
      ['tx', 'out, after the edge', 'clk', '5.00', '6.00', '-1.00', 't.lastSooner.'],
      ['key', 'through the part', '–', '4.50', '–', '–', 't.sum[7]'],
    ]);
  });

  test('a way within debug cores has no advice that nobody could follow', async () => {
    const own = path({ steps: [{ ...step, name: 'nimble_debug.core_1', file: 'nimble_debug.v', line: 3 }] });
    const { screen } = await timing({ ...REPORT, clocks: [clock('clk', [own])] });
    const list = await screen.findByRole('list', { name: 'Longest ways' });
    expect(list.textContent).toContain('It runs through a debug core');
    expect(list.textContent).not.toContain('makes two ways');
  });

  test('what the timing table sets aside, with its line', async () => {
    const { screen } = await timing();
    expect(cells(await screen.findByRole('table', { name: 'Set aside' }))).toEqual([
      ['2 cycles', 't.*', 't.wide', '8', '4.50', 'timing.csv:3'],
    ]);
  });

  test('what is known of a way is written into the table, behind what is there', async () => {
    const { screen, user, calls } = await timing(REPORT, [
      { name: 'timing.csv', text: 'kind,from,to,value\nfalse path,a,b,\n' },
    ]);
    const field = await screen.findByLabelText('Cycles');
    await user.clear(field);
    await user.type(field, '1');
    expect(screen.getByRole('button', { name: 'They may take' }).hasAttribute('disabled')).toBe(true);
    await user.clear(field);
    await user.type(field, '4');
    await user.click(screen.getByRole('button', { name: 'They may take' }));
    await screen.findByText(/the next build goes by it/);
    expect(calls.filter(({ name }) => name === 'project.addFiles').map(({ input }) => input)).toEqual([
      {
        files: [{ name: 'timing.csv', text: 'kind,from,to,value\nfalse path,a,b,\nmulticycle,t.count,t.sum,4\n' }],
      },
    ]);
  });

  test('a way between states is written by the register that has them', async () => {
    const ends = { from: 't.u.state', to: 't.u.state' };
    const way = path({ from: 't.u.state = 5', to: 't.u.state = 13', ends });
    const { screen, user, calls } = await timing({ ...REPORT, clocks: [clock('clk', [way])] }, []);
    await user.click(await screen.findByRole('button', { name: 'They do not matter' }));
    await screen.findByText(/the next build goes by it/);
    const [{ files } = { files: [] }] = calls
      .filter(({ name }) => name === 'project.addFiles')
      .map(({ input }) => input as { files: { text: string }[] });
    expect(files[0]?.text).toContain('false path,t.u.state,t.u.state,');
  });

  test('a build of an older release, without pins and rules, is shown as far as it goes', async () => {
    const { rules: _, ports: __, ...old } = REPORT;
    const { screen } = await timing(old);
    await screen.findByRole('list', { name: 'Longest ways' });
    expect(screen.queryByRole('table', { name: 'Pins' })).toBeNull();
  });

  test('a clock that is made says of which, and a way from its family how near the edges come', async () => {
    const way = path({ between: { from: 'clk', time: 3.333 } });
    const made = { ...clock('u_g.clock_a', [way]), made: { source: 'clk', times: 25, over: 6 } };
    const { screen } = await timing({ ...REPORT, clocks: [made] });
    expect(await screen.findByText('clk × 25 / 6')).toBeTruthy();
    expect(screen.getByText('from clk, 3.33 ns from edge to edge')).toBeTruthy();
  });
});
