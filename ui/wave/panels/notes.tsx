'use client';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { Axis, WaveNote } from '../../../core/wave/index.ts';
import { Button, TextInput, TextButton, IconButton } from '../../shared/index.ts';
import { timeText } from '../draw.ts';

interface Props {
  readonly axis: Axis;
  readonly notes: readonly WaveNote[];
  readonly tick: number;
  readonly onNotes: (notes: readonly WaveNote[]) => void;
  readonly onGo: (tick: number) => void;
}

/** Words pinned to places of the record. */
export function NotesPanel({ axis, notes, tick, onNotes, onGo }: Props) {
  const [text, setText] = useState('');
  const sorted = [...notes].sort((a, b) => a.tick - b.tick);
  return (
    <div className="flex flex-col gap-2 text-sm">
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim() === '') return;
          onNotes([
            ...notes,
            { id: String(Math.max(0, ...notes.map(({ id }) => Number(id))) + 1), tick, text: text.trim() },
          ]);
          setText('');
        }}
      >
        <TextInput
          size="normal"
          className="min-w-0 flex-1"
          value={text}
          aria-label="Note"
          placeholder="What is to be seen at the chosen cursor"
          onChange={(event) => setText(event.target.value)}
        />
        <Button type="submit" disabled={text.trim() === ''}>
          Pin at {timeText(axis, tick)}
        </Button>
      </form>
      <ul>
        {sorted.map((note) => (
          <li key={note.id} className="flex items-center gap-3 border-line border-b py-1">
            <TextButton className="tabular w-28 shrink-0 text-left text-quiet" onClick={() => onGo(note.tick)}>
              {timeText(axis, note.tick)}
            </TextButton>
            <span className="min-w-0 flex-1">{note.text}</span>
            <IconButton
              isRemoval
              label={`Delete note ${note.text}`}
              onClick={() => onNotes(notes.filter(({ id }) => id !== note.id))}
            >
              <Trash2 className="size-4" />
            </IconButton>
          </li>
        ))}
      </ul>
      {notes.length === 0 && <p className="text-quiet">No notes yet.</p>}
    </div>
  );
}
