// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { job } from '../../../tests/support/page/state.ts';
import { StepsView } from './index.ts';

const ANSWERS = { 'jobs.start': () => ({ id: 1 }) };
const FLASH = { part: { bytes: 4 << 20, name: 'LR32', maker: 'Ledger' } } as never;

async function steps(over: Parameters<typeof renderPage>[1] = {}) {
  const page = await renderPage(<StepsView />, { answers: ANSWERS, ...over });
  const fill = async (label: string, text: string) => {
    const field = page.screen.getByLabelText(new RegExp(`^${label}`));
    await page.user.clear(field);
    await page.user.type(field, text);
  };
  const press = (name: string) => page.user.click(page.screen.getByRole('button', { name }));
  return { ...page, fill, press, asked: () => page.calls.map(({ input }) => input) };
}

describe('each step alone', () => {
  test('what loses nothing is done at once, over the stretch that is given', async () => {
    const { fill, press, asked } = await steps();
    await fill('from', '0x101000');
    await fill('length', '32');
    for (const name of ['Check', 'Compute', 'Read', 'Verify']) await press(name);
    const where = { address: 0x101000, length: 32 };
    expect(asked()).toEqual(
      [{ what: 'blank', ...where }, { what: 'crc', ...where }, { what: 'read', ...where }, { what: 'verify' }].map(
        (step) => ({ kind: 'flash-step', step }),
      ),
    );
  });

  test('what erases is asked about first, and left when told so', async () => {
    const { screen, fill, press, asked } = await steps();
    await press('Erase');
    expect(screen.getByRole('region', { name: 'Before erasing' }).textContent).toMatch(
      /from 0x0 on, 0x1000 bytes, is lost/,
    );
    await press('Leave it as it is');
    expect(asked()).toEqual([]);
    await fill('Byte to fill with', '0x5A');
    await press('Fill');
    await press('Fill it');
    await press('Write');
    await press('Write it');
    expect(asked()).toEqual([
      { kind: 'flash-step', step: { what: 'fill', address: 0, length: 0x1000, byte: 0x5a } },
      { kind: 'keep', boot: false },
    ]);
  });

  test('a stretch or a byte that is none is refused with how one looks', async () => {
    const { screen, fill, press, asked } = await steps();
    await fill('length', '0');
    await press('Check');
    expect(await screen.findByText(/A stretch has an address and a length, such as/)).toBeTruthy();
    await fill('length', '16');
    await fill('Byte to fill with', '256');
    await press('Fill');
    expect(await screen.findByText('A byte is a number from 0 to 255.')).toBeTruthy();
    expect(asked()).toEqual([]);
  });

  test('the whole chip is one press, when it is known how large it is', async () => {
    const { screen, press } = await steps({ state: { flash: FLASH } });
    await press('the whole chip');
    expect((screen.getByLabelText(/^length/) as HTMLInputElement).value).toBe('0x400000');
  });

  test('while something runs, and without a pod, nothing can be begun', async () => {
    const { screen } = await steps({
      state: { jobs: [job({ id: 1, kind: 'keep', state: 'running', endedAt: null })] },
    });
    for (const name of ['Check', 'Erase', 'Fill', 'Compute', 'Read', 'Verify', 'Write'])
      expect((screen.getByRole('button', { name }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('what was read is saved in any format', async () => {
    const { screen } = await steps({
      state: { flashRead: { start: 0x100000, length: 4096, time: '2026-01-02T03:04:05Z' } as never },
    });
    expect(screen.getByTestId('flash-read').textContent).toMatch(/4,096 bytes from 0x100000/);
    expect(screen.getAllByRole('link').map((link) => link.getAttribute('href'))).toEqual([
      '/api/flash-read?format=binary',
      '/api/flash-read?format=intel-hex',
      '/api/flash-read?format=s-record',
    ]);
  });
});
