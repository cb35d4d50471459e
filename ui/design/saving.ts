'use client';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { send, useLive } from '../shared/index.ts';
import type { SourceFile } from '../shared/index.ts';

const SAVE_MILLISECONDS = 400;

/** Saves a little after the last key, and at once when asked. */
export function useSaving(): {
  readonly save: (name: string, text: string) => void;
  readonly flush: () => Promise<void>;
} {
  const queries = useQueryClient();
  const project = useLive('project')?.project?.id ?? 0;
  const pending = useRef<{ name: string; text: string; timer: ReturnType<typeof setTimeout> } | null>(null);
  const flush = async () => {
    const due = pending.current;
    if (!due) return;
    clearTimeout(due.timer);
    pending.current = null;
    const saved = await send('/api/files', 'PUT', { name: due.name, text: due.text });
    if (!saved.ok) toast.error(saved.problem.message);
    await queries.invalidateQueries({ queryKey: ['project'] });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: only once, at the end
  useEffect(() => () => void flush(), []);
  const save = (name: string, text: string) => {
    if (pending.current && pending.current.name !== name) void flush();
    if (pending.current) clearTimeout(pending.current.timer);
    queries.setQueryData<SourceFile[]>(['files', project], (old) =>
      old?.map((file) => (file.name === name ? { ...file, text } : file)),
    );
    pending.current = { name, text, timer: setTimeout(() => void flush(), SAVE_MILLISECONDS) };
  };
  return { save, flush };
}
