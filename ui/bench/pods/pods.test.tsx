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
    const asked = calls.filter(({ name }) => name === 'bench.usePod' || name === 'bench.forgetPod');
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

  describe('the files at the pod', () => {
    const FILE = { id: 3, name: 'lock.nbits', bytes: 338_000, sha256: 'ab'.repeat(32), log: [], problem: null };
    const HELD = [
      { ...FILE, kind: 'load', state: 'ready' },
      { ...FILE, id: 4, name: 'long.svf', kind: 'svf', state: 'running', log: ['1.0 s  SVF begun', '2.0 s  half'] },
      { ...FILE, id: 5, name: 'wrong.svf', kind: 'svf', state: 'failed', log: ['3.0 s  Failed: Line 3'] },
    ];
    const FILES = {
      ...ANSWERS,
      'bench.podFiles': () => HELD,
      'bench.svfFiles': () => ({ files: [{ id: 9, name: 'play.svf', bytes: 10, added: '2026-01-01' }], kept: {} }),
      'load.images': () => [{ id: 7, name: 'other.nbits', bytes: 10, added: '2026-01-01' }],
      'bench.stopAtPod': done,
      'bench.dropAtPod': done,
      'jobs.start': () => ({ id: 1 }),
    };

    test('are listed; what runs shows its log, is stopped, and is not removed meanwhile', async () => {
      const { screen, user, calls } = await renderPage(<PodsView />, { answers: FILES });
      await screen.findByText('lock.nbits');
      expect(screen.getByTestId('pod-file-log').textContent).toBe('1.0 s  SVF begun\n2.0 s  half');
      const removes = screen.getAllByRole('button', { name: 'remove' });
      expect(removes.map((one) => (one as HTMLButtonElement).disabled)).toEqual([false, true, false]);
      await user.click(screen.getByRole('button', { name: 'stop' }));
      expect(calls.findLast(({ name }) => name === 'bench.stopAtPod')?.input).toEqual({ file: 4 });
      await user.click(screen.getByText('wrong.svf'));
      expect(screen.getByTestId('pod-file-log').textContent).toBe('3.0 s  Failed: Line 3');
      await user.click(screen.getAllByRole('button', { name: 'remove' })[2] ?? document.body);
      expect(calls.findLast(({ name }) => name === 'bench.dropAtPod')?.input).toEqual({ file: 5 });
    });

    test('are sent from what is here, and run', async () => {
      const { screen, user, calls } = await renderPage(<PodsView />, { answers: FILES });
      await screen.findByText('lock.nbits');
      const orders = () => calls.filter(({ name }) => name === 'jobs.start').map(({ input }) => input);
      await user.click(screen.getByRole('button', { name: 'Send' }));
      await user.selectOptions(screen.getByLabelText('What to send'), 'play.svf');
      await user.click(screen.getByRole('button', { name: 'Send' }));
      await user.selectOptions(screen.getByLabelText('What to send'), 'other.nbits');
      await user.click(screen.getByRole('button', { name: 'Send' }));
      await user.click(screen.getAllByRole('button', { name: 'run' })[0] ?? document.body);
      expect(orders()).toEqual([
        { kind: 'pod-send', source: { kind: 'build' } },
        { kind: 'pod-send', source: { kind: 'svf', id: 9 } },
        { kind: 'pod-send', source: { kind: 'image', id: 7 } },
        { kind: 'pod-run', file: 3 },
      ]);
    });
  });
});
