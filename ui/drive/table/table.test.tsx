// @vitest-environment happy-dom
import { beforeEach, describe, expect, test } from 'vitest';
import { ProblemError, problem } from '../../../core/result.ts';
import type { KeptTable } from '../../../server/index.ts';
import { type Answers, renderPage } from '../../../tests/support/page/render.tsx';
import { tableRecord, tableRows } from './rows.ts';
import { Outcome } from './outcome.tsx';
import { TableView } from './view.tsx';

const failure = { row: 2, port: 'q', expected: '6', actual: '5' };
/** Three rows of four: the second is wrong, the third is otherwise than in simulation, the fourth was not run. */
const RESULT: KeptTable = {
  fingerprint: 'ab'.repeat(16),
  columns: [
    { kind: 'input', port: 'd', width: 4 },
    { kind: 'cycles' },
    { kind: 'expect', port: 'q', width: 4 },
    { kind: 'expect', port: 'z', width: 8 },
  ],
  texts: [
    ['1', '1', '1', ''],
    ['5', '', '6', '0x0x'],
    ['0bx1', '2', '', ''],
    ['4', '', '4', ''],
  ],
  rows: [
    { row: 1, set: ['1', null, null, null], actual: [null, null, '1', '0x00'], failures: [] },
    { row: 2, set: ['5', null, null, null], actual: [null, null, '5', '0x07'], failures: [failure] },
    { row: 3, set: ['0b11', null, null, null], actual: [null, null, '3', '0xff'], failures: [] },
  ],
  ...{ passed: 2, failed: 1, stopped: 'cancelled', notAsked: 0, time: 3, times: 10, whyNotSimulated: null },
  simulated: [
    [null, null, '1', '0xxx'],
    [null, null, '5', '0x07'],
    [null, null, '3', '0xf0'],
    [null, null, '4', '0x00'],
  ],
  differences: [{ row: 3, port: 'z' }],
};

describe('rows of a table', () => {
  const rows = tableRows(RESULT);
  test('each has its verdict, those that were not run too', () => {
    expect(rows.map(({ row, verdict }) => [row, verdict])).toEqual([
      [1, 'passed'],
      [2, 'failed'],
      [3, 'differs'],
      [4, 'not run'],
    ]);
  });
  test('cells have what was written, what was set or came, and what simulation gave; wrong ones are marked', () => {
    expect(rows[2]?.cells[0]).toEqual({ text: '0bx1', hardware: '0b11', simulation: null, isWrong: false });
    expect(rows[1]?.cells[2]).toEqual({ text: '6', hardware: '5', simulation: '5', isWrong: true });
    expect(rows[2]?.cells.map(({ isWrong }) => isWrong)).toEqual([false, false, false, true]);
    expect(rows[3]?.cells[2]).toEqual({ text: '4', hardware: null, simulation: '4', isWrong: false });
  });
  test('over time: inputs, then each output twice, changes alone, unknown bits as such', () => {
    const { signals, end } = tableRecord(RESULT);
    expect(end).toBe(3);
    expect(signals.map(({ name }) => name)).toEqual([
      ...['d', 'q on hardware', 'q in simulation', 'z on hardware', 'z in simulation'],
    ]);
    expect(signals[0]).toMatchObject({
      width: 4,
      times: [0, 1, 2],
      values: [{ value: '1' }, { value: '5' }, { value: '3' }],
    });
    expect(signals[4]?.values[0]).toEqual({ value: '255', unknown: '255' });
    expect(signals[4]).toMatchObject({ times: [0, 1, 2], width: 8 });
  });
});

beforeEach(() => localStorage.clear());

const FILES = ['t.v', 'pins.csv', 'one.csv', 'lock.boards.csv'].map((name) => ({
  name,
  text: '',
  version: '1',
  changed: '',
}));

async function shown(answers: Answers = {}) {
  return renderPage(<TableView hint="hint" />, {
    at: '/drive/table',
    answers: {
      'project.files': () => FILES,
      'project.settings': () => ({ file: { pins: 'pins.csv' } }),
      'drive.table': () => null,
      'jobs.start': () => ({ id: 7 }),
      ...answers,
    },
  });
}

