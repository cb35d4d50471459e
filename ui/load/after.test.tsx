// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { ProblemError, problem } from '../../core/result.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { STATE } from '../../tests/support/page/state.ts';
import { Checks } from './checks.tsx';
import { Report } from './report.tsx';

const PRINT = 'f'.repeat(32);
const LOAD = {
  ...{ device: 1, done: true, fingerprint: PRINT, verified: null, attempts: 1, firstProblem: null },
  ...{ tckCycles: 1_000_100, payloadBits: 1_000_000 },
};
const report = (load: object, after: unknown) =>
  ({
    time: '2026-01-02T03:04:05Z',
    steps: [{ device: 1, source: 'build 1', fingerprint: PRINT, checks: [], load: { ...LOAD, ...load }, after }],
  }) as never;
const facts = (list: HTMLElement) =>
  Object.fromEntries(
    [...list.querySelectorAll('dt')].map((name) => [name.textContent, name.nextElementSibling?.textContent]),
  );

describe('after a load', () => {
  test('what was read back, what answers, what ticks, and what it cost', async () => {
    const after = {
      cores: { kind: 'found', names: ['recorder main', 'panel p'] },
      clocks: [
        { port: 'clk', pin: 'P1', ticks: true },
        { port: 'aux', pin: 'P2', ticks: false },
      ],
    };
    const { screen } = await renderPage(<Report />, { state: { loadReport: report({ verified: true }, after) } });
    expect(facts(screen.getByTestId('after-load'))).toEqual({
      'Fingerprint read back': 'ffffffff',
      'Memory read back': 'equal',
      'Debug cores': 'recorder main, panel p',
      'Clock clk, P1': 'ticks',
      'Clock aux, P2': 'stands still',
      'TCK cycles a payload bit': '1.00010',
    });
  });

  test.each([
    [{ kind: 'none' }, 'the hub does not answer: this design has none'],
    [{ kind: 'silent', why: 'The hub is silent.' }, 'The hub is silent.'],
    [{ kind: 'unmapped', count: 2, fingerprint: 'a'.repeat(32) }, /^2 cores of build aaaaaaaa; .*\.probes\.json/],
  ])('debug cores that are not known say why', async (cores, words) => {
    const { screen } = await renderPage(<Report />, {
      state: { loadReport: report({}, { cores, clocks: [] }) },
    });
    expect(facts(screen.getByTestId('after-load'))['Debug cores']).toMatch(words);
  });

  test('a second try, and a memory that differs, are not hidden', async () => {
    const firstProblem = { code: 'crc', message: 'CRC error.', tryNext: [] };
    const { screen } = await renderPage(<Report />, {
      state: { loadReport: report({ attempts: 2, firstProblem, verified: false, fingerprint: null }, null) },
    });
    expect(facts(screen.getByTestId('after-load'))).toMatchObject({
      'Fingerprint read back': 'none',
      'Memory read back': 'differs',
      Attempts: '2: CRC error.',
      'Debug cores': 'not looked at',
    });
  });

  test('of a load that did not come up nothing is claimed', async () => {
    const { screen } = await renderPage(<Report />, { state: { loadReport: report({ done: false }, null) } });
    expect(screen.queryByTestId('after-load')).toBeNull();
  });
});

describe('the checks before', () => {
  const check = (name: string, state: string) => ({ name, state, message: `${name} is ${state}` });

  test('are asked for each step of the plan', async () => {
    const steps = [
      { device: 1, source: { kind: 'build' } },
      { device: 0, source: { kind: 'image', id: 7 } },
    ] as const;
    const { screen, user, calls } = await renderPage(<Checks busy={false} />, {
      state: { loadPlan: { steps, verify: false } },
      answers: { 'load.checks': ({ device }: { device: number }) => [check('part', device === 1 ? 'pass' : 'stop')] },
    });
    await user.click(screen.getByRole('button', { name: 'check now' }));
    expect(await screen.findByText('part is stop')).toBeTruthy();
    expect(screen.getByText('part is pass')).toBeTruthy();
    expect(calls.map(({ input }) => input)).toEqual(steps);
  });

  test('what keeps them from being made is said; those of a newer load take their place', async () => {
    const { screen, user, tell } = await renderPage(<Checks busy={false} />, {
      answers: {
        'load.checks': () => {
          throw new ProblemError(problem('no-build', 'There is no build.', 'Build first.'));
        },
      },
    });
    await user.click(screen.getByRole('button', { name: 'check now' }));
    expect((await screen.findByRole('alert')).textContent).toMatch(/There is no build\./);
    const step = { device: 1, source: 'build 1', fingerprint: PRINT, checks: [check('crc', 'pass')], load: null };
    tell({ loadReport: { time: '2099-01-01T00:00:00Z', steps: [{ ...step, after: null, problem: null }] } as never });
    expect(screen.getByText('crc is pass')).toBeTruthy();
  });

  test('cannot be made without a pod, nor while something is loaded', async () => {
    const first = await renderPage(<Checks busy />);
    expect((first.screen.getByRole('button', { name: 'check now' }) as HTMLButtonElement).disabled).toBe(true);
    first.unmount();
    const second = await renderPage(<Checks busy={false} />, { state: { pod: { ...STATE.pod, state: 'lost' } } });
    expect((second.screen.getByRole('button', { name: 'check now' }) as HTMLButtonElement).disabled).toBe(true);
  });
});
