// @vitest-environment happy-dom
import { fireEvent } from '@testing-library/react';
import { describe, expect, test } from 'vitest';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { STATE, SUMMARY } from '../../tests/support/page/state.ts';
import type { BoardView } from '../../core/board/index.ts';
import { BoardDock } from './index.ts';

const VIEW = {
  time: 1,
  fpga: 1,
  parts: [
    { kind: 'lamp', name: 'L0', label: 'gate', level: 0.5, hertz: 2 },
    { kind: 'lamp', name: 'done', label: 'DONE', level: 1, hertz: null },
    { kind: 'button', name: 'B0', label: 'upper boat', down: false },
    { kind: 'button', name: 'B3', label: 'reset', down: false },
    { kind: 'switch', name: 'S0', label: 'fast water', on: false },
    { kind: 'selector', name: 'boot', label: 'boot', position: 'flash', positions: ['flash', 'jtag'] },
    { kind: 'oscillator', name: 'X1', pin: 'P1', hz: 12e6 },
  ],
} as unknown as BoardView;
const ANSWERS = {
  'jobs.start': () => ({ id: 1 }),
  'bench.operate': done,
  'bench.setBootSource': done,
  'bench.reconfigure': done,
};
const CABLE_ONLY = {
  power: false,
  bootSwitch: false,
  reconfigure: false,
  reset: false,
  view: false,
  practice: false,
  line: false,
  bench: false,
};
const RUNNING = {
  device: 1,
  fingerprint: SUMMARY.fingerprint,
  done: true,
  status: { done: true, bootSource: 'flash' },
} as never;
const KEPT = { fingerprint: SUMMARY.fingerprint, chip: 'Ledger LR32', time: '2026-01-02T03:04:05Z', by: '' } as never;

/** What was asked for at the board, without what the page reads of the project. */
const moves = <T extends { readonly name: string }>(calls: readonly T[]): readonly T[] =>
  calls.filter(({ name }) => !name.startsWith('project.'));

describe('the board', () => {
  test('shows its lamps with their rate, and works its buttons by pointer and by key', async () => {
    const { screen, calls, user } = await renderPage(<BoardDock />, { answers: ANSWERS, board: { view: VIEW } });
    expect(screen.getByTestId('lamp-L0').getAttribute('data-hertz')).toBe('2.000');
    expect(screen.getAllByText('DONE'), 'what the FPGA says stands once').toHaveLength(1);
    const button = screen.getByRole('button', { name: 'Button B0, upper boat' });
    button.setPointerCapture = () => {};
    fireEvent.pointerDown(button, { pointerId: 1 });
    fireEvent.pointerUp(button, { pointerId: 1 });
    button.focus();
    await user.keyboard('{Enter}');
    await user.click(screen.getByRole('switch', { name: 'Switch S0, fast water' }));
    expect(moves(calls).map(({ input }) => input)).toEqual([
      { control: 'B0', on: true },
      { control: 'B0', on: false },
      { control: 'B0', on: true },
      { control: 'B0', on: false },
      { control: 'S0', on: true },
    ]);
  });

  test('says how near to real time a simulated one runs', async () => {
    const { screen, tellBoard } = await renderPage(<BoardDock />, { board: { view: VIEW, speed: 1 } });
    expect(screen.getByTestId('board-speed').textContent).toBe('in real time');
    tellBoard({ speed: 0.31 });
    expect(screen.getByTestId('board-speed').textContent).toBe('at 31 % of real time');
  });

  test('its supply is what the cable measures; its switch does what it says', async () => {
    const { screen, calls, user, tellBoard } = await renderPage(<BoardDock />, {
      answers: ANSWERS,
      board: { view: VIEW },
    });
    await user.click(screen.getByRole('button', { name: 'Power off' }));
    const cable = { attached: true, referenceVolts: 0, tckHz: 1e6, leastHz: 1, mostHz: 1e7 };
    tellBoard({ cable });
    await user.click(screen.getByRole('button', { name: 'Power on' }));
    expect(moves(calls).map(({ input }) => input)).toEqual([
      { kind: 'power', on: false },
      { kind: 'power', on: true },
    ]);
  });

  test('behind a pod with a cable alone has no switch, no lamp and no boot switch, and says where they are', async () => {
    const { screen } = await renderPage(<BoardDock />, {
      state: { pod: { ...STATE.pod, capabilities: CABLE_ONLY } },
    });
    expect(screen.getByText(/3\.3 V at the reference pin\. Its switch is on the board\./)).toBeTruthy();
    expect(screen.getByText(/lamps, buttons and switches are on the board in front of you/)).toBeTruthy();
    expect(screen.queryByTestId('boot-switch')).toBeNull();
    expect(screen.getByTestId('board-face').querySelectorAll('button, [role=switch]')).toHaveLength(0);
  });

  test('a boot switch that stands otherwise than the flash wants is pointed at', async () => {
    const state = {
      kept: KEPT,
      running: { device: 1, fingerprint: null, done: false, status: { done: false, bootSource: 'jtag' } },
    };
    const { screen, calls, user } = await renderPage(<BoardDock />, {
      answers: ANSWERS,
      board: { view: VIEW },
      state: state as never,
    });
    expect(screen.getByText(/The flash holds a design, but the switch stands at JTAG/)).toBeTruthy();
    await user.click(screen.getByRole('radio', { name: 'JTAG' }));
    await user.click(screen.getByRole('button', { name: 'Reconfigure' }));
    expect(moves(calls).map(({ name }) => name)).toEqual(['bench.setBootSource', 'bench.reconfigure']);
  });

  test('without a pod there is none, and it folds away', async () => {
    const { screen, user } = await renderPage(<BoardDock />, { board: null });
    expect(screen.getByText(/No pod is connected\. See Bench\./)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Fold the board away' }));
    expect(screen.queryByText(/No pod is connected/)).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Unfold the board' }));
    expect(screen.getByText(/No pod is connected/)).toBeTruthy();
  });
});

describe('what runs, and whether it would survive the night', () => {
  const said = (screen: { getByTestId(id: string): HTMLElement }) =>
    ['dock-running', 'dock-kept'].map((id) => screen.getByTestId(id).textContent);

  test.each([
    ['nobody asked', {}, ['not asked', 'what the FPGA runs was not asked']],
    ['a build that is not kept', { running: RUNNING }, ['ffffffff', 'running, not kept']],
    ['a build that is kept', { running: RUNNING, kept: KEPT }, ['ffffffff', /^kept, 2026-01-02/]],
    ['another one uses the pod', { usedBy: 'Ada' }, ['in use by Ada', /asked when the pod is free/]],
    [
      'an empty FPGA',
      { running: { device: 1, fingerprint: null, done: false, status: { done: false } } },
      ['nothing', 'the FPGA is empty'],
    ],
    [
      'somebody else’s design',
      { running: { device: 1, fingerprint: null, done: true, status: { done: true } } },
      ['a design without fingerprint', 'DONE is high'],
    ],
  ])('%s', async (_, state, [running, kept]) => {
    const { screen } = await renderPage(<BoardDock />, { state: state as never });
    const [first, second] = said(screen);
    expect(first).toBe(running);
    expect(second).toMatch(kept as string | RegExp);
  });

  test('a board that is off', async () => {
    const cable = { attached: true, referenceVolts: 0.1, tckHz: 1e6, leastHz: 1, mostHz: 1e7 };
    const { screen } = await renderPage(<BoardDock />, { board: { cable } });
    expect(said(screen)).toEqual(['without power', 'the board is off']);
  });
});
