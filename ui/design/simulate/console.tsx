'use client';
import { Fragment } from 'react';
import { Empty, TextButton, useFiles } from '../../shared/index.ts';
import { useOpenSource } from '../places.ts';

const PLACE = /([\w./-]+\.s?vh?)[:,] ?(?:line )?(\d+)/g;

/** What a testbench printed; places in it lead to the sources. */
export function Console({ text }: { readonly text: string }) {
  const open = useOpenSource();
  const files = new Set((useFiles().data ?? []).map(({ name }) => name));
  if (text === '') return <Empty>It printed nothing. Say something with $display.</Empty>;
  const parts: { readonly text: string; readonly place: { file: string; line: number } | null }[] = [];
  let at = 0;
  for (const found of text.matchAll(PLACE)) {
    const [all, file = '', line = '1'] = found;
    if (!files.has(file)) continue;
    parts.push({ text: text.slice(at, found.index), place: null });
    parts.push({ text: all, place: { file, line: Number(line) } });
    at = found.index + all.length;
  }
  parts.push({ text: text.slice(at), place: null });
  return (
    <pre
      className="code max-h-36 overflow-auto whitespace-pre border border-line bg-raised p-2 text-xs"
      role="log"
      aria-label="Printed by the testbench"
    >
      {parts.map((part, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
        <Fragment key={i}>
          {part.place ? <TextButton onClick={() => part.place && open(part.place)}>{part.text}</TextButton> : part.text}
        </Fragment>
      ))}
    </pre>
  );
}
