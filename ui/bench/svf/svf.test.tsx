// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { STATE } from '../../../tests/support/page/state.ts';
import { SvfView } from './index.ts';

const FILES = [
  { id: 2, name: 'load.svf', bytes: 2048, added: '' },
  { id: 1, name: 'old.svf', bytes: 100, added: '' },
];
const scan = {
  devices: [
    { index: 0, part: 'CV10' },
    { index: 1, part: null },
  ],
  problems: [],
};
const KEPT = { count: 2, bytes: 2148, most: 100, mostBytes: 2 ** 33 };
const ANSWERS = {
  'bench.svfFiles': () => ({ files: FILES, kept: KEPT }),
  'bench.removeSvfFile': done,
  'bench.controlSvf': done,
  'jobs.start': () => ({ id: 1 }),
};

async function player(svf: Partial<typeof STATE.svf> = {}) {
  const page = await renderPage(<SvfView />, {
    answers: ANSWERS,
    state: { scan: scan as never, svf: { ...STATE.svf, ...svf } },
  });
  await page.screen.findByText(/load\.svf, 2.0 KiB/);
  const button = (name: string) => page.screen.getByRole('button', { name }) as HTMLButtonElement;
  const asked = () => page.calls.filter(({ name }) => name !== 'bench.svfFiles').map(({ input }) => input);
  return { ...page, button, asked };
}

describe('the player', () => {
  test('plays the newest file on the whole chain, or as it is told', async () => {
    const { screen, user, button, asked } = await player();
    await user.click(button('Play'));
    await user.selectOptions(screen.getByLabelText('SVF file'), '1');
    await user.selectOptions(screen.getByLabelText('Devices the file is for'), '1');
    await user.type(screen.getByLabelText('Pause at line'), '2x0');
    await user.click(screen.getByLabelText(/go on after a difference/));
    await user.click(button('Play'));
    expect(asked()).toEqual([
      { kind: 'svf', file: 2, device: null, goOn: false, pauseAt: null },
      { kind: 'svf', file: 1, device: 1, goOn: true, pauseAt: 20 },
    ]);
  });

  test('what plays is paused; what is paused goes on, or by one command', async () => {
    const playing = await player({ mode: 'playing', file: FILES[0] as never, line: 1200, commands: 40 });
    expect(playing.screen.getByTestId('svf-where').textContent).toBe('playing, line 1,200, 40 commands');
    expect([playing.button('Play').disabled, playing.button('Go on').disabled]).toEqual([true, true]);
    await playing.user.click(playing.button('Pause'));
    expect(playing.asked()).toEqual([{ action: 'pause', pauseAt: null }]);
    playing.unmount();
    const paused = await player({ mode: 'paused', file: FILES[0] as never, line: 20, commands: 4 });
    expect(paused.button('Pause').disabled).toBe(true);
    await paused.user.type(paused.screen.getByLabelText('Pause at line'), '99');
    await paused.user.click(paused.button('Next command'));
    await paused.user.click(paused.button('Go on'));
    expect(paused.asked()).toEqual([
      { action: 'step', pauseAt: null },
      { action: 'go', pauseAt: 99 },
    ]);
  });

  test('a difference is shown with its bits; an end without one says so', async () => {
    const mismatch = { line: 13, name: 'SDR', length: 32, bits: [0, 2], expected: '05', actual: '00', mask: 'FF' };
    const result = { ok: false, commands: 13, tckCycles: 999, mismatches: [mismatch], problem: null };
    const bad = await player({ result: result as never });
    const said = bad.screen.getByRole('alert');
    expect(said.textContent).toMatch(/Line 13: SDR of 32 bits\. TDO differs at bits 0, 2\./);
    expect([...said.querySelectorAll('dd')].map(({ textContent }) => textContent)).toEqual(['05', '00', 'FF']);
    bad.unmount();
    const good = await player({ result: { ...result, ok: true, mismatches: [] } as never });
    expect(good.screen.getByText(/Played to the end: 13 commands, 999 TCK cycles, no difference\./)).toBeTruthy();
  });

  test('what stopped it is said where it was no difference', async () => {
    const problem = { code: 'svf', message: 'Line 3: SDR needs a length.', tryNext: ['Give one.'] };
    const { screen } = await player({
      result: { ok: false, commands: 2, tckCycles: 1, mismatches: [], problem } as never,
    });
    expect(screen.getByRole('alert').textContent).toBe('Line 3: SDR needs a length. Give one.');
  });
});
