'use client';
import type { AnchorHTMLAttributes, MouseEvent } from 'react';
import { reached, useAct } from './ask.ts';

/** Says that a page of ours asks: what takes long to make is made for none other. */
const OWN = { 'x-nimble-page': '1' };

/** A file that the server makes, under the name it gives it. */
async function fetched(href: string): Promise<{ readonly name: string; readonly blob: Blob }> {
  const response = await reached(href, { headers: OWN });
  const said = /filename="([^"]+)"/.exec(response.headers.get('content-disposition') ?? '');
  return { name: said?.[1] ?? 'file', blob: await response.blob() };
}

function save(name: string, blob: Blob): void {
  const url = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  // The browser has taken what it saves by the next turn.
  setTimeout(() => URL.revokeObjectURL(url), 0);
}

/** A link to a file of the server, to be saved; what goes wrong is told where all else is told. */
export function DownloadLink({ href, children, ...rest }: AnchorHTMLAttributes<HTMLAnchorElement> & { href: string }) {
  const { busy, act } = useAct();
  const click = async (event: MouseEvent) => {
    event.preventDefault();
    if (busy) return;
    const file = await act(() => fetched(href));
    if (file) save(file.name, file.blob);
  };
  return (
    <a href={href} aria-busy={busy} onClick={(event) => void click(event)} {...rest}>
      {children}
    </a>
  );
}
