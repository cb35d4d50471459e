// @vitest-environment happy-dom
import { describe, expect, test, vi } from 'vitest';
import type { RecorderMap } from '../../core/probes/index.ts';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { SUMMARY } from '../../tests/support/page/state.ts';
import { Arm } from './arm.tsx';

const signal = (name: string, width: number) => ({ name, width, lo: 0, signed: false });
const RECORDER = {
  ...{ kind: 'recorder', core: 1, name: 'main', clock: 't.clk', depth: 1024, width: 13, comparators: 2, stages: 1 },
  ...{ qualifier: false, segments: 4, signals: [signal('t.go', 1), signal('t.level', 12)] },
} as unknown as RecorderMap;
const SECOND = { ...RECORDER, core: 2, name: 'other', clock: 't.clk2', qualifier: true, segments: 1 } as RecorderMap;
const RUNS = { device: 1, fingerprint: SUMMARY.fingerprint, done: true, status: { done: true } } as never;

async function desk(state: object = {}, recorders: readonly RecorderMap[] = [RECORDER]) {
  localStorage.clear();
  const onArmed = vi.fn();
  const page = await renderPage(
    <Arm
      recorders={recorders}
      rates={new Map([['t.clk', 'up to 150 MHz, wanted 12 MHz']])}
      fingerprint={SUMMARY.fingerprint}
      onArmed={onArmed}
    />,
    {
      state: { running: RUNS, ...state } as never,
      answers: { 'capture.arm': () => ({ id: 1 }), 'capture.resume': done },
    },
  );
  const button = (name: string) => page.screen.getByRole('button', { name }) as HTMLButtonElement;
  return { ...page, onArmed, button };
}

describe('arming', () => {
  test('sends the condition, the place of the trigger and how often; the trigger stands at a quarter', async () => {
    const { user, button, calls, onArmed, screen } = await desk();
    await user.selectOptions(screen.getByLabelText('Segments'), '2');
    await user.selectOptions(screen.getByLabelText('Repeat'), 'every');
    await user.click(button('Arm'));
    expect(calls).toEqual([
      {
        name: 'capture.arm',
        input: { recorder: 'main', when: 'go == 1', before: 128, segments: 2, repeat: 'every' },
      },
    ]);
    expect(onArmed).toHaveBeenCalledTimes(1);
  });

  test('at once needs no condition, and keeps the settings as they are', async () => {
    const { user, button, calls } = await desk();
    await user.click(button('Take now'));
    expect(calls[0]?.input).toEqual({ recorder: 'main', when: '', before: 0, segments: 1, repeat: 'once' });
  });

  test('says what the hardware needs for it', async () => {
    const { screen } = await desk();
    expect(screen.getByTestId('checked').textContent).toBe(
      '1 of 2 comparators, 1 of 1 stage; changed without building again; sampled by clk, up to 150 MHz, wanted 12 MHz',
    );
  });

  test('of several recorders one is chosen; only one with a qualifier keeps chosen samples', async () => {
    const { screen, user, button, calls } = await desk({}, [RECORDER, SECOND]);
    expect(screen.getByText(/this recorder was built without a qualifier/)).toBeTruthy();
    await user.selectOptions(screen.getByLabelText('Recorder'), 'other');
    expect(screen.getByLabelText('Store only when')).toBeTruthy();
    expect((screen.getByLabelText('Segments') as HTMLSelectElement).disabled).toBe(true);
    await user.click(button('Arm'));
    expect(calls[0]?.input).toMatchObject({ recorder: 'other', keep: '' });
  });

  test('is not possible while it is armed, nor on hardware that runs another build', async () => {
    const armed = [
      {
        ...{ recorder: 'main', status: 'waiting', when: 'go == 1', keep: '', conditions: [], before: 0, segments: 1 },
        ...{ segment: 0, taken: 0, sampleRate: 12e6, measuredHertz: null, since: 1, stage: 0, stages: 1, left: 0 },
      },
    ];
    const first = await desk({ armed: armed as never });
    expect([first.button('Arm').disabled, first.button('Take now').disabled]).toEqual([true, true]);
    first.unmount();
    const second = await desk({
      running: { device: 1, fingerprint: 'e'.repeat(32), done: true, status: { done: true } },
    });
    expect(
      second.screen.getByText(/The board runs build eeeeeeee, this recorder belongs to build ffffffff/),
    ).toBeTruthy();
    expect(second.button('Arm').disabled).toBe(true);
  });

  test('what was armed when the work broke off can be gone on with', async () => {
    const { screen, user, button, calls } = await desk({ armedBefore: [{ recorder: 'main', when: '' }] });
    expect(screen.getByText(/The recorder main was armed with "at once" when the work broke off/)).toBeTruthy();
    await user.click(button('Go on with it'));
    expect(calls).toEqual([{ name: 'capture.resume', input: { recorder: 'main' } }]);
  });

  test('the form and the sentence say the same', async () => {
    const { screen, user, button } = await desk();
    await user.click(button('as a form'));
    await user.selectOptions(screen.getByLabelText('Comparison 1.1 signal'), 't.level');
    await expect.poll(() => screen.getByLabelText('Condition').textContent).toMatch(/^level/);
    await user.click(button('as a sentence'));
    expect(screen.queryByLabelText('Condition as a form')).toBeNull();
  });
});
