'use client';
import type { AnchorHTMLAttributes, MouseEvent } from 'react';
import { fetchFile, useAct } from './ask.ts';

function save(file: File): void {
  const url = URL.createObjectURL(file);
  const link = document.createElement('a');
  link.href = url;
  link.download = file.name;
  link.click();
  // The browser has taken what it saves by the next turn.
  setTimeout(() => URL.revokeObjectURL(url), 0);
}

/** Text that the page has, saved as a file. */
export const saveText = (name: string, type: string, text: string): void => save(new File([text], name, { type }));

/** The same for bytes. */
export const saveBytes = (name: string, type: string, bytes: Uint8Array): void =>
  save(new File([new Uint8Array(bytes)], name, { type }));

/** A link to a file of the server, to be saved; what goes wrong is told where all else is told. */
export function DownloadLink({ href, children, ...rest }: AnchorHTMLAttributes<HTMLAnchorElement> & { href: string }) {
  const { busy, act } = useAct();
  const click = async (event: MouseEvent) => {
    event.preventDefault();
    if (busy) return;
    const file = await act(() => fetchFile(href));
    if (file) save(file);
  };
  return (
    <a href={href} aria-busy={busy} onClick={(event) => void click(event)} {...rest}>
      {children}
    </a>
  );
}
