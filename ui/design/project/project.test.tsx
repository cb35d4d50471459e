// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { FAMILIES, partsOf } from '../../../core/families/index.ts';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { ProjectView } from './index.ts';

const FILE = {
  ...{ format: 'nimble-project', version: 3, name: 'Lamp', part: 'CV25', grade: 2, pins: 'pins.csv' },
  ...{ clocks: {}, accepted: [] },
};
const LIST = {
  current: 1,
  projects: [
    { id: 1, name: 'Lamp', created: '2026-01-02T03:04:05Z' },
    { id: 2, name: 'Twin', created: '2026-01-02T03:04:05Z' },
    { id: 3, name: 'Twin', created: '2026-01-03T03:04:05Z' },
  ],
};
const ANSWERS = {
  'project.settings': () => ({ file: FILE, migrated: null, board: null }),
  'project.files': () => [
    { name: 'top.v', text: '', version: 'a', changed: '' },
    { name: 'desk.board.json', text: '{}', version: 'b', changed: '' },
  ],
  'project.list': () => LIST,
  'design.ports': () => ({ ports: [], modules: ['top', 'other'], top: 'top', trouble: null }),
  'design.newest': () => ({ latest: null, usable: null }),
  ...{ 'project.change': done, 'project.create': () => ({ id: 4 }), 'project.open': () => ({ id: 2 }) },
  ...{ 'project.remove': done, 'project.duplicate': () => ({ id: 5 }) },
};

const PARTS = partsOf(FAMILIES);

async function shown(answers: Readonly<Record<string, (input: never) => unknown>> = ANSWERS) {
  const page = await renderPage(<ProjectView />, { answers, at: '/design/project' });
  await page.screen.findByLabelText('Part');
  await page.screen.findAllByText('Twin');
  const sent = (name: string) => page.calls.filter((call) => call.name === name).map(({ input }) => input);
  return { ...page, sent };
}

describe('the project', () => {
  test('every part, every package of it, and every grade can be chosen', async () => {
    const { screen, user, sent } = await shown();
    const offered = (label: string) =>
      [...screen.getByLabelText(label).querySelectorAll('option')].map(({ value }) => value);
    for (const part of PARTS) expect(offered('Part')).toContain(part.name);
    const own = PARTS.find(({ name }) => name === 'CV25');
    expect(offered('Package')).toEqual(own?.packages);
    await user.selectOptions(screen.getByLabelText('Part'), 'CV10');
    await user.selectOptions(screen.getByLabelText('Package'), own?.packages.at(-1) ?? '');
    await user.selectOptions(screen.getByLabelText('Speed grade'), '1');
    expect(sent('project.change')).toEqual([
      { part: 'CV10', package: null },
      { package: own?.packages.at(-1) },
      { grade: 1 },
    ]);
  });

  test('the top is as found, or one of the modules; a board is a file of the project', async () => {
    const { screen, user, sent } = await shown();
    expect(await screen.findByText('as found: top')).toBeTruthy();
    await user.selectOptions(screen.getByLabelText('Top module'), 'other');
    await user.selectOptions(screen.getByLabelText('Board'), 'desk.board.json');
    await user.selectOptions(screen.getByLabelText('Board'), '');
    expect(sent('project.change')).toEqual([{ top: 'other' }, { board: 'desk.board.json' }, { board: null }]);
  });

  test('a name that is empty, or the same, is not saved', async () => {
    const { screen, user, sent } = await shown();
    const name = screen.getByLabelText('Name');
    await user.clear(name);
    await user.tab();
    await user.type(name, 'Lamp');
    await user.tab();
    expect(sent('project.change')).toEqual([]);
    await user.type(name, ' two ');
    await user.tab();
    expect(sent('project.change')).toEqual([{ name: 'Lamp two' }]);
  });

  test('a file of an older release is said to be one', async () => {
    const migrated = { message: 'nimble.json is of version 1.' };
    const { screen } = await shown({
      ...ANSWERS,
      'project.settings': () => ({ file: FILE, migrated, board: null }),
    });
    expect(screen.getByTestId('migrated').textContent).toBe('nimble.json is of version 1.');
  });
});

describe('the other projects', () => {
  test('of one name are told apart by their number', async () => {
    const { screen } = await shown();
    expect(screen.getAllByText(/^no\. \d$/).map(({ textContent }) => textContent)).toEqual(['no. 2', 'no. 3']);
  });

  test('one is opened, copied under a name, and deleted after asking', async () => {
    const { screen, user, sent } = await shown();
    await user.click(screen.getAllByRole('button', { name: /^Twin/ })[0] as HTMLElement);
    expect(sent('project.open')).toEqual([{ id: 2 }]);
    await user.click(screen.getAllByRole('button', { name: 'Delete Twin' })[0] as HTMLElement);
    expect(screen.getByText(/They are lost\./)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(sent('project.remove')).toEqual([]);
    await user.click(screen.getAllByRole('button', { name: 'Delete Twin' })[0] as HTMLElement);
    await user.click(screen.getByRole('button', { name: 'Delete' }));
    expect(sent('project.remove')).toEqual([{ id: 2 }]);
  });

  test('a new one has a name and a part', async () => {
    const { screen, user, sent } = await shown();
    await user.type(screen.getByLabelText('Name of the new project'), 'Fresh');
    await user.click(screen.getByRole('button', { name: 'Create' }));
    expect(sent('project.create')).toEqual([{ name: 'Fresh', part: expect.stringMatching(/^CV/) }]);
  });
});
