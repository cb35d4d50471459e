// @vitest-environment happy-dom
import { fireEvent } from '@testing-library/react';
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { PinsView } from './index.ts';

const FILE = {
  ...{ format: 'nimble-project', version: 3, name: 'Lamp', part: 'CV25', grade: 2, pins: 'pins.csv' },
  ...{ clocks: {}, accepted: [] },
};
const port = (name: string, direction: string, width = 1) => ({ name, width, direction, clock: name === 'clk' });
const PORTS = [port('clk', 'input'), port('lamp', 'output'), port('level', 'output', 2)];
const BOARD = readFileSync('demo/lockhouse/lockhouse.board.json', 'utf8');

/** The table as the server keeps it. */
async function table(pins = 'port,pin\nclk,P1\n', over: object = {}) {
  let text = pins;
  const settings = { file: FILE, migrated: null, board: null as string | null };
  const page = await renderPage(<PinsView />, {
    at: '/design/pins',
    state: { latest: SUMMARY, usable: SUMMARY },
    answers: {
      'project.settings': () => settings,
      'project.files': () => [{ name: 'pins.csv', text, version: 'a', changed: '' }],
      'project.saveFile': (given: { readonly text: string }) => {
        text = given.text;
        return { version: 'a' };
      },
      'design.ports': () => ({ ports: PORTS, modules: ['t'], top: 't', trouble: null }),
      'design.newest': () => ({ latest: null, usable: null }),
      ...over,
    },
  });
  // The ports are read from the sources by themselves, after the table.
  await page.screen.findByLabelText('Pin of lamp');
  const pin = async (name: string) => (await page.screen.findByLabelText(`Pin of ${name}`)) as HTMLInputElement;
  const put = async (name: string, value: string) => {
    const field = await pin(name);
    await page.user.clear(field);
    await page.user.type(field, `${value}{Enter}`);
  };
  return { ...page, pin, put, text: () => text };
}

describe('the pins', () => {
  test('every bit of every port has a row; those with a pin are what is kept', async () => {
    const { screen, pin, put, text } = await table();
    expect((await pin('clk')).value).toBe('P1');
    const rows = screen.getByRole('table', { name: 'Ports' }).querySelectorAll('[data-drag]');
    expect([...rows].map((row) => row.getAttribute('data-drag'))).toEqual(['clk', 'lamp', 'level[0]', 'level[1]']);
    await put('level[1]', 'P30');
    await expect.poll(text).toMatch(/level\[1\],P30/);
    expect(text()).not.toMatch(/lamp/);
  });

  test('what cannot be is said below its row: no such pin, one used twice, a bank of another supply', async () => {
    const { screen, put } = await table();
    await put('lamp', 'P99');
    expect(await screen.findByText(/Pin P99 is no user pin/)).toBeTruthy();
    await put('lamp', 'P1');
    expect((await screen.findAllByText(/Pin P1 is already used/)).length).toBeGreaterThan(0);
  });

  test('a port that is gone keeps its line until somebody takes it away', async () => {
    const { screen, pin } = await table('port,pin\nclk,P1\nold,P9\n');
    expect((await pin('old')).value).toBe('P9');
    expect(await screen.findByText('gone')).toBeTruthy();
  });

  test('cells of a spreadsheet are shown before they are taken, wherever they are pasted', async () => {
    const { screen, user, text, pin } = await table();
    await pin('lamp');
    const clipboardData = { getData: () => 'lamp\tP26\r\nclk\tP2\r\n' };
    fireEvent.paste(document.body, { clipboardData });
    const said = await screen.findByText(/2 lines read/);
    expect(said.textContent?.replace(/\s+/g, ' ')).toBe('2 lines read, 1 of them move a port that has a pin.');
    await user.click(screen.getByRole('button', { name: 'Leave them' }));
    expect((await pin('lamp')).value).toBe('');
    fireEvent.paste(document.body, { clipboardData });
    await user.click(await screen.findByRole('button', { name: 'Take them' }));
    await expect.poll(text).toMatch(/clk,P2[\s\S]*lamp,P26/);
  });

  test('what has no pins in it is refused; one word pasted into a field stays a word', async () => {
    const { screen, pin } = await table();
    await pin('lamp');
    fireEvent.paste(document.body, { clipboardData: { getData: () => 'shopping list' } });
    expect(await screen.findByText(/no port and pin columns/)).toBeTruthy();
    const event = fireEvent.paste(await pin('lamp'), { clipboardData: { getData: () => 'P26' } });
    expect(event, 'the field takes it by itself').toBe(true);
  });

  test('the board offers its pins by name; without a description it says so', async () => {
    const plain = await table();
    await plain.user.click(await plain.screen.findByRole('button', { name: 'Pins from the board' }));
    expect(await plain.screen.findByText('The project names no board.')).toBeTruthy();
    plain.unmount();
    const settings = { file: { ...FILE, board: 'b.board.json' }, migrated: null, board: BOARD };
    const { screen, user, text } = await table('port,pin\n', { 'project.settings': () => settings });
    await user.click(await screen.findByRole('button', { name: 'Pins from the board' }));
    expect(await screen.findByRole('checkbox', { name: /^clk\s*→\s*P1/ })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: /^Take \d/ }));
    await expect.poll(text).toMatch(/clk,P1/);
  });
});
