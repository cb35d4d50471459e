// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { STATE } from '../../../tests/support/page/state.ts';
import { PodsView } from './index.ts';

const KNOWN = [
  { address: 'ws://127.0.0.1:4000', added: null },
  { address: 'ws://lab:4711', added: '2026-01-02T03:04:05Z' },
];
const ANSWERS = {
  'bench.pods': () => KNOWN,
  'bench.usePod': () => STATE.pod,
  'bench.forgetPod': () => ({ removed: true }),
  'bench.askForLease': done,
};

describe('the pods', () => {
  test('the one in use is named, with who holds its cable and who asks for it', async () => {
    const { screen, tellBoard, user, calls } = await renderPage(<PodsView />, { answers: ANSWERS });
    expect(screen.getByText(/Connected to/).textContent).toBe('Connected to desk at ws://127.0.0.1:4000.');
    expect(screen.getByTestId('lease').textContent).toMatch(/Nobody holds the cable now\./);
    tellBoard({ lease: 'Ada', asked: 'Bo' });
    expect(screen.getByTestId('lease').textContent).toBe('Ada holds the cable. Bo asks for it.');
    await user.click(screen.getByRole('button', { name: /ask/i }));
    expect(calls.map(({ name }) => name)).toContain('bench.askForLease');
  });

  test('one that is not there is told apart', async () => {
    const { screen } = await renderPage(<PodsView />, {
      answers: ANSWERS,
      board: null,
      state: { pod: { ...STATE.pod, state: 'refused', name: null } },
    });
    expect(screen.getByText(/Not connected/).textContent).toBe('Not connected to ws://127.0.0.1:4000.');
  });

  test('another one is given with its token; a known one is taken, or forgotten, but not the first', async () => {
    const { screen, user, calls } = await renderPage(<PodsView />, { answers: ANSWERS });
    await screen.findByText('given at the start');
    const address = screen.getByLabelText('Address');
    await user.clear(address);
    await user.type(address, 'ws://far:1');
    await user.type(screen.getByLabelText('Token'), 'secret');
    await user.click(screen.getByRole('button', { name: 'Connect' }));
    const ofRow = (name: string, row: number) => screen.getAllByRole('button', { name })[row] as HTMLButtonElement;
    expect(ofRow('forget', 0).disabled).toBe(true);
    await user.click(ofRow('connect', 1));
    await user.click(ofRow('forget', 1));
    const asked = calls.filter(({ name }) => name !== 'bench.pods');
    expect(asked).toEqual([
      { name: 'bench.usePod', input: { address: 'ws://far:1', token: 'secret' } },
      { name: 'bench.usePod', input: { address: 'ws://lab:4711', token: '' } },
      { name: 'bench.forgetPod', input: { address: 'ws://lab:4711' } },
    ]);
  });

  test('what a pod did by itself is read in its own words', async () => {
    const { screen } = await renderPage(<PodsView />, {
      answers: ANSWERS,
      state: { stageLog: { name: 'build 1', log: ['SHA-256 good', 'DONE high'] } as never },
    });
    expect(screen.getByTestId('stage-log').textContent).toBe('SHA-256 good\nDONE high');
  });
});
