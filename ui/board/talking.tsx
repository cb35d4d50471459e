import { clsx } from 'clsx';
import { useState } from 'react';
import type { BoardPart } from '../../core/board/index.ts';
import { api, useAct } from '../shared/index.ts';

type Of<K extends BoardPart['kind']> = Extract<BoardPart, { kind: K }>;

/** Rows of characters; dark while it is off. */
export const TextDisplay = ({ name, label, isOn, rows }: Of<'text'>) => (
  <figure className="mt-3" data-testid={`text-${name}`}>
    <div
      className={clsx('code overflow-hidden border border-quiet px-2 py-1 text-sm', isOn ? 'bg-raised' : 'bg-well')}
      role="img"
      aria-label={isOn ? rows.join(' / ') : 'dark'}
    >
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row is known by its place
        <div key={i} className="whitespace-pre leading-5">
          {isOn ? row : ' '.repeat(row.length)}
        </div>
      ))}
    </div>
    <figcaption className="text-quiet text-xs">{label}</figcaption>
  </figure>
);

/** Keys of the desk's own keyboard by what they are called on the board's. */
const NAMED: Readonly<Record<string, string>> = {
  ...{ Escape: 'Esc', ShiftLeft: 'Shift', ControlLeft: 'Ctrl', AltLeft: 'Alt', Comma: ',', Period: '.', Slash: '/' },
  ...{ ArrowUp: 'Up', ArrowDown: 'Down', ArrowLeft: 'Left', ArrowRight: 'Right', Minus: '-', Semicolon: ';' },
};

const keyOf = (code: string): string => NAMED[code] ?? code.replace(/^(Key|Digit)/, '');

/** While it has the focus, keys go to the board; Tab leaves it. */
export function Keyboard({ name, label, keys, down }: Of<'keyboard'>) {
  const { act } = useAct();
  const [isFocused, setFocused] = useState(false);
  const press = (code: string, on: boolean) => {
    const key = keyOf(code);
    if (key === 'Tab' || !keys.includes(key)) return false;
    void act(() => api.bench.operate.mutate({ control: `${name}/${key}`, on }));
    return true;
  };
  return (
    <button
      type="button"
      className={clsx(
        'mt-3 w-full border px-2 py-1.5 text-left text-xs',
        isFocused ? 'border-ink bg-raised' : 'border-quiet border-dashed',
      )}
      aria-label={`Keyboard ${name}, ${label}`}
      onFocus={() => setFocused(true)}
      onBlur={() => {
        setFocused(false);
        for (const key of down) void act(() => api.bench.operate.mutate({ control: `${name}/${key}`, on: false }));
      }}
      onKeyDown={(event) => {
        if (!event.repeat && press(event.code, true)) event.preventDefault();
      }}
      onKeyUp={(event) => {
        if (press(event.code, false)) event.preventDefault();
      }}
    >
      <span className="font-bold">{label}</span>{' '}
      <span className="text-quiet">
        {down.length > 0
          ? `down: ${down.join(' ')}`
          : isFocused
            ? 'what you type goes to the board'
            : 'click, then type'}
      </span>
    </button>
  );
}

/** A reading that hands set. */
export function Dial({ name, label, value, low, high, unit }: Of<'dial'>) {
  const { act } = useAct();
  return (
    <label className="mt-3 flex items-center gap-2 text-xs">
      <span className="w-16 shrink-0 truncate" title={label}>
        {label}
      </span>
      <input
        type="range"
        aria-label={`${label}, ${name}`}
        className="min-w-0 flex-1 accent-signal-deep"
        min={low}
        max={high}
        value={value}
        onChange={(event) =>
          void act(() => api.bench.turn.mutate({ control: name, value: Number(event.target.value) }))
        }
      />
      <span className="tabular w-16 shrink-0 text-right">
        {value} {unit}
      </span>
    </label>
  );
}
