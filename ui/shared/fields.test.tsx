// @vitest-environment happy-dom
import { fireEvent, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, test, vi } from 'vitest';
import { Button } from './button.tsx';
import { Checkbox, Field, Segmented, Select, TextInput } from './fields.tsx';
import { FileButton } from './file-button.tsx';
import { FileDrop } from './file-drop.tsx';
import { IconButton, RowButton, TextButton, Tile } from './small-button.tsx';

describe('fields', () => {
  test('a name belongs to what it stands before', () => {
    const { unmount } = render(
      <>
        <Field name="Address">
          <TextInput defaultValue="ws://x" />
        </Field>
        <Field name="Depth">
          <Select defaultValue="64">
            <option>16</option>
            <option>64</option>
          </Select>
        </Field>
      </>,
    );
    expect((screen.getByLabelText('Address') as HTMLInputElement).value).toBe('ws://x');
    expect((screen.getByLabelText('Depth') as HTMLSelectElement).value).toBe('64');
    unmount();
  });

  test('their height and type are said, what else is given goes on to the field', () => {
    const { unmount } = render(<TextInput size="tiny" isCode className="w-14" aria-label="Pin" list="pins" />);
    const input = screen.getByLabelText('Pin');
    expect([...input.classList]).toEqual(expect.arrayContaining(['h-6', 'code', 'w-14']));
    expect(input.getAttribute('list')).toBe('pins');
    // The size is ours, and none of the element's own.
    expect(input.getAttribute('size')).toBeNull();
    unmount();
  });

  test('a box to tick carries its name behind it, and tells', async () => {
    const told = vi.fn();
    const { unmount } = render(<Checkbox onChange={(event) => told(event.target.checked)}>go on</Checkbox>);
    await userEvent.click(screen.getByLabelText('go on'));
    await userEvent.click(screen.getByText('go on'));
    expect(told.mock.calls).toEqual([[true], [false]]);
    unmount();
  });

  test('one of a few is chosen by pointer and by arrow keys, and none by pressing what is chosen', async () => {
    const told = vi.fn();
    function Played() {
      const [value, setValue] = useState<'flash' | 'jtag' | null>(null);
      const choices = [
        { value: 'flash', name: 'flash' },
        { value: 'jtag', name: 'JTAG' },
      ] as const;
      const take = (next: 'flash' | 'jtag') => {
        told(next);
        setValue(next);
      };
      return <Segmented label="Boot source" value={value} choices={choices} onChoose={take} />;
    }
    const { unmount } = render(<Played />);
    const chosen = () => screen.getAllByRole('radio').filter((one) => one.getAttribute('aria-checked') === 'true');
    expect(chosen()).toEqual([]);
    await userEvent.click(screen.getByRole('radio', { name: 'JTAG' }));
    await userEvent.click(screen.getByRole('radio', { name: 'JTAG' }));
    expect(chosen().map((one) => one.textContent)).toEqual(['JTAG']);
    await userEvent.keyboard('{ArrowLeft}{Enter}');
    expect(told.mock.calls).toEqual([['jtag'], ['flash']]);
    unmount();
  });
});

describe('buttons', () => {
  test('a picture has a name for who does not see it, and a title for who does', async () => {
    const pressed = vi.fn();
    const { unmount } = render(
      <IconButton label="Delete rtl/a.v" isRemoval onClick={pressed}>
        <svg aria-hidden="true" />
      </IconButton>,
    );
    const button = screen.getByRole('button', { name: 'Delete rtl/a.v' });
    expect([button.title, button.getAttribute('type')]).toEqual(['Delete rtl/a.v', 'button']);
    await userEvent.click(button);
    expect(pressed).toHaveBeenCalledOnce();
    unmount();
  });

  test('what is chosen of several is told', () => {
    const { unmount } = render(
      <>
        <Tile isChosen>clk</Tile>
        <Tile>clk10</Tile>
        <RowButton isChosen aria-current>
          a.v
        </RowButton>
        <TextButton>closer</TextButton>
        <Button disabled>Load</Button>
      </>,
    );
    const pressed = ['clk', 'clk10'].map((name) => screen.getByRole('button', { name }).getAttribute('aria-pressed'));
    expect(pressed).toEqual(['true', 'false']);
    expect(screen.getByRole('button', { name: 'a.v' }).className).toContain('font-bold');
    expect((screen.getByRole('button', { name: 'Load' }) as HTMLButtonElement).disabled).toBe(true);
    unmount();
  });
});

describe('files', () => {
  const file = (name: string) => new File(['x'], name);

  test('one is asked for, and the same may be asked for again', async () => {
    const taken = vi.fn();
    const { unmount } = render(
      <FileButton label="SVF file" accept=".svf" title="Open" onFile={(one) => taken(one.name)}>
        Open
      </FileButton>,
    );
    const input = screen.getByLabelText('SVF file') as HTMLInputElement;
    await userEvent.upload(input, file('a.svf'));
    await userEvent.upload(input, file('a.svf'));
    expect(taken.mock.calls).toEqual([['a.svf'], ['a.svf']]);
    unmount();
  });

  test('what is dropped is taken; text that is dragged is not, nor anything while it is busy', () => {
    const taken = vi.fn();
    const page = (disabled: boolean) => (
      <FileDrop what="a bitstream" disabled={disabled} onFiles={(files) => taken(files.map(({ name }) => name))}>
        <p>station</p>
      </FileDrop>
    );
    const { rerender, unmount } = render(page(false));
    const drop = screen.getByTestId('file-drop');
    const dragged = { dataTransfer: { types: ['Files'], files: [file('a.nbits'), file('a.probes.json')] } };
    fireEvent.dragOver(drop, { dataTransfer: { types: ['text/plain'], files: [] } });
    expect(screen.queryByText('Drop a bitstream here.')).toBeNull();
    fireEvent.dragOver(drop, dragged);
    expect(screen.getByText('Drop a bitstream here.')).toBeTruthy();
    fireEvent.drop(drop, dragged);
    expect(screen.queryByText('Drop a bitstream here.')).toBeNull();
    rerender(page(true));
    fireEvent.dragOver(drop, dragged);
    expect(screen.queryByText('Drop a bitstream here.')).toBeNull();
    fireEvent.drop(drop, dragged);
    expect(taken.mock.calls).toEqual([[['a.nbits', 'a.probes.json']]]);
    unmount();
  });
});
