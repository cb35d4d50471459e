'use client';
import { clsx } from 'clsx';
import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { secondsText, ticksBetween, type WaveCursor } from '../../core/wave/index.ts';
import { Button, frequency, IconButton, TextInput } from '../shared/index.ts';
import type { Waves } from './use-waves.ts';

const LONGEST_NAME = 16;

/** The cursors by name; beside the others, how far each is from the chosen one. */
export function Cursors({ waves }: { readonly waves: Waves }) {
  const { view, active, cursors } = waves;
  const [renaming, setRenaming] = useState<number | null>(null);
  const rename = (index: number, wanted: string) => {
    setRenaming(null);
    const next = wanted.trim();
    if (next !== '' && view.cursors.every((one, k) => k === index || one.name !== next)) cursors.rename(index, next);
  };
  return (
    <span className="tabular ml-auto flex flex-wrap items-center gap-1" data-testid="cursors">
      {view.cursors.map((cursor, i) => (
        <span
          key={cursor.name}
          className={clsx('flex items-center border', i === active ? 'border-ink' : 'border-line')}
        >
          {renaming === i ? (
            <NameInput name={cursor.name} onName={(name) => rename(i, name)} />
          ) : (
            <button
              type="button"
              className={clsx('px-1.5', i === active && 'bg-ink text-raised')}
              aria-pressed={i === active}
              aria-label={`Cursor ${cursor.name}`}
              title="Press twice, or F2, to rename"
              onClick={() => cursors.choose(i)}
              onDoubleClick={() => setRenaming(i)}
              onKeyDown={(event) => event.key === 'F2' && setRenaming(i)}
            >
              {cursor.name}
            </button>
          )}
          {i !== active && <Distance waves={waves} to={cursor} />}
          {view.cursors.length > 1 && (
            <IconButton
              isRemoval
              className="px-0.5"
              label={`Remove cursor ${cursor.name}`}
              onClick={() => cursors.remove(i)}
            >
              <X className="size-3" />
            </IconButton>
          )}
        </span>
      ))}
      <Button look="quiet" className="h-7 px-1.5!" onClick={cursors.add} title="c">
        <Plus aria-hidden className="size-4" /> Cursor
      </Button>
    </span>
  );
}

function NameInput({ name, onName }: { readonly name: string; readonly onName: (name: string) => void }) {
  return (
    <TextInput
      className="w-20"
      autoFocus
      defaultValue={name}
      maxLength={LONGEST_NAME}
      aria-label="Name of the cursor"
      onBlur={(event) => onName(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Escape') event.currentTarget.value = name;
        if (event.key === 'Enter' || event.key === 'Escape') event.currentTarget.blur();
      }}
    />
  );
}

/** How far another cursor is from the chosen one: ticks, time, and as what frequency. */
function Distance({ waves: { view, active, axis }, to }: { readonly waves: Waves; readonly to: WaveCursor }) {
  const chosen = view.cursors[active];
  const ticks = chosen ? ticksBetween(axis, chosen.tick, to.tick) : null;
  if (ticks === null || ticks === 0) return null;
  const seconds = ticks * axis.tickSeconds;
  return (
    <span className="px-1.5 text-quiet text-xs">
      {Math.round(Math.abs(ticks)).toLocaleString('en')}
      {axis.inSteps ? ' steps' : ` · ${secondsText(seconds)} · ${frequency(1 / Math.abs(seconds))}`}
    </span>
  );
}
