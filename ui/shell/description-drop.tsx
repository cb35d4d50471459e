'use client';
import { useEffect, useRef } from 'react';
import { isDescription, useReadDescription } from '../shared/index.ts';

/** Takes BSDL files that are dropped anywhere on the page; other files are left to whatever they are dropped on. */
export function DescriptionDrop() {
  const read = useReadDescription();
  const now = useRef(read);
  now.current = read;
  useEffect(() => {
    const over = (event: DragEvent) => {
      // Without this the browser would leave the page for the file.
      if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length === 0) return;
      event.preventDefault();
      void (async () => {
        for (const file of files.filter(isDescription)) await now.current(file);
      })();
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return null;
}
