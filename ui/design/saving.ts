'use client';
import { useDebouncer } from '@tanstack/react-pacer';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { useSaveFile } from '../shared/index.ts';

const SAVE_MILLISECONDS = 400;

/** Saves a little after the last key, and at once when asked. */
export function useSaving(): {
  readonly save: (name: string, text: string) => void;
  readonly flush: () => Promise<void>;
} {
  const queries = useQueryClient();
  const files = useSaveFile();
  const due = useRef<string | null>(null);
  const flush = async () => {
    const name = due.current;
    due.current = null;
    if (name === null) return;
    await files.save(name);
    await queries.invalidateQueries({ queryKey: ['project'] });
  };
  const later = useDebouncer(() => void flush(), { wait: SAVE_MILLISECONDS });
  const leave = useRef(flush);
  leave.current = flush;
  useEffect(() => {
    // A tab that is hidden may be closed without another word.
    const onHide = () => void (document.visibilityState === 'hidden' && leave.current());
    document.addEventListener('visibilitychange', onHide);
    return () => {
      document.removeEventListener('visibilitychange', onHide);
      void leave.current();
    };
  }, []);
  const save = (name: string, text: string) => {
    if (due.current !== null && due.current !== name) void flush();
    files.keep(name, text);
    due.current = name;
    later.maybeExecute();
  };
  return { save, flush };
}
