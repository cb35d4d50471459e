// @vitest-environment happy-dom
import { fireEvent } from '@testing-library/react';
import { describe, expect, test } from 'vitest';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { DescriptionDrop } from '../../shell/description-drop.tsx';
import { FileDrop } from '../../shared/index.ts';
import { RegistersView } from './index.ts';

const INSTRUCTIONS = [
  { name: 'BYPASS', opcode: '11111', register: 'BYPASS', length: 1, pins: null },
  {
    name: 'EXTEST',
    opcode: '00000',
    register: 'BOUNDARY',
    length: 9,
    pins: 'drives the pins from the boundary register',
  },
  { name: 'IDCODE', opcode: '00010', register: 'DEVICE_ID', length: 32, pins: null },
];
const KEPT = {
  ...{ name: 'MY_PART', package: 'Q44', idcode: 'XXXX0000000100100011000000000001', irLength: 5, boundaryLength: 9 },
  ...{ instructions: INSTRUCTIONS, added: '2026-01-02T03:04:05Z' },
};
const ANSWERS = {
  'bench.instructionsAt': () => ({ part: 'SP64', instructions: INSTRUCTIONS }),
  'bench.descriptions': () => [KEPT],
  'bench.forgetDescription': () => ({ removed: true }),
  'bench.shift': () => ({ irLength: 5, irCaptured: '0x05', captured: '0x05064FFB', tckCycles: 80, irLengths: [5, 6] }),
  'jobs.start': () => ({ id: 1 }),
};
const device = (index: number, part: string | null) => ({
  ...{ index, idcode: 0x05064ffb, irLength: 5, part, candidates: part ? [part] : [], irCapture: '00101' },
});
const STATE = { scan: { devices: [device(0, 'SP64'), device(1, null)], irTotal: 11, tckCycles: 300, problems: [] } };

const page = (over: object = {}) =>
  renderPage(<RegistersView />, { answers: { ...ANSWERS, ...over }, state: STATE as never });

describe('by hand', () => {
  test('an instruction is chosen with its register; what came is listed, and can be expected', async () => {
    const { screen, user, calls } = await page();
    await screen.findByText(/DEVICE_ID, 32 bits\./);
    await user.clear(screen.getByLabelText('Value in'));
    await user.type(screen.getByLabelText('Value in'), '0b1010');
    await user.click(screen.getByRole('button', { name: 'Shift' }));
    expect(calls.findLast(({ name }) => name === 'bench.shift')?.input).toEqual({
      place: 0,
      opcode: '00010',
      data: { value: '0x0000000A', length: 32 },
    });
    await screen.findByText('0x05064FFB');
    await user.selectOptions(screen.getByLabelText('Shown in'), 'binary');
    screen.getByText(`0b${(0x05064ffb).toString(2).padStart(32, '0')}`);
    const must = screen.getByLabelText('Scan 1 must come as it came') as HTMLInputElement;
    await user.click(must);
    expect(must.checked).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Clear' }));
    expect(screen.queryByText('0x05064FFB')).toBeNull();
  });

  test('an instruction that drives the pins says so before it is shifted', async () => {
    const { screen, user } = await page();
    await screen.findByText(/DEVICE_ID/);
    await user.selectOptions(screen.getByLabelText('Instruction'), 'EXTEST');
    expect(screen.getByTestId('hand-about').textContent).toMatch(/While it is in force it drives the pins/);
  });

  test('without a description an opcode and a length do; what is no number, or too much, is told', async () => {
    const { screen, user, calls } = await page({ 'bench.instructionsAt': () => ({ part: null, instructions: [] }) });
    await screen.findByText(/has no description here: drop its BSDL file anywhere/);
    const shift = screen.getByRole('button', { name: 'Shift' }) as HTMLButtonElement;
    expect(shift.disabled).toBe(true);
    await user.type(screen.getByLabelText('Bits'), '8');
    await user.type(screen.getByLabelText('Opcode'), '0x2');
    await user.clear(screen.getByLabelText('Value in'));
    await user.type(screen.getByLabelText('Value in'), '300');
    await user.click(shift);
    await screen.findByText('300 needs more than 8 bits.');
    await user.clear(screen.getByLabelText('Value in'));
    await user.type(screen.getByLabelText('Value in'), '255');
    await user.click(shift);
    expect(calls.findLast(({ name }) => name === 'bench.shift')?.input).toEqual({
      place: 0,
      opcode: '00010',
      data: { value: '0xFF', length: 8 },
    });
  });

  test('descriptions are kept for all projects, and forgotten', async () => {
    const { screen, user, calls } = await page();
    await screen.findByText('MY_PART');
    screen.getByText('0xx0123001');
    await user.click(screen.getByRole('button', { name: 'forget' }));
    expect(calls.some(({ name }) => name === 'bench.forgetDescription')).toBe(true);
  });
});

test('a BSDL file that is dropped anywhere is no file of the station it falls on', async () => {
  const taken: string[] = [];
  const { screen } = await renderPage(
    <>
      <DescriptionDrop />
      <FileDrop what="a bitstream" disabled={false} onFiles={(files) => taken.push(...files.map(({ name }) => name))}>
        <p>station</p>
      </FileDrop>
    </>,
    { answers: ANSWERS },
  );
  const files = [new File(['x'], 'part.bsd'), new File(['x'], 'a.nbits')];
  fireEvent.drop(screen.getByText('station'), { dataTransfer: { types: ['Files'], files } });
  expect(taken).toEqual(['a.nbits']);
});
