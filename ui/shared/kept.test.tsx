// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { renderPage } from '../../tests/support/page/render.tsx';
import { sizeText } from './format.ts';
import { KeptList, NearlyFull } from './kept.tsx';

const KEPT = { count: 3, bytes: 3 * 2 ** 20, most: 100, mostBytes: 2 ** 30 };
const ROWS = [
  { id: 9, title: 'nine', time: '2026-01-02T03:04:05Z', bytes: 2048 },
  { id: 4, title: 'four', time: '2026-01-02T03:04:05Z', bytes: 5 },
];

async function opened(over: Partial<Parameters<typeof KeptList>[0]> = {}) {
  const told: string[] = [];
  const page = await renderPage(
    <KeptList
      what="capture"
      rows={ROWS}
      kept={KEPT}
      then="Then it ends."
      onDelete={(id) => void told.push(`delete ${id}`)}
      onChoose={(id) => void told.push(`choose ${id}`)}
      onMore={() => void told.push('more')}
      {...over}
    />,
  );
  await page.user.click(page.screen.getByRole('button', { name: `All ${over.kept?.count ?? 3} captures` }));
  return { ...page, told };
}

describe('all that is kept', () => {
  test('is listed with sizes and limits; one is shown, older ones are fetched', async () => {
    const { screen, user, told } = await opened();
    expect(screen.getByText('3 of at most 100, 3.0 MiB of at most 1.00 GiB')).toBeTruthy();
    expect(screen.getByText('2.0 KiB')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Show older ones (1)' }));
    await user.click(screen.getByRole('button', { name: 'four' }));
    expect(told).toEqual(['more', 'choose 4']);
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  test('is deleted after asking', async () => {
    const { screen, user, told } = await opened();
    await user.click(screen.getByRole('button', { name: 'Delete nine' }));
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(told).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'Delete nine' }));
    await user.click(screen.getByRole('button', { name: 'Delete' }));
    expect(told).toEqual(['delete 9']);
  });

  test('says a word before the end is reached, by number or by size', async () => {
    const full = { ...KEPT, count: 81 };
    const { screen } = await opened({ kept: full });
    expect(screen.getByRole('status').textContent).toBe('81 of 100 captures, 3.0 MiB of 1.00 GiB. Then it ends.');
    const large = await renderPage(<NearlyFull kept={{ ...KEPT, bytes: 0.9 * 2 ** 30 }} what="file" then="" />);
    expect(large.container.textContent).toContain('921.6 MiB of 1.00 GiB');
    const roomy = await renderPage(<NearlyFull kept={KEPT} what="file" then="" />);
    expect(roomy.container.querySelector('[role=status]')).toBeNull();
  });

  test('sizes are written in the unit that fits', () => {
    expect([0, 1023, 1024, 1536, 2 ** 20, 2.5 * 2 ** 30].map(sizeText)).toEqual([
      ...['0 B', '1023 B', '1.0 KiB', '1.5 KiB', '1.0 MiB', '2.50 GiB'],
    ]);
  });
});
