// @vitest-environment happy-dom
import { describe, expect, test, vi } from 'vitest';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { job } from '../../tests/support/page/state.ts';
import type { WorkState } from '../../server/index.ts';
import { TriggerPosition } from './position.tsx';
import { Waiting } from './waiting.tsx';

const ARMED: WorkState['armed'][number] = {
  recorder: 'main',
  when: 'level > 4',
  keep: '',
  before: 16,
  segments: 1,
  segment: 0,
  taken: 0,
  status: 'waiting',
  sampleRate: 12e6,
  measuredHertz: 11.99e6,
  since: 1,
  conditions: [
    { label: 'level > 4', now: false, seen: 0 },
    { label: 'gate rises', now: true, seen: 1 },
  ],
  stage: 0,
  stages: 1,
  left: 0,
};

describe('the place of the trigger', () => {
  const slider = (over: Partial<Parameters<typeof TriggerPosition>[0]> = {}) => {
    const onBefore = vi.fn();
    const element = (
      <TriggerPosition size={1024} before={256} segments={1} disabled={false} onBefore={onBefore} {...over} />
    );
    return { onBefore, element };
  };

  test('is moved by keys: a sample, ten of them, to either end', async () => {
    const { onBefore, element } = slider();
    const { screen, user } = await renderPage(element);
    const thumb = screen.getByRole('slider', { name: 'Trigger position' });
    expect([thumb.getAttribute('aria-valuemin'), thumb.getAttribute('aria-valuenow')]).toEqual(['0', '256']);
    expect(thumb.getAttribute('aria-valuemax')).toBe('1023');
    thumb.focus();
    await user.keyboard('{ArrowRight}{ArrowLeft}{PageUp}{Home}{End}');
    expect(onBefore.mock.calls.map(([to]) => to)).toEqual([257, 255, 266, 0, 1023]);
  });

  test('is said in samples before and after, for each segment alike', async () => {
    const { element } = slider({ size: 128, segments: 8, before: 100 });
    const { screen } = await renderPage(element);
    expect(screen.getByText('100 before, 27 after, 8 times')).toBeTruthy();
  });

  test('stays while the recorder is armed', async () => {
    const { onBefore, element } = slider({ disabled: true });
    const { screen, user } = await renderPage(element);
    screen.getByRole('slider').focus();
    await user.keyboard('{ArrowRight}{End}');
    expect(onBefore).not.toHaveBeenCalled();
  });
});

describe('an armed recorder', () => {
  test('tells every condition, whether it is true now and how often it was', async () => {
    const { screen } = await renderPage(<Waiting armed={ARMED} />);
    expect(screen.getByTestId('waiting').textContent).toMatch(
      /main: waiting.*, level > 4, sampling clock alive at 12 MHz, measured 11\.99 MHz/,
    );
    expect(screen.getAllByRole('row').map((row) => row.textContent)).toEqual([
      'level > 4falsetrue in 0 samples so far',
      'gate risestruetrue in 1 sample so far',
    ]);
  });

  test('says its stage, its segment, what is still to come, and what was taken before', async () => {
    const { screen } = await renderPage(
      <Waiting armed={{ ...ARMED, stage: 1, stages: 3, segment: 4, segments: 8, left: 12, taken: 2, keep: 'tick' }} />,
    );
    expect(screen.getByTestId('waiting').textContent).toMatch(
      /storing when tick.*stage 2 of 3, segment 5 of 8, 12 samples to come before a trigger counts, 2 taken before/,
    );
  });

  test('that is not reached, or whose clock is silent, says so', async () => {
    const lost = await renderPage(<Waiting armed={{ ...ARMED, status: 'unreachable' }} />);
    expect(lost.screen.getByText(/The connection is lost\. The recorder goes on by itself/)).toBeTruthy();
    lost.unmount();
    const silent = await renderPage(<Waiting armed={{ ...ARMED, conditions: null, measuredHertz: null }} />);
    expect(silent.screen.getByText(/The sampling clock does not answer/)).toBeTruthy();
    expect(silent.screen.getByTestId('waiting').textContent).toContain('sampling clock not answering');
  });

  test('is triggered by hand while it waits; once it has triggered, it is stopped and read', async () => {
    const answers = { 'capture.trigger': done, 'capture.halt': done };
    const first = await renderPage(<Waiting armed={ARMED} />, { answers });
    const button = (name: string) => first.screen.getByRole('button', { name }) as HTMLButtonElement;
    expect(button('Stop and read what is there').disabled).toBe(true);
    await first.user.click(button('Trigger now'));
    expect(first.calls).toEqual([{ name: 'capture.trigger', input: { recorder: 'main' } }]);
    first.unmount();
    const second = await renderPage(<Waiting armed={{ ...ARMED, status: 'triggered' }} />, { answers });
    expect((second.screen.getByRole('button', { name: 'Trigger now' }) as HTMLButtonElement).disabled).toBe(true);
    await second.user.click(second.screen.getByRole('button', { name: 'Stop and read what is there' }));
    expect(second.calls).toEqual([{ name: 'capture.halt', input: { recorder: 'main' } }]);
  });

  test('of two has the job that was begun when it was armed', async () => {
    const running = (id: number, startedAt: number) =>
      job({ id, kind: 'capture', title: `Capture ${id}`, state: 'running', startedAt, endedAt: null });
    const other = { ...ARMED, recorder: 'bus', since: 2 };
    const { screen, calls, user } = await renderPage(<Waiting armed={other} />, {
      state: { armed: [ARMED, other], jobs: [running(9, 200), running(8, 100)] },
      answers: { 'jobs.cancel': done },
    });
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(calls).toEqual([{ name: 'jobs.cancel', input: { id: 9 } }]);
  });
});
