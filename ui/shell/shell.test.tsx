// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { whereNow } from '../../tests/support/page/navigation.ts';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { job, SUMMARY } from '../../tests/support/page/state.ts';
import { Palette } from './palette.tsx';
import { STATIONS } from './stations.ts';
import { Track } from './track.tsx';

describe('the track', () => {
  test('has every station with its word, and tells the one that is open', async () => {
    const { screen, tell, user } = await renderPage(<Track />, { at: '/load' });
    const links = screen.getAllByRole('link');
    expect(links.map((link) => link.getAttribute('href'))).toEqual(STATIONS.map(({ path }) => path));
    const current = () => screen.getAllByRole('link').filter((link) => link.getAttribute('aria-current') === 'page');
    expect(current().map((link) => link.getAttribute('href'))).toEqual(['/load']);
    expect(screen.getByTestId('state-design').textContent).toBe('not built');
    tell({ latest: SUMMARY, usable: SUMMARY });
    expect(screen.getByTestId('state-design').textContent).toBe('built');
    tell({ stale: [{ what: 'rtl/a.v', change: 'changed', touches: 'everything' }] });
    expect(screen.getByTestId('state-design').textContent).toBe('stale');
    await user.click(screen.getByRole('link', { name: /Keep/ }));
    expect(current().map((link) => link.getAttribute('href'))).toEqual(['/keep']);
  });
});

describe('the palette', () => {
  const projects = {
    projects: [
      { id: 1, name: 'Lamp', created: '2026-01-02T03:04:05Z' },
      { id: 2, name: 'Lockhouse', created: '2026-01-02T03:04:05Z' },
    ],
    current: 1,
  };
  const answers = {
    'project.list': () => projects,
    'jobs.start': () => ({ id: 1 }),
    'project.open': done,
    'jobs.cancel': done,
  };
  const opened = async (over: Parameters<typeof renderPage>[1] = {}) => {
    const page = await renderPage(<Palette />, { answers, ...over });
    await page.user.keyboard('{Control>}k{/Control}');
    return page;
  };

  test('finds a verb by part of its name, does it, and goes where its end is shown', async () => {
    const { screen, calls, user } = await opened();
    await user.type(screen.getByPlaceholderText('What shall be done?'), 'fastest');
    await user.keyboard('{Enter}');
    expect(calls.find(({ name }) => name === 'jobs.start')?.input).toEqual({ kind: 'sweep' });
    expect(whereNow()).toBe('/bench/speed');
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  test('what erases is asked for on its station first', async () => {
    const { screen, calls, user } = await opened();
    await user.click(screen.getByRole('option', { name: 'Write the flash' }));
    expect([whereNow(), calls.some(({ name }) => name === 'jobs.start')]).toEqual(['/keep', false]);
  });

  test('opens another project, and cancels what runs', async () => {
    const { screen, calls, user } = await opened({
      state: { jobs: [job({ id: 5, title: 'Capture', state: 'running', endedAt: null })] },
    });
    await user.click(await screen.findByRole('option', { name: /Open Lockhouse/ }));
    expect(calls.at(-1)).toEqual({ name: 'project.open', input: { id: 2 } });
    await user.keyboard('{Control>}k{/Control}');
    expect(screen.queryByRole('option', { name: /Open Lamp/ })).toBeNull();
    await user.click(screen.getByRole('option', { name: /Cancel Capture/ }));
    expect(calls.at(-1)).toEqual({ name: 'jobs.cancel', input: { id: 5 } });
  });

  test('offers what the pod can do: no supply switch without one', async () => {
    const bare = { power: false, reconfigure: false } as never;
    const { screen } = await opened({
      state: { pod: { address: 'ws://x', state: 'connected', name: 'bare', problem: null, capabilities: bare } },
    });
    expect(screen.queryByRole('option', { name: /Power o/ })).toBeNull();
    expect(screen.queryByRole('option', { name: /Reconfigure/ })).toBeNull();
    expect(screen.getByRole('option', { name: 'Power-cycle the board' })).toBeTruthy();
  });

  test('goes to stations by number, and lists the keys of the one that is open', async () => {
    const { screen, user } = await renderPage(<Palette />, { answers, at: '/capture' });
    await user.keyboard('?');
    expect(screen.getByRole('dialog').textContent).toMatch(/Keys.*Ctrl K.*to the trigger/);
    await user.keyboard('{Escape}{Alt>}4{/Alt}');
    expect(whereNow()).toBe('/keep');
    await user.keyboard('?');
    expect(screen.getByRole('dialog').textContent).not.toMatch(/to the trigger/);
  });

  test('a question mark that is typed into a field is a question mark', async () => {
    const { screen, user } = await renderPage(
      <>
        <input aria-label="note" />
        <Palette />
      </>,
      { answers },
    );
    await user.type(screen.getByLabelText('note'), 'why?');
    expect(screen.queryByRole('dialog')).toBeNull();
  });
});
