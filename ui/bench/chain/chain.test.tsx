// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { STATE } from '../../../tests/support/page/state.ts';
import { added, edited, moved, removed } from './edit.ts';
import { ChainView } from './index.ts';

const DEVICES = [
  { index: 0, idcode: 0x1c010ffd, part: 'CV10', candidates: ['CV10'], irLength: 6, irCapture: '000001' },
  { index: 1, idcode: 0x1c025ffd, part: null, candidates: ['CV25', 'CV25S'], irLength: 6, irCapture: '000001' },
  { index: 2, idcode: null, part: null, candidates: [], irLength: null, irCapture: null },
];
const ANSWERS = { 'bench.answerPlace': done, 'bench.saveChain': done, 'jobs.start': () => ({ id: 1 }) };
const scan = (devices: readonly object[] = DEVICES) =>
  ({ devices, problems: [], time: '2026-01-02T03:04:05Z', instructionBits: 17, tckCycles: 338 }) as never;

const shown = (state: object) => renderPage(<ChainView />, { answers: ANSWERS, state: state as never });

describe('the chain', () => {
  test('who answers, and what is known of them', async () => {
    const { screen } = await shown({ scan: scan() });
    const cells = screen.getAllByRole('row').map((row) => [...row.querySelectorAll('td')].map((td) => td.textContent));
    expect(cells.find((row) => row[0] === '0')?.slice(1, 4)).toEqual(['CV10', '0x1C010FFD', '1']);
    expect(cells.find((row) => row[0] === '2')?.slice(1, 3)).toEqual(['unknown', 'none']);
  });

  test('one IDCODE of several parts is asked about; the length of an unknown device can be given', async () => {
    const { screen, user, calls } = await shown({ scan: scan() });
    await user.selectOptions(screen.getByLabelText('Which part is at place 1'), 'CV25S');
    await user.type(screen.getByLabelText('Instruction length at place 2'), '5{Enter}');
    expect(calls.map(({ input }) => input)).toEqual([
      { index: 1, part: 'CV25S' },
      { index: 2, irLength: 5 },
    ]);
  });

  test('an answer that was given is taken back', async () => {
    const [first, second] = DEVICES;
    const { screen, user, calls } = await shown({
      scan: scan([first, { ...second, part: 'CV25', candidates: ['CV25'] }].map((one) => one ?? {})),
      answers: [{ index: 1, part: 'CV25' }],
    });
    await user.click(screen.getByRole('button', { name: 'ask again' }));
    expect(calls).toEqual([{ name: 'bench.answerPlace', input: { index: 1 } }]);
  });

  test.each([
    [{ scan: null }, 'The chain has not been scanned. Press Scan.'],
    [{ scan: scan([]) }, 'Nobody answered. The ladder under Diagnosis says where to look.'],
    [{ pod: { ...STATE.pod, state: 'none' } }, 'No pod is connected. Name one under Pods.'],
  ])('without devices it says why', async (state, words) => {
    const { screen } = await shown(state);
    expect(screen.getByText(words)).toBeTruthy();
  });

  test('is compared with the expected one', async () => {
    const expected = [{ part: 'CV10', idcode: 0x1c010ffd, irLength: 6 }];
    const same = { kind: 'same', expected: 0, found: 0 };
    const chain = { from: 'file', file: null, problem: null, chain: { devices: expected }, rows: [same] };
    const { screen } = await shown({ scan: scan(DEVICES.slice(0, 1)), chain });
    expect(screen.getByText('The device is the expected one.')).toBeTruthy();
  });
});

describe('editing what is expected', () => {
  const device = (part: string) => ({ part, idcode: null, irLength: 4 });
  const chain = { format: 'nimble-chain', version: 1, devices: ['A', 'B', 'C'].map(device) } as const;
  const names = ({ devices }: { readonly devices: readonly { readonly part: string | null }[] }) =>
    devices.map(({ part }) => part);

  test('a device is added farthest from TDO, removed, changed', () => {
    expect(names(added(chain))).toEqual(['A', 'B', 'C', null]);
    expect(names(added(null))).toEqual([null]);
    expect(names(removed(chain, 1))).toEqual(['A', 'C']);
    expect(names(edited(chain, 0, device('X')))).toEqual(['X', 'B', 'C']);
  });

  test('moved either way, those between make room', () => {
    expect(names(moved(chain, 0, 2))).toEqual(['B', 'C', 'A']);
    expect(names(moved(chain, 2, 0))).toEqual(['C', 'A', 'B']);
    expect(names(moved(chain, 7, 0))).toEqual(['A', 'B', 'C']);
  });
});
