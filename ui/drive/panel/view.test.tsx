// @vitest-environment happy-dom
import { beforeEach, describe, expect, test } from 'vitest';
import type { StepOrder } from '../../../core/operations/index.ts';
import { ProblemError, problem } from '../../../core/result.ts';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { DriveStation } from '../index.ts';

const FINGERPRINT = SUMMARY.fingerprint;
const PROBES = {
  fingerprint: FINGERPRINT,
  cores: [
    {
      ...{ kind: 'panel', core: 2, name: 'p', clock: 't.clk', leverBits: 13, enableBits: 1, gaugeBits: 76 },
      levers: [
        { name: 't.trim', width: 12, lo: 0, signed: false, enable: null },
        { name: 't.hold', width: 1, lo: 12, signed: false, enable: 0 },
      ],
      gauges: [
        { name: 't.level', width: 12, lo: 0, signed: false },
        { name: 't.long', width: 64, lo: 12, signed: false },
      ],
    },
  ],
};
const RUNNING = { device: 1, fingerprint: FINGERPRINT, done: true, status: { done: true } } as never;

const GOAL = { name: 't.goal', width: 8, lo: 13, signed: false, enable: null };
const STEPPER = {
  ...{ kind: 'stepper', core: 3, name: 's', clock: 't.clk', held: false, width: 12, comparators: 1 },
  signals: [{ name: 't.level', width: 12, lo: 0, signed: false }],
};
interface StepInput {
  readonly stepper: string;
  readonly order: StepOrder | null;
}

/** A panel that keeps what is set. */
function panel() {
  const levers: Record<string, { value: bigint; released: boolean }> = {
    't.trim': { value: 3n, released: false },
    't.hold': { value: 0n, released: true },
  };
  const move = ({ set }: { readonly set: Readonly<Record<string, bigint | null>> }) => {
    for (const [name, value] of Object.entries(set))
      levers[name] = value === null ? { value: 0n, released: true } : { value, released: false };
    const trim = levers['t.trim']?.value ?? 0n;
    return { reading: { levers: { ...levers }, gauges: { 't.level': trim + 1n, 't.long': (1n << 63n) | 5n } } };
  };
  return { levers, move };
}

async function shown(
  running: unknown = RUNNING,
  move = panel().move,
  step?: (input: StepInput) => unknown,
  isWide = false,
) {
  const cores = isWide ? PROBES.cores.map((core) => ({ ...core, levers: [...core.levers, GOAL] })) : PROBES.cores;
  const probes = { ...PROBES, cores: step ? [...cores, STEPPER] : cores };
  const newest = { usable: { ...SUMMARY, details: { probes } }, latest: { ...SUMMARY, details: { probes } } };
  return renderPage(<DriveStation />, {
    at: '/drive',
    state: { usable: SUMMARY, latest: SUMMARY, running: running as never },
    answers: {
      'drive.move': move,
      ...(step && { 'drive.step': step }),
      'design.newest': () => newest,
      'design.builds': () => [newest.usable],
    },
  });
}

beforeEach(() => localStorage.clear());

