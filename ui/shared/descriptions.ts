'use client';
import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { counted } from '../../core/words.ts';
import { api, upload, useAct } from './ask.ts';

/** Files that say of themselves that they describe a device. */
export const isDescription = ({ name }: { readonly name: string }): boolean => /\.bsdl?$/i.test(name);

interface Reading {
  readonly valid: boolean;
  readonly entity: string | null;
  readonly problems: readonly { readonly line: number; readonly message: string }[];
}

/** Reads a description of a device; a good one is kept for all projects, and the chain is looked at anew. */
export function useReadDescription(): (file: File) => Promise<void> {
  const { act } = useAct();
  const cache = useQueryClient();
  return async (file) => {
    const answer = await act(() => upload<Reading>('/api/bsdl', file));
    if (!answer) return;
    if (!answer.valid)
      return void toast.error(`${file.name} was not kept: ${counted(answer.problems.length, 'error')}.`, {
        description: answer.problems
          .slice(0, 3)
          .map((one) => `Line ${one.line}: ${one.message}`)
          .join(' '),
      });
    toast.success(`${answer.entity} is known now.`);
    await cache.invalidateQueries({ queryKey: ['descriptions'] });
    await act(() => api.jobs.start.mutate({ kind: 'scan' }));
  };
}
