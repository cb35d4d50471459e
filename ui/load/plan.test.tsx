// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import type { LoadPlan } from '../../server/index.ts';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { type STATE, SUMMARY } from '../../tests/support/page/state.ts';
import { Plan } from './plan.tsx';

const IMAGES = [
  { id: 7, name: 'golden.nbits', format: 'nbits', added: '2026-01-02T03:04:05Z', bytes: 10, part: 'CV10' },
  { id: 8, name: 'table.hex', format: 'intel-hex', added: '2026-01-02T03:04:05Z', bytes: 10, part: null },
];
const KEPT = { count: 2, bytes: 20, most: 200, mostBytes: 2 ** 31 };
const DEVICES = [
  { index: 0, part: 'CV10', candidates: ['CV10'] },
  { index: 1, part: null, candidates: ['CV25', 'CV25S'] },
];
const scan = { devices: DEVICES, problems: [] } as never;
const BUILD = { kind: 'build' } as const;

async function shown(loadPlan: LoadPlan, over: Partial<typeof STATE> = {}, busy = false) {
  const page = await renderPage(<Plan busy={busy} />, {
    state: { usable: SUMMARY, latest: SUMMARY, scan, loadPlan, ...over },
    answers: {
      'load.images': () => IMAGES,
      'load.imagesKept': () => KEPT,
      'load.removeImage': done,
      'load.setPlan': done,
      'jobs.start': () => ({ id: 1 }),
    },
  });
  await page.screen.findByRole('button', { name: 'All 2 files' });
  const plans = () => page.calls.filter(({ name }) => name === 'load.setPlan').map(({ input }) => input);
  return { ...page, plans };
}

describe('the plan of a load', () => {
  test('says what goes where; only bitstreams are offered', async () => {
    const { screen } = await shown({ steps: [{ device: 1, source: BUILD }], verify: false });
    const file = screen.getByLabelText('File of step 1');
    expect([...file.querySelectorAll('option')].map(({ textContent }) => textContent?.replace(/,.*/, ''))).toEqual([
      'newest build ffffffff',
      'golden.nbits',
    ]);
    const device = screen.getByLabelText('Device of step 1');
    expect([...device.querySelectorAll('option')].map(({ textContent }) => textContent)).toEqual([
      'the device that fits',
      'place 0, CV10',
      'place 1, unknown',
    ]);
    expect((device as HTMLSelectElement).value).toBe('1');
  });

  test('takes another file, another device, and either back', async () => {
    const { screen, user, plans } = await shown({ steps: [{ device: null, source: BUILD }], verify: false });
    await user.selectOptions(screen.getByLabelText('File of step 1'), '7');
    await user.selectOptions(screen.getByLabelText('Device of step 1'), '0');
    await user.click(screen.getByLabelText(/read back and compare/));
    expect(plans()).toEqual([
      { steps: [{ device: null, source: { kind: 'image', id: 7 } }] },
      { steps: [{ device: 0, source: BUILD }] },
      { verify: true },
    ]);
  });

  test('of several steps one goes earlier or is left out; the first cannot go earlier, the only one stays', async () => {
    const image = { kind: 'image', id: 7 } as const;
    const { screen, user, plans, tell } = await shown({
      steps: [
        { device: 1, source: BUILD },
        { device: 0, source: image },
      ],
      verify: false,
    });
    const buttons = (name: string) => screen.getAllByRole('button', { name }) as HTMLButtonElement[];
    expect(buttons('earlier').map(({ disabled }) => disabled)).toEqual([true, false]);
    await user.click(buttons('earlier')[1] as HTMLElement);
    await user.click(buttons('leave out')[0] as HTMLElement);
    expect(plans()).toEqual([
      {
        steps: [
          { device: 0, source: image },
          { device: 1, source: BUILD },
        ],
      },
      { steps: [{ device: 0, source: image }] },
    ]);
    tell({ loadPlan: { steps: [{ device: 0, source: image }], verify: false } });
    expect(buttons('leave out').map(({ disabled }) => disabled)).toEqual([true]);
  });

  test('a build that is older than its sources, or one that failed, is said', async () => {
    const plan = { steps: [{ device: null, source: BUILD }], verify: false };
    const edits = [{ what: 'rtl/a.v' }, { what: 'pins' }] as never;
    const first = await shown(plan, { stale: edits });
    expect(first.screen.getByText('not up to date: rtl/a.v, pins changed')).toBeTruthy();
    first.unmount();
    const second = await shown(plan, { latest: { ...SUMMARY, good: false } });
    expect(second.screen.getByText('the newest build failed; an older one is used')).toBeTruthy();
  });

  test('the pod is asked to load the first by itself; while something runs nothing can be changed', async () => {
    const plan = { steps: [{ device: 1, source: BUILD }], verify: false };
    const { screen, user, calls, unmount } = await shown(plan);
    await user.click(screen.getByRole('button', { name: 'Let the pod load the first by itself' }));
    expect(calls.at(-1)).toEqual({ name: 'jobs.start', input: { kind: 'stage', step: plan.steps[0] } });
    unmount();
    const busy = await shown(plan, {}, true);
    for (const control of busy.screen.getByTestId('load-plan').querySelectorAll('select, button'))
      expect((control as HTMLButtonElement).disabled).toBe(true);
  });

  test('a file that was given is removed from its list', async () => {
    const { screen, user, calls } = await shown({ steps: [{ device: 1, source: BUILD }], verify: false });
    await user.click(screen.getByRole('button', { name: 'All 2 files' }));
    await user.click(await screen.findByRole('button', { name: 'Delete golden.nbits' }));
    expect(calls.some(({ name }) => name === 'load.removeImage')).toBe(false);
    await user.click(screen.getByRole('button', { name: 'Delete' }));
    expect(calls.find(({ name }) => name === 'load.removeImage')?.input).toEqual({ id: 7 });
  });
});
