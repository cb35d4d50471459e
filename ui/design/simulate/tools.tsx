'use client';
import { clsx } from 'clsx';
import { useState } from 'react';
import type { OfferedModule } from '../../../core/hdl/index.ts';
import { Field, Select, TextButton, useStart, TextField } from '../../shared/index.ts';
import { RunForm, useKeepSettings } from './run-form.tsx';
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
  const { keep } = useKeepSettings();
  const [typed, setTyped] = useState<Typed>(() => typedOf(kept, modules[0]?.name ?? ''));
  const [wrong, setWrong] = useState<string | null>(null);
  const set = (part: Partial<Typed>) => setTyped((now) => ({ ...now, ...part }));
  const chosen = modules.find(({ name }) => name === typed.testbench);
  const go = async () => {
    const settings = keptOf(typed, kept);
    if ('wrong' in settings) return setWrong(settings.wrong);
    setWrong(null);
    if (!(await keep(settings))) return;
    const { testbench = '', parameters, plusargs, until = null } = settings;
    await start({ kind: 'simulation', testbench, parameters, plusargs, until });
  };
  return (
    <RunForm disabled={running || typed.testbench === ''} wrong={wrong} onRun={go}>
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
      <TextField
        name="Until"
        className="w-20"
        placeholder="its end"
        value={typed.until}
        onText={(until) => set({ until })}
      />
      <TextField
        name="Parameters"
        className="w-44"
        placeholder={chosen && chosen.parameters.length > 0 ? `${chosen.parameters[0]}=…` : 'NAME=8'}
        value={typed.parameters}
        onText={(parameters) => set({ parameters })}
      />
      <TextField
        name="Plusargs"
        className="w-36"
        placeholder="name=value"
        value={typed.plusargs}
        onText={(plusargs) => set({ plusargs })}
      />
    </RunForm>
  );
}

/** Files of testbenches that a build still reads, with the way to leave them out. */
export function LeftOut({ modules, kept }: Omit<ToolsProps, 'running'>) {
  const { keep, busy } = useKeepSettings();
  const only = kept?.only ?? [];
  const files = [...new Set(modules.filter(({ isTestbench }) => isTestbench).map(({ file }) => file))];
  const proposed = files.filter(
    (file) => !only.includes(file) && modules.every((one) => one.file !== file || one.isTestbench),
  );
  const mark = (next: readonly string[]) => keep({ parameters: {}, plusargs: [], ...kept, only: [...next] });
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
