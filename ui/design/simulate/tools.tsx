'use client';
import { useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Play } from 'lucide-react';
import { useState } from 'react';
import type { OfferedModule } from '../../../core/hdl/index.ts';
import { api, Button, Field, Select, TextButton, TextInput, useAct, useStart } from '../../shared/index.ts';
import { WrongParameter } from '../wrong-parameter.tsx';
import { keptOf, type Typed, typedOf } from './settings.ts';

type Kept = Parameters<typeof typedOf>[0];

interface ToolsProps {
  readonly modules: readonly OfferedModule[];
  readonly kept: Kept;
  readonly running: boolean;
}

/** What is run, and with what. */
export function Tools({ modules, kept, running }: ToolsProps) {
  const start = useStart();
  const queries = useQueryClient();
  const { act } = useAct();
  const [typed, setTyped] = useState<Typed>(() => typedOf(kept, modules[0]?.name ?? ''));
  const [wrong, setWrong] = useState<string | null>(null);
  const set = (part: Partial<Typed>) => setTyped((now) => ({ ...now, ...part }));
  const chosen = modules.find(({ name }) => name === typed.testbench);
  const go = async () => {
    const settings = keptOf(typed, kept);
    if ('wrong' in settings) return setWrong(settings.wrong);
    setWrong(null);
    if (!(await act(() => api.design.setSimulation.mutate(settings)))) return;
    await queries.invalidateQueries({ queryKey: ['project'] });
    const { testbench = '', parameters, plusargs, until = null } = settings;
    await start({ kind: 'simulation', testbench, parameters, plusargs, until });
  };
  return (
    <form
      className="mb-2 flex flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void go();
      }}
    >
      <Field name="Testbench">
        <Select
          size="normal"
          isCode
          className="w-44"
          aria-label="Testbench"
          value={typed.testbench}
          onChange={(event) => set({ testbench: event.target.value })}
        >
          {modules.map(({ name, isTestbench }) => (
            <option key={name} value={name}>
              {name}
              {isTestbench ? '' : ' (a module of the design)'}
            </option>
          ))}
        </Select>
      </Field>
      <Field name="Until">
        <TextInput
          size="normal"
          isCode
          className="w-20"
          aria-label="Until"
          placeholder="its end"
          value={typed.until}
          onChange={(event) => set({ until: event.target.value })}
        />
      </Field>
      <Field name="Parameters">
        <TextInput
          size="normal"
          isCode
          className="w-44"
          aria-label="Parameters"
          placeholder={chosen && chosen.parameters.length > 0 ? `${chosen.parameters[0]}=…` : 'NAME=8'}
          value={typed.parameters}
          onChange={(event) => set({ parameters: event.target.value })}
        />
      </Field>
      <Field name="Plusargs">
        <TextInput
          size="normal"
          isCode
          className="w-36"
          aria-label="Plusargs"
          placeholder="name=value"
          value={typed.plusargs}
          onChange={(event) => set({ plusargs: event.target.value })}
        />
      </Field>
      <Button type="submit" disabled={running || typed.testbench === ''}>
        <Play aria-hidden className="size-4" /> Run
      </Button>
      {wrong !== null && <WrongParameter word={wrong} />}
    </form>
  );
}

/** Files of testbenches that a build still reads, with the way to leave them out. */
export function LeftOut({ modules, kept }: Omit<ToolsProps, 'running'>) {
  const queries = useQueryClient();
  const { act, busy } = useAct();
  const only = kept?.only ?? [];
  const files = [...new Set(modules.filter(({ isTestbench }) => isTestbench).map(({ file }) => file))];
  const proposed = files.filter(
    (file) => !only.includes(file) && modules.every((one) => one.file !== file || one.isTestbench),
  );
  const mark = async (next: readonly string[]) => {
    const settings = { parameters: {}, plusargs: [], ...kept, only: [...next] };
    if (await act(() => api.design.setSimulation.mutate(settings)))
      await queries.invalidateQueries({ queryKey: ['project'] });
  };
  if (proposed.length === 0 && only.length === 0) return null;
  return (
    <p className="mb-2 text-quiet text-sm">
      {only.length > 0 && (
        <>
          For simulation only: <span className="code text-xs">{only.join(', ')}</span>
          <TextButton className="ml-2" disabled={busy} onClick={() => mark([])}>
            let builds read them again
          </TextButton>
        </>
      )}
      {proposed.length > 0 && (
        <span className={clsx(only.length > 0 && 'ml-4')}>
          <span className="code text-xs">{proposed.join(', ')}</span>: testbenches alone.
          <TextButton className="ml-2" disabled={busy} onClick={() => mark([...only, ...proposed])}>
            leave them out of builds
          </TextButton>
        </span>
      )}
    </p>
  );
}
