// @vitest-environment happy-dom
// What the board was asked and what it said: the ladder, the wiring, the logbook, and the question before a write.
import { describe, expect, test, vi } from 'vitest';
import { renderPage } from '../../tests/support/page/render.tsx';
import { job, SUMMARY } from '../../tests/support/page/state.ts';
import { Question } from '../keep/write/question.tsx';
import { LogbookStation } from '../logbook/index.ts';
import { DiagnosisView } from './diagnosis/index.ts';
import { WiringView } from './wiring/index.ts';

const ANSWERS = { 'jobs.start': () => ({ id: 1 }), 'load.images': () => [] };
const TIME = '2026-01-02T03:04:05Z';

describe('the ladder', () => {
  const rung = (name: string, state: string, tryNext: readonly string[] = []) => ({
    ...{ name, question: `${name}?`, state, measured: `${name} measured`, tryNext },
  });

  test('each rung says how it stands and what to do; what was not reached is no failure', async () => {
    const rungs = [
      rung('cable', 'pass'),
      rung('tdo', 'fail', ['Check TDO.', 'Check ground.']),
      rung('path', 'not-reached'),
    ];
    const { screen } = await renderPage(<DiagnosisView />, { state: { ladder: { time: TIME, rungs } as never } });
    const rows = [...screen.getByTestId('ladder').children];
    expect(rows.map((row) => row.querySelector('svg')?.getAttribute('aria-label'))).toEqual([
      'holds',
      'fails',
      'not reached',
    ]);
    expect(rows[1]?.textContent).toBe('2tdo?tdo measuredCheck TDO.Check ground.');
  });

  test('is climbed when it is asked for, not while it is climbed', async () => {
    const { screen, user, calls, tell } = await renderPage(<DiagnosisView />, { answers: ANSWERS });
    expect(screen.getByText(/Nothing has been measured yet/)).toBeTruthy();
    const climb = screen.getByRole('button', { name: 'Climb the ladder' }) as HTMLButtonElement;
    await user.click(climb);
    expect(calls).toEqual([{ name: 'jobs.start', input: { kind: 'diagnose' } }]);
    tell({ jobs: [job({ id: 1, kind: 'diagnose', state: 'running', endedAt: null })] });
    expect(climb.disabled).toBe(true);
    expect(screen.getByTestId('progress')).toBeTruthy();
  });
});

describe('the wiring', () => {
  const result = (faults: readonly object[]) =>
    ({ time: TIME, vectors: 24, tested: ['A', 'B'], untested: [{ net: 'C', why: 'no driver' }], faults }) as never;

  test('names what is short, open and stuck, and what could not be tested', async () => {
    const { screen } = await renderPage(<WiringView />, {
      state: {
        interconnect: result([
          { kind: 'short', nets: ['A', 'B'], as: 'wired-and', pins: ['0.P1', '1.P2'] },
          { kind: 'stuck', net: 'B', level: 0, pins: ['1.P2'] },
        ]),
      },
    });
    expect(screen.getByText('2 faults')).toBeTruthy();
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows.map((row) => row.textContent)).toEqual([
      expect.stringMatching(/^shortA, B.*wired-and.*0\.P1, 1\.P2$/),
      expect.stringMatching(/^stuckB.*0.*1\.P2$/),
    ]);
    expect(screen.getByText('Not testable: C (no driver).')).toBeTruthy();
  });

  test('without a fault it says so; without a description it says what is missing', async () => {
    const first = await renderPage(<WiringView />, { state: { interconnect: result([]) } });
    expect(first.screen.getByText('No fault')).toBeTruthy();
    first.unmount();
    const second = await renderPage(<WiringView />);
    expect(second.screen.getByText(/come from the "links" of the project's board description/)).toBeTruthy();
  });
});

describe('the logbook', () => {
  const entry = (id: number, over: object) => ({
    ...{ id, time: TIME, action: 'Load', board: 'Desk', project: 'Lamp', by: '', outcome: 'done' },
    ...{ message: 'DONE is high.', milliseconds: 1200, inputs: { build: 'ffffffff' }, ...over },
  });

  test('says what was done, by whom, from what, and how it ended; what happens next is added', async () => {
    const log = [entry(1, {}), entry(2, { action: 'Keep', by: 'the command', outcome: 'failed', inputs: {} })];
    const { screen, tell } = await renderPage(<LogbookStation />, { answers: { 'logbook.list': () => log } });
    const rows = () => screen.getAllByRole('row').slice(1);
    await expect.poll(() => rows().length).toBe(2);
    expect(rows()[0]?.textContent).toMatch(/^2026-01-0\d .*LoaddoneDONE is high\.buildffffffffDeskLamp1\.2 s$/);
    expect(rows()[1]?.textContent).toMatch(/Keepby the commandfailed/);
    log.push(entry(3, { action: 'Scan' }));
    tell({ jobs: [job({ id: 9 })] });
    await expect.poll(() => rows().length).toBe(3);
  });
});

describe('before a write', () => {
  const KEPT = { fingerprint: 'a'.repeat(32), time: TIME, chip: 'x', by: '' };
  const choice = { layout: null, image: null, replaceGolden: false, rehearseBy: 'power', values: {} };
  const asked = async (state: object) => {
    const onEnd = vi.fn();
    const page = await renderPage(<Question onEnd={onEnd} />, {
      answers: ANSWERS,
      state: { usable: SUMMARY, keepChoice: choice, ...state } as never,
    });
    return { ...page, onEnd, words: page.screen.getByRole('region', { name: 'Before writing' }).textContent };
  };

  test('what is lost is said: what stands there, or that nobody knows', async () => {
    expect((await asked({ kept: KEPT })).words).toMatch(/Lost is build aaaaaaaa, written 2026-01-0\d/);
  });

  test('and where it was not written from here', async () => {
    expect((await asked({})).words).toMatch(/The newest build is compared.*it was not written from here/);
  });

  test('a layout keeps its golden image, unless that is to be replaced', async () => {
    const layout = { ...choice, layout: 'two.layout.json' };
    const { words } = await asked({ keepChoice: layout });
    expect(words).toMatch(/The blocks of two\.layout\.json are compared/);
    expect(words).toMatch(/a golden image that stands is not touched/);
  });

  test('what runs goes on, but where it shares the pins of the flash', async () => {
    const running = { device: 1, fingerprint: SUMMARY.fingerprint, done: true, status: { done: true } };
    expect((await asked({ running })).words).toMatch(/^What runs (goes on meanwhile|stops: a CV25)/);
  });

  test('how the boot is tried is said; it begins when it is told to, and not otherwise', async () => {
    const { words, user, screen, calls, onEnd } = await asked({ keepChoice: { ...choice, rehearseBy: 'reconfigure' } });
    expect(words).toMatch(/reads its flash again, by the reconfigure wire/);
    await user.click(screen.getByRole('button', { name: 'Leave it as it is' }));
    expect([calls.filter(({ name }) => name === 'jobs.start'), onEnd.mock.calls.length]).toEqual([[], 1]);
    await user.click(screen.getByRole('button', { name: 'Erase and write' }));
    expect(calls.at(-1)).toEqual({ name: 'jobs.start', input: { kind: 'keep' } });
  });
});