describe('a table on hardware', () => {
  test('the sum, the first row that is wrong in words, and where the waves stand', async () => {
    const run = { id: 1, file: 'one.csv', created: '2026-01-02T03:04:05Z', result: RESULT };
    const { screen, user } = await renderPage(
      <Outcome run={run} waves={({ goTo }) => <output>at {goTo?.tick ?? 'the start'}</output>} />,
    );
    const sum = await screen.findByTestId('table-outcome');
    expect(sum.textContent).toMatch(
      /one\.csv on build abababab: 2 passed, 1 failed, 1 otherwise than in simulation time 3 of 10/,
    );
    expect(screen.getByTestId('first-difference').textContent).toBe('First in row 2: q is 5, expected 6');
    expect(screen.getByText(/3 of 4 rows were run: it was cancelled/)).toBeTruthy();
    expect(screen.getByText('at 1')).toBeTruthy();
    await user.click(screen.getByText('differs'));
    expect(screen.getByText('at 2')).toBeTruthy();
    await user.click(screen.getByLabelText('only rows that differ'));
    expect(screen.getByText('2 rows')).toBeTruthy();
  });

  test('tables are the .csv files that are neither pins nor board data; one is run with its settings', async () => {
    const { screen, user, calls } = await shown();
    const choice = await screen.findByLabelText('Table');
    await expect
      .poll(() => [...choice.querySelectorAll('option')].map(({ textContent }) => textContent))
      .toEqual(['one.csv']);
    await user.type(screen.getByLabelText('For the instance'), 'u_in');
    await user.click(screen.getByLabelText('stop at the first difference'));
    await user.clear(screen.getByLabelText('Times'));
    await user.type(screen.getByLabelText('Times'), '20');
    await user.click(screen.getByRole('button', { name: 'Load and run' }));
    await expect
      .poll(() => calls.find(({ name }) => name === 'jobs.start')?.input)
      .toMatchObject({
        ...{ kind: 'table', file: 'one.csv', instance: 'u_in', seed: 1, times: 20, stopAtFirst: true },
      });
    const seed = screen.getByLabelText('Open digits from');
    await user.clear(seed);
    await user.type(seed, 'many');
    expect((screen.getByRole('button', { name: 'Load and run' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('its plan takes the place of the one before, other plans rest, and it is built', async () => {
    const old = { recorders: [], panels: [] };
    const plan = { ...old, panels: [{ name: 'table', clock: 't.clk', levers: ['t.d'], gauges: ['t.q'] }] };
    const { screen, user, calls } = await shown({
      'drive.tablePlan': () => plan,
      'probe.shelf': () => [
        { name: 'mine', inBuild: true, plan: old },
        { name: 'table', inBuild: false, plan: old },
      ],
      'probe.saveShelf': () => null,
    });
    await user.click(await screen.findByRole('button', { name: 'Make the plan, build' }));
    await expect
      .poll(() => calls.find(({ name }) => name === 'probe.saveShelf')?.input)
      .toEqual([
        { name: 'mine', inBuild: false, plan: old },
        { name: 'table', inBuild: true, plan },
      ]);
    await expect.poll(() => calls.find(({ name }) => name === 'jobs.start')?.input).toMatchObject({ kind: 'build' });
  });

  test('an expression that is wrong is told, and nothing is written', async () => {
    const { screen, user, calls } = await shown({
      'drive.truthTable': () => {
        throw new ProblemError(problem('expression', '"s = a +" cannot be computed.', 'Write another one.'));
      },
    });
    await user.type(await screen.findByLabelText('What outputs are wanted to be'), 's = a +');
    await user.click(screen.getByRole('button', { name: 'Table of all combinations' }));
    expect(await screen.findByText(/cannot be computed/)).toBeTruthy();
    expect(calls.some(({ name }) => name === 'project.addFiles')).toBe(false);
  });
});
