// @vitest-environment happy-dom
// What is asked of a record and what comes back, with a desk that answers from a list.
import { useState } from 'react';
import { describe, expect, test, vi } from 'vitest';
import type { WaveNote } from '../../../core/wave/index.ts';
import { problem } from '../../../core/result.ts';
import { stepsOf } from '../../../tests/support/page/axis.ts';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { FindPanel } from './find.tsx';
import { NotesPanel } from './notes.tsx';

const AXIS = stepsOf(1000, 250);
const STRETCHES = [
  { from: 100, to: 101 },
  { from: 300, to: 420 },
];

interface FindingProps {
  readonly desk: never;
  readonly text: string;
  readonly onGo: (tick: number) => void;
}

/** The panel with a sentence that was looked for before, without a place. */
function Finding({ desk, text, onGo }: FindingProps) {
  const nothing = { text, result: { kind: 'places', stretches: [], count: 0, rule: false } as never };
  const [found, setFound] = useState<Parameters<typeof FindPanel>[0]['found']>(nothing);
  const [rules, setRules] = useState<readonly string[]>([]);
  return (
    <FindPanel
      desk={desk}
      axis={AXIS}
      signals={[]}
      tick={250}
      rules={rules}
      found={found}
      onFound={setFound}
      onRules={setRules}
      onGo={onGo}
    />
  );
}

async function finding(text: string, result: object, wrong: unknown = null) {
  const asked: unknown[] = [];
  const onGo = vi.fn();
  const desk = {
    ask: async (what: string, given: { readonly text: string }) => {
      if (what === 'check') return wrong;
      asked.push(given.text);
      return { ok: true, value: result };
    },
  };
  const page = await renderPage(<Finding desk={desk as never} text={text} onGo={onGo} />);
  const press = (name: string) => page.user.click(page.screen.getByRole('button', { name }));
  return { ...page, asked, onGo, press };
}

describe('finding', () => {
  const places = { kind: 'places', stretches: STRETCHES, count: 2, rule: false };

  test('a sentence that is wrong says where, and cannot be looked for', async () => {
    const wrong = { ...problem('sentence', 'Ends too early.', 'Give a value.'), place: { line: 1, column: 9 } };
    const { screen } = await finding('level ==', places, wrong);
    await expect.poll(() => screen.getByTestId('found').textContent).toBe('At 9: Ends too early. Give a value.');
    expect((screen.getByRole('button', { name: 'Find' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('goes to the next place after the cursor; a place of the list is gone to', async () => {
    const { screen, press, asked, onGo, user } = await finding('level == 4', places);
    await press('Find');
    await expect.poll(() => onGo.mock.calls).toEqual([[300]]);
    expect(asked).toEqual(['level == 4']);
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows.map(({ textContent }) => textContent)).toEqual([
      expect.stringMatching(/^-150(\.0+)? µs1001 sample, 1(\.0+)? µs$/),
      expect.stringMatching(/^50(\.0+)? µs300120 samples, 120(\.0+)? µs$/),
    ]);
    await user.click(rows[0] as HTMLElement);
    expect(onGo).toHaveBeenLastCalledWith(100);
  });

  test('a sentence is kept, looked for again with a press, and forgotten', async () => {
    const { screen, press, asked } = await finding('level == 4', places);
    await press('Keep');
    expect(screen.getByRole('list', { name: 'Kept sentences' }).textContent).toBe('level == 4');
    await press('level == 4');
    await expect.poll(() => asked).toEqual(['level == 4']);
    await press('Forget level == 4');
    expect(screen.queryByRole('list', { name: 'Kept sentences' })).toBeNull();
  });
});

describe('notes', () => {
  const noted = async (start: readonly WaveNote[] = []) => {
    const onGo = vi.fn();
    function Notes() {
      const [notes, setNotes] = useState(start);
      return <NotesPanel axis={AXIS} notes={notes} tick={260} onNotes={setNotes} onGo={onGo} />;
    }
    const page = await renderPage(<Notes />);
    // Toasts are lists as well.
    const items = () => [...(page.container.querySelector('ul')?.children ?? [])];
    return { ...page, items, onGo };
  };

  test('are pinned at the cursor, listed in the order of time, gone to and deleted', async () => {
    const { screen, user, onGo, items } = await noted([{ id: '4', tick: 900, text: 'late' }]);
    const pin = screen.getByRole('button', { name: /^Pin at 10(\.0+)? µs$/ }) as HTMLButtonElement;
    expect(pin.disabled).toBe(true);
    await user.type(screen.getByLabelText('Note'), '  early {Enter}');
    const words = () => items().map((item) => item.querySelector('span')?.textContent);
    expect(words()).toEqual(['early', 'late']);
    await user.click(screen.getByRole('button', { name: /^650/ }));
    expect(onGo).toHaveBeenCalledWith(900);
    await user.click(screen.getByRole('button', { name: 'Delete note late' }));
    expect(words()).toEqual(['early']);
  });
});
