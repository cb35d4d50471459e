// @vitest-environment happy-dom
import { act } from '@testing-library/react';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ProblemError, problem } from '../../core/result.ts';
import { renderPage } from '../../tests/support/page/render.tsx';
import { useFiles, useSaveFile, useStart } from '../shared/index.ts';
import { useUnsaved } from '../shared/unsaved.ts';
import { RefusedFiles } from './refused-files.tsx';

/** A server's files, of which another window may change any. */
function files(start: Readonly<Record<string, string>>) {
  let count = 0;
  const held = new Map(Object.entries(start).map(([name, text]) => [name, { text, version: `v${count++}` }]));
  const put = (name: string, text: string) => held.set(name, { text, version: `v${count++}` });
  return {
    put,
    text: (name: string) => held.get(name)?.text,
    versions: () => Object.fromEntries([...held].map(([name, { version }]) => [name, version])),
    answers: {
      'project.files': () => [...held].map(([name, { text, version }]) => ({ name, text, version, changed: '' })),
      'project.addFiles': ({ files: given }: { files: { name: string; text: string }[] }) => {
        for (const { name, text } of given) put(name, text);
        return { versions: given.map(({ name }) => held.get(name)?.version) };
      },
      'project.saveFile': ({ name, text, read }: { name: string; text: string; read: string | null }) => {
        if (read !== null && held.get(name)?.version !== read)
          throw new ProblemError(problem('file-changed', `${name} was changed elsewhere.`, 'Choose.'));
        put(name, text);
        return { version: held.get(name)?.version };
      },
    },
  };
}

/** An editor of one line for each file. */
function Editor() {
  const list = useFiles().data ?? [];
  const { keep, save } = useSaveFile();
  const start = useStart();
  return (
    <>
      {list.map(({ name, text }) => (
        <input key={name} aria-label={name} value={text} onChange={(event) => keep(name, event.target.value)} />
      ))}
      <button type="button" onClick={() => void save('a.v')}>
        save
      </button>
      <button
        type="button"
        onClick={() => {
          keep('new.v', 'module n;');
          void save('new.v');
        }}
      >
        new
      </button>
      <button type="button" onClick={() => void start({ kind: 'build' })}>
        build
      </button>
      <RefusedFiles />
    </>
  );
}

beforeEach(() => {
  localStorage.clear();
  useUnsaved.setState({ list: [] });
});

async function opened(start: Readonly<Record<string, string>> = { 'a.v': 'one', 'b.v': 'two' }) {
  const server = files(start);
  const page = await renderPage(<Editor />, { answers: server.answers as never, state: { files: server.versions() } });
  const field = async (name: string) => (await page.screen.findByLabelText(name)) as HTMLInputElement;
  await field('a.v');
  const type = async (name: string, text: string) => page.user.type(await field(name), text);
  const press = (name: string) => page.user.click(page.screen.getByRole('button', { name }));
  const storage = () => localStorage.getItem('nimble-unsaved') ?? '';
  return { ...page, server, field, type, press, storage };
}

