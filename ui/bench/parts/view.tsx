'use client';
import { useState } from 'react';
import { counted } from '../../../core/words.ts';
import { KINDS, type KindId, newRow } from '../../../core/parts/index.ts';
import { api, Button, Empty, Field, ProblemNote, saveText, Select, useAct, useLive } from '../../shared/index.ts';
import { PartTable } from './part-table.tsx';
import { type EditedBench, useEditedBench } from './use-bench.ts';

/** What is on the board, part by part, as a bench file of the project. */
export function PartsView() {
  const edited = useEditedBench();
  if (!edited) return <Empty>Open a project first: parts hang on the pins of its FPGA.</Empty>;
  return (
    <>
      <Tools {...edited} />
      {edited.problem && <ProblemNote problem={edited.problem} />}
      {edited.rows.length === 0 && !edited.problem ? (
        <Empty>
          Nothing is described yet. Look at the board: add a lamp, a button or its oscillator, and say which pin of the
          FPGA it is wired to.
          {edited.fromDescription && ' Or take what the project’s board description says.'}
        </Empty>
      ) : (
        !edited.problem && <PartTable {...edited} />
      )}
    </>
  );
}

function Tools(edited: EditedBench) {
  const { files, file, text, rows, issues, choose, change, describe, fromDescription } = edited;
  const [kind, setKind] = useState<KindId>('lamp');
  const fresh = newRow(kind, rows);
  const toMend = new Set(issues.map(({ row, message }) => `${row} ${message}`)).size;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-2 text-sm">
      {files.length > 1 ? (
        <Field name="File">
          <Select isCode value={file} onPick={choose}>
            {files.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </Select>
        </Field>
      ) : (
        <span className="code text-xs">{file}</span>
      )}
      <span className="flex items-center gap-1">
        <Select aria-label="Kind of part" value={kind} onPick={setKind}>
          {KINDS.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Select>
        <Button
          className="h-7!"
          disabled={!fresh}
          title={fresh ? undefined : 'A board has one of these'}
          onClick={() => fresh && void change([...rows, fresh])}
        >
          Add
        </Button>
      </span>
      <span className="tabular text-quiet" role="status">
        {counted(rows.length, 'part')}
        {toMend > 0 && <span className="text-bad">, {counted(toMend, 'thing')} to mend</span>}
      </span>
      <span className="ml-auto flex flex-wrap items-center gap-2">
        <Button className="h-7!" disabled={!fromDescription} onClick={() => void fromDescription?.()}>
          Take from the description
        </Button>
        <Button className="h-7!" disabled={rows.length === 0} onClick={() => void describe()}>
          Write the description
        </Button>
        <Button
          className="h-7!"
          disabled={text === null}
          onClick={() => saveText(file, 'application/json', text ?? '')}
          title="For nimble --bench, and for the pod"
        >
          Save
        </Button>
        <Stand {...edited} />
      </span>
    </div>
  );
}

/** Puts the simulated bench on this file: what runs there is gone, so it is asked for once, in place. */
function Stand({ text, issues, rows }: EditedBench) {
  const pod = useLive('pod')?.pod;
  const { act, busy } = useAct();
  const [isSure, setSure] = useState(false);
  if (!pod?.capabilities?.bench) return null;
  if (!isSure)
    return (
      <Button
        look="main"
        className="h-7!"
        disabled={busy || text === null || rows.length === 0 || issues.length > 0}
        onClick={() => setSure(true)}
      >
        Stand the bench on it
      </Button>
    );
  return (
    <span className="flex items-center gap-2 border-doubt border-l-4 pl-2">
      <span>What runs on {pod.name} now stops.</span>
      <Button
        look="main"
        className="h-7!"
        onClick={() => {
          setSure(false);
          void act(() => api.bench.useBench.mutate({ text: text ?? '' }));
        }}
      >
        Do it
      </Button>
      <Button className="h-7!" look="quiet" onClick={() => setSure(false)}>
        Leave it
      </Button>
    </span>
  );
}