describe('levers and gauges', () => {
  test('are read again and again, and show their values in the radix that is chosen', async () => {
    const { screen, user } = await shown();
    expect((await screen.findByTestId('gauge-t.level')).textContent).toMatch(/4|–/);
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('4');
    await user.selectOptions(screen.getByLabelText('Radix'), 'hex');
    expect(screen.getByTestId('gauge-t.level').textContent).toMatch(/^(0x)?0*4$/);
    expect(screen.getByTestId('gauge-t.long').textContent?.replace(/0x/, '')).toMatch(/^80000000\s?00000005$/);
    await user.selectOptions(screen.getByLabelText('Radix'), 'bin');
    expect(screen.getByTestId('gauge-t.level').textContent).toMatch(/100$/);
  });

  test('a value is set in any radix; one that does not fit, or is no number, is refused and stays to be mended', async () => {
    const { screen, user, calls } = await shown();
    const field = (await screen.findByLabelText('Value for t.trim')) as HTMLInputElement;
    const set = () => user.click(screen.getAllByRole('button', { name: 'Set' })[0] as HTMLElement);
    await user.type(field, '0x2a');
    await set();
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('43');
    expect(field.value).toBe('');
    const before = calls.length;
    await user.type(field, '4096');
    await set();
    expect(await screen.findByText(/4096.*12/)).toBeTruthy();
    expect(field.value).toBe('4096');
    const sent = calls.slice(before).filter(({ input }) => Object.keys((input as { set: object }).set).length > 0);
    expect(sent).toEqual([]);
  });

  test('a lever on a driven signal overrides its driver until it is released', async () => {
    const { screen, user } = await shown();
    const lever = await screen.findByTestId('lever-t.hold');
    await expect.poll(() => lever.textContent).toMatch(/released/);
    const press = (name: string) =>
      user.click(
        [...lever.querySelectorAll('button')].find(({ textContent }) => textContent === name) ?? document.body,
      );
    await press('Set 1');
    await expect.poll(() => lever.textContent).toMatch(/overrides its driver/);
    expect(lever.querySelector('[data-testid="value"]')?.textContent).toBe('1');
    await press('Release');
    await expect.poll(() => lever.textContent).toMatch(/released/);
  });

  test('nothing is asked of a board that runs another build', async () => {
    const { screen, calls } = await shown({
      device: 1,
      fingerprint: 'e'.repeat(32),
      done: true,
      status: { done: true },
    });
    expect(await screen.findByText(/these probes belong/)).toBeTruthy();
    expect(calls.filter(({ name }) => name === 'drive.move')).toEqual([]);
    expect((screen.getByRole('button', { name: 'Set 1' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('what goes wrong is said with what to try', async () => {
    const { screen } = await shown(RUNNING, () => {
      throw new ProblemError(problem('cable-lost', 'The cable was lost.', 'Plug it in.'));
    });
    expect((await screen.findByRole('alert')).textContent).toMatch(/The cable was lost\..*Plug it in\./);
  });

  test('arrows step a value, Escape gives it back, Enter sets it', async () => {
    const { screen, user } = await shown();
    const field = (await screen.findByLabelText('Value for t.trim')) as HTMLInputElement;
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('4');
    await user.click(field);
    await user.keyboard('{ArrowUp}{ArrowUp}{Shift>}{ArrowUp}{/Shift}');
    expect(field.value).toBe('21');
    await user.keyboard('{Escape}');
    expect(field.value).toBe('');
    await user.keyboard('{Shift>}{ArrowDown}{/Shift}');
    expect(field.value, 'it goes round').toBe('4083');
    await user.keyboard('{Enter}');
    await expect.poll(() => screen.getByTestId('gauge-t.level').textContent).toBe('4084');
  });

  test('what was set is taken back by Undo, and an override by Release all', async () => {
    const { screen, user } = await shown();
    const level = () => screen.getByTestId('gauge-t.level').textContent;
    await expect.poll(level).toBe('4');
    await user.type(screen.getByLabelText('Value for t.trim'), '50{Enter}');
    await expect.poll(level).toBe('51');
    await user.click(screen.getByRole('button', { name: 'Undo' }));
    await expect.poll(level).toBe('4');
    const hold = screen.getByTestId('lever-t.hold');
    await user.click(
      [...hold.querySelectorAll('button')].find(({ textContent }) => textContent === 'Set 1') as Element,
    );
    await expect.poll(() => hold.textContent).toMatch(/overrides/);
    await user.click(screen.getByRole('button', { name: 'Release all' }));
    await expect.poll(() => hold.textContent).toMatch(/released/);
  });

  test('a lever is moved in the way that is chosen for it, which is kept', async () => {
    const { screen, user } = await shown();
    const hold = await screen.findByTestId('lever-t.hold');
    await user.selectOptions(screen.getByLabelText('How t.hold is moved'), 'toggle');
    const button = () =>
      [...hold.querySelectorAll('button')].find(({ textContent }) => /^To [01]$/.test(textContent ?? ''));
    await user.click(button() as Element);
    await expect.poll(() => button()?.textContent).toBe('To 0');
    expect(JSON.parse(localStorage.getItem('drive-lever-kinds') ?? '{}')).toEqual({ 't.hold': 'toggle' });
  });

  test('readings are kept with their times, the newest first', async () => {
    const { screen, user } = await shown();
    await user.click(await screen.findByRole('button', { name: /Read now/ }));
    await expect.poll(() => screen.getAllByText(/^\d\d:\d\d:\d\d\.\d{3}$/).length).toBeGreaterThan(1);
    const times = screen.getAllByText(/^\d\d:\d\d:\d\d\.\d{3}$/).map(({ textContent }) => textContent ?? '');
    expect(times).toEqual([...times].sort().reverse());
  });
});

describe('the panel as an instrument', () => {
  const level = (screen: Awaited<ReturnType<typeof shown>>['screen']) => () =>
    screen.getByTestId('gauge-t.level').textContent;

  test('each signal has a form of its own where that is chosen: its limit and its history follow', async () => {
    const { screen, user } = await shown();
    await expect.poll(level(screen)).toBe('4');
    await user.selectOptions(screen.getByLabelText('Form of t.level'), '8.4 bits');
    expect(level(screen)()).toBe('0.25');
    await user.selectOptions(screen.getByLabelText('Form of t.trim'), 'signed');
    await user.type(screen.getByLabelText('Value for t.trim'), '-1{Enter}');
    await expect
      .poll(() => screen.getByTestId('lever-t.trim').querySelector('[data-testid="value"]')?.textContent)
      .toBe('-1');
    await user.type(screen.getByLabelText('Limit for t.level'), '< 2.5{Enter}');
    expect((await screen.findByTestId('passed-t.level')).textContent).toMatch(/not < 2\.5/);
    await user.selectOptions(screen.getByLabelText('Form of t.level'), 'as all');
    expect(level(screen)()).toBe('4096');
  });

  test('values of all levers are kept by name, and set again in one go', async () => {
    const { screen, user, calls } = await shown();
    await expect.poll(level(screen)).toBe('4');
    await user.type(screen.getByLabelText('Name of the preset'), 'low{Enter}');
    await user.type(screen.getByLabelText('Value for t.trim'), '900{Enter}');
    await expect.poll(level(screen)).toBe('901');
    const before = calls.length;
    await user.click(screen.getByRole('button', { name: 'low' }));
    await expect.poll(level(screen)).toBe('4');
    const sets = calls.slice(before).map(({ input }) => (input as { set: object }).set);
    expect(sets.filter((set) => Object.keys(set).length > 0)).toEqual([{ 't.trim': 3n, 't.hold': null }]);
    await user.click(screen.getByRole('button', { name: 'Remove the preset low' }));
    expect(screen.queryByRole('button', { name: 'low' })).toBeNull();
  });

  test('a lever goes through a list by itself, again and again, until it is stopped', async () => {
    const { screen, user } = await shown();
    await expect.poll(level(screen)).toBe('4');
    await user.selectOptions(screen.getByLabelText('How t.trim is moved'), 'by itself');
    const values = screen.getByLabelText('Values for t.trim, one after another');
    await user.clear(values);
    await user.type(values, '10..30 by 10');
    const period = screen.getByLabelText('Period for t.trim in milliseconds');
    await user.clear(period);
    await user.type(period, '50');
    const seen = new Set<string | null>();
    await user.click(screen.getByRole('button', { name: 'Start' }));
    await expect.poll(() => seen.add(level(screen)()).size, { timeout: 4000, interval: 10 }).toBeGreaterThan(2);
    await user.click(screen.getByRole('button', { name: 'Stop' }));
    for (const one of seen) expect(['4', '11', '21', '31']).toContain(one);
  });

  test('a reading that passes a limit is marked and counted; reading stops where that is wanted', async () => {
    const { screen, user, calls } = await shown();
    await expect.poll(level(screen)).toBe('4');
    await user.type(screen.getByLabelText('Limit for t.level'), '< 100{Enter}');
    expect(screen.queryByTestId('passed-t.level')).toBeNull();
    await user.click(await screen.findByLabelText('stop reading where a limit is passed'));
    await user.type(screen.getByLabelText('Value for t.trim'), '150{Enter}');
    expect((await screen.findByTestId('passed-t.level')).textContent).toMatch(/not < 100 in 1 reading/);
    expect(screen.getByLabelText('Limits passed').textContent).toMatch(
      /^\d\d:\d\d:\d\d\.\d{3} level is 151, not < 100$/,
    );
    await expect.poll(() => (screen.getByLabelText('Reading interval') as HTMLSelectElement).value).toBe('0');
    const count = calls.length;
    await new Promise((resolve) => setTimeout(resolve, 700));
    expect(calls.length, 'nothing is read by itself any more').toBe(count);
    await user.clear(screen.getByLabelText('Limit for t.level'));
    await user.type(screen.getByLabelText('Limit for t.level'), 'many{Enter}');
    expect(await screen.findByText(/"many" is no limit/)).toBeTruthy();
  });

  test('several that are typed are set in the same exchange', async () => {
    const { screen, user, calls } = await shown(RUNNING, panel().move, undefined, true);
    await user.type(await screen.findByLabelText('Value for t.trim'), '7');
    await user.type(screen.getByLabelText('Value for t.goal'), '9');
    await user.click(screen.getByRole('button', { name: 'Set 2 together' }));
    await expect
      .poll(() => calls.map(({ input }) => (input as { set?: object } | null)?.set))
      .toContainEqual({ 't.trim': 7n, 't.goal': 9n });
  });
});

describe('a clock that can be held', () => {
  /** A stepper whose steps take no time. */
  function stepper() {
    const orders: StepOrder[] = [];
    let running = true;
    const step = ({ order }: StepInput) => {
      if (order) orders.push(order);
      if (order) running = order.way === 'run';
      // The condition comes true three steps before the last one.
      const left = order?.way === 'until' ? 3 : 0;
      return { heard: true, running, stepping: false, holds: order?.way === 'until', left };
    };
    return { orders, step };
  }

  test('is held, stepped by number and until something holds; steps are counted', async () => {
    const { orders, step } = stepper();
    const { screen, user } = await shown(RUNNING, panel().move, step);
    const state = () => screen.getByTestId('stepper-state').textContent;
    await screen.findByTestId('stepper-s');
    await expect.poll(state).toBe('runs');
    await user.click(screen.getByRole('button', { name: 'Hold' }));
    await expect.poll(state).toBe('held');
    await user.click(screen.getByRole('button', { name: 'Step' }));
    await expect.poll(() => screen.getByTestId('steps-made').textContent).toMatch(/^1 step /);
    const count = screen.getByLabelText('Number of steps');
    await user.clear(count);
    await user.type(count, '250{Enter}');
    await expect.poll(() => screen.getByTestId('steps-made').textContent).toMatch(/^251 steps/);
    await user.type(screen.getByLabelText('Condition to step until'), 'level == 3{Enter}');
    await expect.poll(() => screen.getByTestId('steps-made').textContent).toMatch(/^1,000,248 steps/);
    expect(screen.getByText('the condition holds')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Let go' }));
    await expect.poll(state).toBe('runs');
    expect(orders).toEqual([
      { way: 'hold' },
      { way: 'step', count: 1 },
      { way: 'step', count: 250 },
      { way: 'until', condition: 'level == 3', most: 1_000_000 },
      { way: 'run' },
    ]);
  });

  test('what is no number of steps is refused', async () => {
    const { orders, step } = stepper();
    const { screen, user } = await shown(RUNNING, panel().move, step);
    const count = await screen.findByLabelText('Number of steps');
    await user.clear(count);
    await user.type(count, '-5{Enter}');
    expect(await screen.findByText(/"-5" is no number of steps/)).toBeTruthy();
    expect(orders).toEqual([]);
  });
});
