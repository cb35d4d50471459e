// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { renderPage } from '../../tests/support/page/render.tsx';
import { job } from '../../tests/support/page/state.ts';
import { problem } from '../../core/result.ts';
import { CheckList } from './check-list.tsx';
import { JobOutcome } from './job-outcome.tsx';
import { ProblemNote } from './problem-note.tsx';

const TROUBLE = problem('no-power', 'The board is not powered.', 'Switch it on.', 'Check the fuse.');

describe('what went wrong', () => {
  test('is said with what to try, in order', async () => {
    const { screen } = await renderPage(<ProblemNote problem={TROUBLE} />);
    expect(screen.getByRole('alert').textContent).toContain('The board is not powered.');
    expect(screen.getAllByRole('listitem').map((item) => item.textContent)).toEqual([
      'Switch it on.',
      'Check the fuse.',
    ]);
  });

  test('of a job stands on its station, but for what the station shows in its own way', async () => {
    const failed = job({ id: 1, state: 'failed', problem: TROUBLE });
    const { screen, rerender } = await renderPage(<JobOutcome job={failed} />);
    expect(screen.getByRole('alert')).toBeTruthy();
    rerender(<JobOutcome job={failed} except="no-power" />);
    expect(screen.queryByRole('alert')).toBeNull();
  });
});

describe('a job of a station', () => {
  test('shows how far it is, then a good end where that is worth a sentence', async () => {
    const page = (one: ReturnType<typeof job> | null, tellDone = true) => <JobOutcome job={one} tellDone={tellDone} />;
    const first = await renderPage(page(job({ id: 1, state: 'running', endedAt: null })));
    expect(first.screen.getByTestId('progress')).toBeTruthy();
    first.unmount();
    const second = await renderPage(page(job({ id: 1, message: 'DONE is high.' })));
    expect(second.screen.getByText('DONE is high.')).toBeTruthy();
    second.unmount();
    const third = await renderPage(page(job({ id: 1, message: 'DONE is high.' }), false));
    expect(third.screen.queryByText('DONE is high.')).toBeNull();
    third.unmount();
    const none = await renderPage(page(null));
    expect(none.screen.queryByTestId('progress')).toBeNull();
  });
});

test('checks say what passes, warns and stops to who does not see their marks', async () => {
  const { container } = await renderPage(
    <CheckList
      label={(name) => name.toUpperCase()}
      checks={[
        { name: 'pod', state: 'pass', message: 'It answers.' },
        { name: 'age', state: 'warn', message: 'Older than its sources.' },
        { name: 'size', state: 'stop', message: 'Too long.' },
      ]}
    />,
  );
  const rows = [...container.querySelectorAll('li')].filter((row) => row.closest('[data-sonner-toaster]') === null);
  expect(rows.map((row) => row.textContent)).toEqual(['PODIt answers.', 'AGEOlder than its sources.', 'SIZEToo long.']);
  expect(rows.map((row) => row.querySelector('svg')?.getAttribute('aria-label'))).toEqual(['passes', 'warns', 'stops']);
});
