'use client';
import { X } from 'lucide-react';
import { useId, useState } from 'react';
import type { SignalInfo } from '../../core/build/index.ts';
import { partOf } from '../../core/probes/index.ts';
import { IconButton, TextInput } from '../shared/index.ts';
import { inside } from './words.ts';

interface Props {
  readonly title: string;
  readonly signals: readonly SignalInfo[];
  readonly chosen: readonly string[];
  readonly onChosen: (chosen: readonly string[]) => void;
}

/** Signals chosen by name, or parts of them as `name[3:0]`. */
export function SignalList({ title, signals, chosen, onChosen }: Props) {
  const [text, setText] = useState('');
  const list = useId();
  const find = (name: string) => signals.find((one) => one.name === name || inside(one.name) === name);
  const add = (typed: string) => {
    const part = partOf(find, typed.trim());
    if (!part) return;
    const { name } = part.of;
    const end = typed.trim().match(/\[\d+(?::\d+)?\]$/);
    const full = part.width === part.of.width ? name : `${name}${end?.[0] ?? ''}`;
    setText('');
    if (!chosen.includes(full)) onChosen([...chosen, full]);
  };
  return (
    <div className="mt-3">
      <h2 className="mb-1 font-bold text-sm">{title}</h2>
      <ul className="text-sm">
        {chosen.map((name) => (
          <li key={name} className="flex items-center gap-1 border-line border-b py-0.5">
            <span className="code min-w-0 flex-1 truncate text-xs" title={name}>
              {inside(name)}
            </span>
            <IconButton
              isRemoval
              label={`Leave out ${name}`}
              onClick={() => onChosen(chosen.filter((one) => one !== name))}
            >
              <X aria-hidden className="size-3.5" />
            </IconButton>
          </li>
        ))}
      </ul>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add(text);
        }}
      >
        <TextInput
          isCode
          className="mt-1 w-full"
          list={list}
          aria-label={`${title}: a signal`}
          placeholder="a signal, Enter"
          value={text}
          aria-invalid={
            text !== '' && !partOf(find, text.trim()) && !signals.some(({ name }) => inside(name).includes(text))
          }
          onChange={(event) => setText(event.target.value)}
        />
        <datalist id={list}>
          {signals.map(({ name }) => (
            <option key={name} value={inside(name)} />
          ))}
        </datalist>
      </form>
    </div>
  );
}