describe('a file of two windows', () => {
  test('is saved over the version that was read', async () => {
    const { server, type, press, screen } = await opened();
    await type('a.v', '!');
    await press('save');
    await expect.poll(() => server.text('a.v')).toBe('one!');
    await type('a.v', '?');
    await press('save');
    await expect.poll(() => server.text('a.v')).toBe('one!?');
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test('what another window saved is shown, and said', async () => {
    const { server, field, tell, screen } = await opened();
    server.put('b.v', 'other');
    tell({ files: server.versions() });
    await expect.poll(async () => (await field('b.v')).value).toBe('other');
    expect(await screen.findByText('b.v was changed elsewhere; it is shown as it is now.')).toBeTruthy();
  });

  test('overtaken while it was written: nothing is lost until somebody chooses; mine over it', async () => {
    const { server, field, type, press, tell, screen } = await opened();
    await type('a.v', ' mine');
    server.put('a.v', 'theirs');
    tell({ files: server.versions() });
    await press('save');
    expect((await screen.findByRole('alert')).textContent).toMatch(
      /a\.v was changed elsewhere\. What you typed is here and not on the server\./,
    );
    expect([(await field('a.v')).value, server.text('a.v')]).toEqual(['one mine', 'theirs']);
    await press('Save mine over it');
    await expect.poll(() => server.text('a.v')).toBe('one mine');
    await expect.poll(() => screen.queryByRole('alert')).toBeNull();
  });

  test('or the other text', async () => {
    const { server, field, type, press, screen } = await opened();
    await type('a.v', ' mine');
    server.put('a.v', 'theirs');
    await press('save');
    await screen.findByRole('alert');
    await press('Take the other text');
    await expect.poll(async () => (await field('a.v')).value).toBe('theirs');
    expect(server.text('a.v')).toBe('theirs');
  });

  test('a new one is there at once, and on the server', async () => {
    const { server, field, press } = await opened();
    await press('new');
    expect((await field('new.v')).value).toBe('module n;');
    await expect.poll(() => server.text('new.v')).toBe('module n;');
  });

  test('a server that refuses for another reason says why, and the text is saved by another try', async () => {
    const { server, type, press, screen, field } = await opened();
    const save = server.answers['project.saveFile'];
    let full = true;
    Object.assign(server.answers, {
      'project.saveFile': (given: Parameters<typeof save>[0]) => {
        if (full) throw new ProblemError(problem('disk-full', 'The disk is full.', 'Make room.'));
        return save(given);
      },
    });
    await type('a.v', '+');
    await press('save');
    expect((await screen.findByRole('alert')).textContent).toMatch(/The disk is full\. Make room\./);
    full = false;
    await act(async () => press('Save again'));
    await expect.poll(() => server.text('a.v')).toBe('one+');
    expect((await field('a.v')).value).toBe('one+');
  });
});

describe('a server that is away', () => {
  /** The same, with calls that come to nothing while `away`. */
  async function reached() {
    const page = await opened();
    const fetched = globalThis.fetch;
    let away = false;
    vi.stubGlobal('fetch', (...given: Parameters<typeof fetch>) =>
      away ? Promise.reject(new TypeError('Failed to fetch')) : fetched(...given),
    );
    return {
      ...page,
      leave: () => {
        away = true;
        page.lose();
      },
      comeBack: () => {
        away = false;
        page.find();
      },
    };
  }

  test('what is typed is kept, marked, and saved when it is back, without anybody asking', async () => {
    const { leave, comeBack, type, press, screen, server } = await reached();
    leave();
    await type('a.v', '!');
    await press('save');
    expect((await screen.findByRole('status')).textContent).toMatch(/Not saved yet: a\.v\./);
    expect(localStorage.getItem('nimble-unsaved')).toContain('one!');
    expect(server.text('a.v')).toBe('one');
    comeBack();
    await expect.poll(() => server.text('a.v')).toBe('one!');
    await expect.poll(() => screen.queryByRole('status')).toBeNull();
    expect(localStorage.getItem('nimble-unsaved')).not.toContain('one!');
  });

  test('what was typed in the last moment of a page is saved by the next one, over the version it was read at', async () => {
    const first = await opened();
    await first.type('a.v', ' typed');
    await first.type('b.v', ' too');
    first.unmount();
    first.server.put('b.v', 'theirs');
    const left = first.storage();
    useUnsaved.setState({ list: [] });
    localStorage.setItem('nimble-unsaved', left);
    const page = await renderPage(<Editor />, {
      answers: first.server.answers as never,
      state: { files: first.server.versions() },
    });
    await expect.poll(() => first.server.text('a.v')).toBe('one typed');
    expect((await page.screen.findByRole('alert')).textContent).toMatch(/b\.v was changed elsewhere/);
    expect(first.server.text('b.v')).toBe('theirs');
    await expect.poll(() => (page.screen.getByLabelText('b.v') as HTMLInputElement).value).toBe('two too');
    await page.user.click(page.screen.getByRole('button', { name: 'Save mine over it' }));
    await expect.poll(() => first.server.text('b.v')).toBe('two too');
  });

  test('a build waits for what is typed, and is not begun where that cannot be saved', async () => {
    const { type, press, calls, server, screen } = await opened();
    const built = () => calls.filter(({ name }) => name === 'jobs.start').length;
    await type('a.v', '1');
    await press('build');
    await expect.poll(built).toBe(1);
    expect(server.text('a.v')).toBe('one1');
    await type('a.v', '2');
    server.put('a.v', 'theirs');
    await press('build');
    expect(await screen.findByText('Nothing was begun: a file is not saved yet.')).toBeTruthy();
    expect(built()).toBe(1);
  });

  test('a store of the browser that is full leaves the page as it was', async () => {
    const { type, press, server } = await opened();
    const spy = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    await type('a.v', '+');
    await press('save');
    await expect.poll(() => server.text('a.v')).toBe('one+');
    spy.mockRestore();
  });
});
