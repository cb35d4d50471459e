// @vitest-environment happy-dom
import { fireEvent } from '@testing-library/react';
import { describe, expect, test, vi } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { FileList } from './file-list.tsx';

const file = (name: string) => ({ name, text: '', changed: '', version: 'v', loaded: 'v', replaced: [] });
const FILES = ['nimble.json', 'rtl/top.v', 'pins.csv'].map(file);
const ANSWERS = { 'project.addFiles': done, 'project.renameFile': done, 'project.removeFile': done };

async function list(chosen: string | null = 'rtl/top.v', over: object = {}) {
  const onChoose = vi.fn();
  const page = await renderPage(
    <FileList files={FILES} chosen={chosen} stale={[]} messages={[]} onChoose={onChoose} {...over} />,
    { answers: ANSWERS },
  );
  const button = (name: string) => page.screen.getByRole('button', { name }) as HTMLButtonElement;
  const asked = () => page.calls.map(({ name, input }) => [name, input]);
  return { ...page, onChoose, button, asked };
}
const given = (name: string, bytes: string | Uint8Array<ArrayBuffer>) => new File([bytes], name);

describe('the files of a project', () => {
  test('are chosen; errors and edits are told at their names', async () => {
    const { user, screen, onChoose, button } = await list('rtl/top.v', {
      stale: ['pins.csv'],
      messages: [
        { file: 'rtl/top.v', severity: 'error' },
        { file: 'rtl/top.v', severity: 'warning' },
      ],
    });
    expect(screen.getAllByRole('listitem').map(({ textContent }) => textContent)).toEqual([
      'nimble.json',
      'rtl/top.v1',
      'pins.csvedited',
    ]);
    await user.click(button('pins.csv edited'));
    expect(onChoose).toHaveBeenLastCalledWith('pins.csv');
  });

  test('a new one is empty and shown; one gets another name', async () => {
    const { user, screen, onChoose, button, asked } = await list();
    await user.click(button('New file'));
    await user.clear(screen.getByLabelText('File name'));
    await user.type(screen.getByLabelText('File name'), 'rtl/a.v{Enter}');
    await expect.poll(() => onChoose.mock.calls.at(-1)).toEqual(['rtl/a.v']);
    await user.click(button('Rename file'));
    const field = screen.getByLabelText('File name') as HTMLInputElement;
    expect(field.value).toBe('rtl/top.v');
    await user.clear(field);
    await user.type(field, 'rtl/main.v');
    await user.click(button('Rename'));
    await expect.poll(() => onChoose.mock.calls.at(-1)).toEqual(['rtl/main.v']);
    expect(asked()).toEqual([
      ['project.addFiles', { files: [{ name: 'rtl/a.v', text: '' }] }],
      ['project.renameFile', { from: 'rtl/top.v', to: 'rtl/main.v' }],
    ]);
  });

  test('one is deleted after asking; the project’s own file is neither deleted nor renamed', async () => {
    const { user, button, asked, unmount } = await list();
    await user.click(button('Delete file'));
    await user.click(button('Keep it'));
    await user.click(button('Delete file'));
    await user.click(button('Delete'));
    expect(asked()).toEqual([['project.removeFile', { name: 'rtl/top.v' }]]);
    unmount();
    const own = await list('nimble.json');
    expect([own.button('Delete file').disabled, own.button('Rename file').disabled]).toEqual([true, true]);
  });

  test('from the desk those that are sources come in; the others are named with the reason', async () => {
    const { user, screen, asked } = await list();
    const latin1 = Uint8Array.from([0x2f, 0x2f, 0xe9, 0x0a]);
    await user.upload(screen.getByTestId('file-picker'), [
      given('my own.v', 'module m; endmodule'),
      given('photo.png', 'x'),
      given('old.vh', latin1),
      given('worse.v', Uint8Array.from([0x77, 0xe9, 0x0a])),
    ]);
    expect(await screen.findByText(/photo\.png is no source\./)).toBeTruthy();
    expect(await screen.findByText(/worse\.v, line 1: the byte 0xe9 is not UTF-8/)).toBeTruthy();
    expect(await screen.findByText(/old\.vh, line 1: the byte 0xe9 in a comment/)).toBeTruthy();
    await expect.poll(asked).toEqual([
      [
        'project.addFiles',
        {
          files: [
            { name: 'my_own.v', text: 'module m; endmodule' },
            { name: 'old.vh', text: '//é\n' },
          ],
        },
      ],
    ]);
  });

  test('and may be dropped onto the list', async () => {
    const { screen, asked } = await list();
    const target = screen.getByRole('list', { name: 'Files' });
    fireEvent.dragOver(target);
    expect(target.className).toMatch(/border-signal/);
    fireEvent.drop(target, { dataTransfer: { files: [given('b.v', 'x')] } });
    expect(target.className).not.toMatch(/border-signal/);
    await expect.poll(asked).toEqual([['project.addFiles', { files: [{ name: 'b.v', text: 'x' }] }]]);
  });
});
