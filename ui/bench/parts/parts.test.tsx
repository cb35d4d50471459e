// @vitest-environment happy-dom
import { beforeEach, describe, expect, test } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { PartsView } from './index.ts';

const FILE = {
  ...{ format: 'nimble-project', version: 3, name: 'My board', part: 'CV25', package: 'Q100', grade: 2 },
  ...{ pins: 'pins.csv', clocks: {}, accepted: [] },
};
const CAN = {
  ...{
    power: true,
    bootSwitch: true,
    reconfigure: true,
    reset: false,
    view: true,
    practice: true,
    line: false,
    bench: true,
  },
};

/** A project that keeps its files. */
async function parts(given: Readonly<Record<string, string>> = {}, over: object = {}) {
  const texts: Record<string, string> = { 'pins.csv': 'port,pin\nled,P30\n', ...given };
  const settings: { file: object; migrated: null; board: string | null } = { file: FILE, migrated: null, board: null };
  const page = await renderPage(<PartsView />, {
    at: '/bench/parts',
    state: { pod: { address: 'ws://x', state: 'connected', name: 'Old', problem: null, capabilities: CAN } },
    answers: {
      'project.settings': () => settings,
      'project.files': () => Object.entries(texts).map(([name, text]) => ({ name, text, version: text, changed: '' })),
      'project.saveFile': ({ name, text }: { readonly name: string; readonly text: string }) => {
        texts[name] = text;
        return { version: text };
      },
      'project.addFiles': ({ files }: { readonly files: readonly { name: string; text: string }[] }) => {
        for (const { name, text } of files) texts[name] = text;
        return { versions: files.map(({ text }) => text) };
      },
      'project.change': ({ board }: { readonly board: string }) => {
        settings.file = { ...FILE, board };
        settings.board = texts[board] ?? null;
        return { done: true };
      },
      'bench.useBench': done,
      ...over,
    },
  });
  await page.screen.findByRole('button', { name: 'Add' });
  const put = async (label: string, text: string) => {
    const field = await page.screen.findByLabelText(label);
    await page.user.clear(field);
    await page.user.type(field, `${text}{Enter}`);
  };
  const add = async (kind: string) => {
    await page.user.selectOptions(page.screen.getByLabelText('Kind of part'), kind);
    await page.user.click(page.screen.getByRole('button', { name: 'Add' }));
  };
  const board = () => (JSON.parse(texts['my-board.bench.json'] ?? '{}') as { board?: Record<string, unknown> }).board;
  return { ...page, put, add, texts, board };
}

beforeEach(() => localStorage.clear());

describe('the parts of a board', () => {
  test('begin with nothing, and become a bench file of the project as they are added', async () => {
    const page = await parts();
    expect(page.screen.getByText(/Nothing is described yet/)).toBeTruthy();
    await page.add('Lamp');
    await page.put('pin of L0', 'p30');
    await page.user.selectOptions(page.screen.getByLabelText('Level at which L0 is on'), 'low');
    await page.put('Label of L0', 'ready');
    await expect.poll(page.board).toEqual({ lamps: [{ name: 'L0', label: 'ready', pin: 'P30', active: false }] });
    expect(JSON.parse(page.texts['my-board.bench.json'] ?? '')).toMatchObject({
      chain: [{ kind: 'corvane', part: 'CV25', package: 'Q100' }],
    });
    // The open design has a port on that pin.
    expect(page.screen.getByText('led')).toBeTruthy();
  });

  test('what cannot be is said, and the bench does not stand on it', async () => {
    const page = await parts();
    await page.add('Keyboard');
    expect(await page.screen.findByText(/K0 has no pin yet for clock and data\./)).toBeTruthy();
    expect(page.screen.getByRole('status').textContent).toMatch(/1 part, 1 thing to mend/);
    expect(page.screen.getByRole('button', { name: 'Stand the bench on it' })).toHaveProperty('disabled', true);
  });

  test('a field that is left with Escape keeps what was there; a part can be taken away', async () => {
    const page = await parts();
    await page.add('Oscillator');
    const field = await page.screen.findByLabelText('Frequency of X0');
    await page.user.clear(field);
    await page.user.type(field, '5{Escape}');
    expect((field as HTMLInputElement).value).toBe('12000000');
    await page.user.click(page.screen.getByRole('button', { name: 'Remove X0' }));
    await expect.poll(page.board).toEqual({});
  });

  test('the description is written from them, named in the project, and read back from it', async () => {
    const page = await parts();
    await page.add('Oscillator');
    await page.put('pin of X0', 'P1');
    await page.user.click(page.screen.getByRole('button', { name: 'Write the description' }));
    await expect.poll(() => page.texts['my-board.board.json'] ?? '').toContain('"hertz": 12000000');
    await page.user.click(page.screen.getByRole('button', { name: 'Remove X0' }));
    const take = await page.screen.findByRole('button', { name: 'Take from the description' });
    await expect.poll(() => (take as HTMLButtonElement).disabled).toBe(false);
    await page.user.click(take);
    await expect.poll(page.board).toEqual({ oscillators: [{ name: 'X0', pin: 'P1', hz: 12_000_000 }] });
  });

  test('the bench stands on it once that was asked and said again', async () => {
    const page = await parts();
    await page.add('Lamp');
    await page.put('pin of L0', 'P30');
    await page.user.click(page.screen.getByRole('button', { name: 'Stand the bench on it' }));
    expect(page.calls.some(({ name }) => name === 'bench.useBench')).toBe(false);
    expect(page.screen.getByText('What runs on Old now stops.')).toBeTruthy();
    await page.user.click(page.screen.getByRole('button', { name: 'Do it' }));
    expect(page.calls.find(({ name }) => name === 'bench.useBench')?.input).toEqual({
      text: page.texts['my-board.bench.json'],
    });
  });

  test('a file that is none is said to be that, and is not written over', async () => {
    const page = await parts({ 'a.bench.json': '{"board": {"lamps": 3}}' });
    expect(await page.screen.findByText(/a\.bench\.json: board\.lamps/)).toBeTruthy();
    expect(page.texts['a.bench.json']).toBe('{"board": {"lamps": 3}}');
  });
});
