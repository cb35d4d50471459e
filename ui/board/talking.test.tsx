// @vitest-environment happy-dom
import { fireEvent } from '@testing-library/react';
import { describe, expect, test } from 'vitest';
import type { BoardView } from '../../core/board/index.ts';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { BoardDock } from './index.ts';

const CAN = {
  power: true,
  bootSwitch: true,
  reconfigure: true,
  reset: false,
  view: true,
  practice: true,
  line: true,
  bench: true,
};
const POD = { pod: { address: 'ws://x', state: 'connected' as const, name: 'Mine', problem: null, capabilities: CAN } };

const shown = (parts: readonly object[], answers = {}) =>
  renderPage(<BoardDock />, {
    state: POD,
    board: { view: { time: 1, fpga: 0, parts } as unknown as BoardView },
    answers: { 'bench.operate': done, 'bench.turn': done, ...answers },
  });

const moves = (calls: readonly { readonly name: string; readonly input: unknown }[]) =>
  calls.filter(({ name }) => name.startsWith('bench.')).map(({ input }) => input);

describe('parts that talk', () => {
  test('a display shows its rows while it is on, and nothing of them while it is off', async () => {
    const rows = ['Lock 7          ', '400 cm          '];
    const display = { kind: 'text', name: 'D0', label: 'display', pins: ['P1'], rows };
    const { screen, tellBoard } = await shown([{ ...display, isOn: true }]);
    expect(screen.getByTestId('text-D0').textContent).toContain('Lock 7');
    expect(screen.getByRole('img', { name: /Lock 7.*400 cm/ })).toBeTruthy();
    tellBoard({ view: { time: 2, fpga: 0, parts: [{ ...display, isOn: false }] } as unknown as BoardView });
    expect(screen.getByTestId('text-D0').textContent).not.toContain('Lock 7');
    expect(screen.getByRole('img', { name: 'dark' })).toBeTruthy();
  });

  test('keys go to the board while its keyboard has the focus; Tab leaves it, and what is down goes up', async () => {
    const keyboard = {
      kind: 'keyboard',
      name: 'K0',
      label: 'keys',
      pins: [],
      keys: ['A', '7', 'Up', 'Tab'],
      down: ['Up'],
    };
    const { screen, calls } = await shown([keyboard]);
    const field = screen.getByRole('button', { name: 'Keyboard K0, keys' });
    fireEvent.focus(field);
    fireEvent.keyDown(field, { code: 'KeyA' });
    fireEvent.keyDown(field, { code: 'KeyA', repeat: true });
    fireEvent.keyUp(field, { code: 'KeyA' });
    fireEvent.keyDown(field, { code: 'Digit7' });
    expect(fireEvent.keyDown(field, { code: 'Tab' }), 'Tab is the page’s').toBe(true);
    fireEvent.keyDown(field, { code: 'F5' });
    fireEvent.blur(field);
    await expect
      .poll(() => moves(calls))
      .toEqual([
        { control: 'K0/A', on: true },
        { control: 'K0/A', on: false },
        { control: 'K0/7', on: true },
        { control: 'K0/Up', on: false },
      ]);
  });

  test('a dial is turned between its limits, and shows its unit', async () => {
    const dial = { kind: 'dial', name: 'T0', label: 'tank', pins: [], value: 700, low: 100, high: 3000, unit: 'mV' };
    const { screen, calls } = await shown([dial]);
    const slider = screen.getByRole('slider', { name: 'tank, T0' });
    expect([slider.getAttribute('min'), slider.getAttribute('max')]).toEqual(['100', '3000']);
    expect(screen.getByText('700 mV')).toBeTruthy();
    fireEvent.change(slider, { target: { value: '1234' } });
    await expect.poll(() => moves(calls)).toEqual([{ control: 'T0', value: 1234 }]);
  });

  test('lamps, buttons and switches carry the ports of the open design that are on their pins', async () => {
    const { screen } = await shown(
      [
        { kind: 'lamp', name: 'L0', label: 'sluice', pin: 'P26', level: 1, hertz: null },
        { kind: 'lamp', name: 'L1', label: 'other', pin: 'P99', level: 1, hertz: null },
        { kind: 'button', name: 'B0', label: 'boat', pin: 'P5', down: false },
        { kind: 'switch', name: 'S0', label: 'fast', pin: 'P10', on: true },
        { kind: 'digits', name: 'digits', pins: ['P51', 'P52', 'P60'], rows: [[0, 0, 0, 0, 0, 0, 0, 0]] },
        { kind: 'oscillator', name: 'X1', pin: 'P1', hz: 12e6 },
      ],
      {
        'project.settings': () => ({ file: { pins: 'pins.csv' }, migrated: null, board: null }),
        'project.files': () => [
          {
            name: 'pins.csv',
            text: 'port,pin\nlamp[0],P26\ncall,P5\nmode,P10\nsegment[0],P51\nsegment[1],P52\ncommon,P60\nclk,P1\n',
            version: 'a',
            changed: '',
          },
        ],
      },
    );
    expect(await screen.findByText('lamp[0]')).toBeTruthy();
    expect(screen.getByText('segment, common')).toBeTruthy();
    expect(screen.getByText(/X1 12 MHz clk/)).toBeTruthy();
    expect(screen.getByTestId('lamp-L1').textContent).toBe('other');
    expect(screen.getByRole('button', { name: 'Button B0, boat' }).textContent).toContain('call');
    expect(screen.getByRole('switch', { name: 'Switch S0, fast' }).textContent).toContain('mode');
  });
});
