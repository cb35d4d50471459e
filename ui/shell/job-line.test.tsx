// @vitest-environment happy-dom
import { describe, expect, test, vi } from 'vitest';
import { done, renderPage } from '../../tests/support/page/render.tsx';
import { job } from '../../tests/support/page/state.ts';
import { problem } from '../../core/result.ts';
import { JobLine } from './job-line.tsx';

describe('the job line', () => {
  test('says that nothing was asked for, then what came of the last job, and unfolds to all of them', async () => {
    const { screen, tell, user } = await renderPage(<JobLine />);
    expect(screen.getByText('No job has run yet.')).toBeTruthy();
    tell({
      jobs: [
        job({ id: 2, title: 'Load', state: 'failed', message: 'DONE stays low.', problem: problem('done-low', 'x') }),
        job({ id: 1, message: '3 devices.' }),
      ],
    });
    const line = screen.getByTestId('job-line');
    expect(line.textContent).toMatch(/Load.*failed.*DONE stays low\..*1\.0 s/);
    expect(line.getAttribute('data-job')).toBe('2');
    await user.click(screen.getByRole('button', { name: 'Unfold the jobs' }));
    expect(screen.getByRole('list', { name: 'Jobs' }).textContent).toMatch(/DONE stays low[\s\S]*3 devices/);
    await user.click(screen.getByRole('button', { name: 'Fold the jobs' }));
    expect(screen.queryByRole('list', { name: 'Jobs' })).toBeNull();
  });

  test('shows how far what runs is, how long still, and cancels it', async () => {
    const { screen, calls, user } = await renderPage(<JobLine />, {
      answers: { 'jobs.cancel': done },
      state: {
        jobs: [
          job({
            ...{ id: 7, title: 'Keep', state: 'running', endedAt: null, etaMilliseconds: 3000 },
            progress: { phase: 'Writing', done: 512 * 1024, total: 2048 * 1024, unit: 'B' },
          }),
        ],
      },
    });
    const progress = screen.getByTestId('progress');
    expect(progress.textContent).toMatch(/Writing512 KiB of 2 MiB, 512 KiB\/s, 3\.0 s left/);
    expect(screen.getByRole('progressbar', { name: 'Keep' }).getAttribute('aria-valuenow')).toBe('25');
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(calls).toEqual([{ name: 'jobs.cancel', input: { id: 7 } }]);
  });

  test('a job that waits, and one that cannot tell how far it is, say so', async () => {
    const { screen, tell } = await renderPage(<JobLine />, {
      state: { jobs: [job({ id: 1, state: 'waiting', endedAt: null })] },
    });
    expect(screen.getByTestId('progress').textContent).toMatch(/^Waiting its turn/);
    tell({ jobs: [job({ id: 1, state: 'running', endedAt: null })] });
    expect(screen.getByTestId('progress').textContent).toMatch(/^Starting/);
    tell({
      jobs: [
        job({
          ...{ id: 1, state: 'running', endedAt: null },
          progress: { phase: 'Waiting for the trigger', done: 0, total: 0, unit: 'samples' },
        }),
      ],
    });
    expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBeNull();
  });

  test('speaks of every tenth, not of every per cent', async () => {
    const at = (share: number) => [
      job({
        ...{ id: 1, title: 'Load', state: 'running', endedAt: null },
        progress: { phase: 'Loading', done: share, total: 100, unit: 'bit' },
      }),
    ];
    const { screen, tell } = await renderPage(<JobLine />, { state: { jobs: at(31) } });
    const spoken = () => screen.getByRole('status').textContent;
    await vi.waitFor(() => expect(spoken()).toBe('Load: Loading, 30 %'), { timeout: 10_000 });
    tell({ jobs: at(34) });
    expect(spoken()).toBe('Load: Loading, 30 %');
  });
});
