// @vitest-environment happy-dom
import { render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { cleanup } from '@testing-library/react';
import { DataTable } from './data-table.tsx';

interface Row {
  readonly name: string;
  readonly bits: number;
}

const ROWS: readonly Row[] = [
  { name: 'lock.level', bits: 12 },
  { name: 'lock.u_chamber.state', bits: 3 },
  { name: 'lock.u_chamber.level', bits: 9 },
];
const COLUMNS = [
  { accessorKey: 'name', header: 'Name' },
  { accessorKey: 'bits', header: 'Bits' },
  { id: 'do', header: '', cell: () => <button type="button">draw</button> },
];

const table = (rows: readonly Row[] = ROWS, more: Partial<Parameters<typeof DataTable<Row>>[0]> = {}) =>
  render(<DataTable name="signals" rows={rows} columns={COLUMNS} empty="No signal yet." {...more} />);
const names = () =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((row) => within(row).getAllByRole('cell')[0]?.textContent);

afterEach(cleanup);

describe('a table', () => {
  test('is filtered by words in any order, and says how many rows are left', async () => {
    table();
    expect(screen.getByText('3 rows')).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Filter signals'), 'level chamber');
    expect(names()).toEqual(['lock.u_chamber.level']);
    expect(screen.getByText('1 of 3 rows')).toBeTruthy();
    await userEvent.type(screen.getByLabelText('Filter signals'), ' zzz');
    expect(screen.getByText('Nothing matches the filter.')).toBeTruthy();
  });

  test('numbers end below one another, under their head; text begins so', () => {
    table(ROWS, { columns: [COLUMNS[0], { accessorKey: 'bits', header: 'Bits', meta: { isNumber: true } }] as never });
    const right = (element: Element | undefined) => element?.classList.contains('text-right');
    expect(screen.getAllByRole('columnheader').map(right)).toEqual([false, true]);
    for (const row of screen.getAllByRole('row').slice(1))
      expect(within(row).getAllByRole('cell').map(right)).toEqual([false, true]);
  });

  test('is sorted by its heads, which say how; a head without a name says what its column is for', async () => {
    table();
    const head = () => screen.getByRole('columnheader', { name: /^Bits/ });
    expect(head().getAttribute('aria-sort')).toBe('none');
    await userEvent.click(within(head()).getByRole('button'));
    const first = head().getAttribute('aria-sort');
    await userEvent.click(within(head()).getByRole('button'));
    expect([first, head().getAttribute('aria-sort')].sort()).toEqual(['ascending', 'descending']);
    expect(names()).toEqual(['lock.u_chamber.state', 'lock.u_chamber.level', 'lock.level']);
    expect(screen.getByRole('columnheader', { name: 'What can be done' })).toBeTruthy();
  });

  test('is copied as it is shown, with its heads', async () => {
    const user = userEvent.setup();
    const write = vi.spyOn(navigator.clipboard, 'writeText').mockResolvedValue();
    table();
    await user.type(screen.getByLabelText('Filter signals'), 'level');
    await user.click(screen.getByRole('button', { name: 'Copy' }));
    expect(write.mock.calls[0]?.[0]?.split('\n').map((line) => line.split('\t').slice(0, 2))).toEqual([
      ['Name', 'Bits'],
      ['lock.level', '12'],
      ['lock.u_chamber.level', '9'],
    ]);
  });

  test('without rows says what is missing, and has nothing to copy', () => {
    table([]);
    expect(screen.getByText('No signal yet.')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Copy' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('a row is chosen by pointer and by Enter, and the chosen one is told', async () => {
    const onRow = vi.fn();
    table(ROWS, { onRow, chosen: ({ bits }) => bits === 3, initialFilter: 'u_chamber' });
    const [first, second] = screen.getAllByRole('row').slice(1);
    expect([first?.getAttribute('aria-selected'), second?.getAttribute('aria-selected')]).toEqual(['true', 'false']);
    await userEvent.click(second as HTMLElement);
    (first as HTMLElement).focus();
    await userEvent.keyboard('{Enter}');
    expect(onRow.mock.calls.map(([row]) => (row as Row).name)).toEqual([
      'lock.u_chamber.level',
      'lock.u_chamber.state',
    ]);
  });

  test('of a hundred thousand rows draws a few', () => {
    table(Array.from({ length: 100_000 }, (_, i) => ({ name: `s${i}`, bits: i })));
    expect(screen.getByText('100000 rows')).toBeTruthy();
    expect(screen.getAllByRole('row', { hidden: true }).length).toBeLessThan(200);
  });
});
