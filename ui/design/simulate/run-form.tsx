'use client';
import { useQueryClient } from '@tanstack/react-query';
import { Play } from 'lucide-react';
import type { ReactNode } from 'react';
import { api, Button, useAct, useOwnChange } from '../../shared/index.ts';
import { WrongParameter } from '../wrong-parameter.tsx';

interface RunFormProps {
  readonly disabled: boolean;
  /** A word among the parameters that is none. */
  readonly wrong: string | null;
  readonly onRun: () => Promise<void>;
  readonly children: ReactNode;
}

/** What is run, and with what; Enter in any field runs it. */
export const RunForm = ({ disabled, wrong, onRun, children }: RunFormProps) => (
  <form
    className="mb-2 flex flex-wrap items-center gap-2 text-sm"
    onSubmit={(event) => {
      event.preventDefault();
      void onRun();
    }}
  >
    {children}
    <Button type="submit" disabled={disabled}>
      <Play aria-hidden className="size-4" /> Run
    </Button>
    {wrong !== null && <WrongParameter word={wrong} />}
  </form>
);

type Settings = Parameters<typeof api.design.setSimulation.mutate>[0];

/** Keeps with the project what is simulated; whether that went well. */
export function useKeepSettings(): { readonly busy: boolean; readonly keep: (settings: Settings) => Promise<boolean> } {
  const queries = useQueryClient();
  const { act, busy } = useAct();
  const own = useOwnChange();
  const keep = async (settings: Settings) => {
    const done = await act(() => own(() => api.design.setSimulation.mutate(settings)));
    if (done) await queries.invalidateQueries({ queryKey: ['project'] });
    return done !== null;
  };
  return { busy, keep };
}
