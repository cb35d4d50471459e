'use client';
import { useState } from 'react';
import { toast } from 'sonner';
import type { TextFile } from '../../core/build/index.ts';
import type { TestbenchFill } from '../../core/replay/index.ts';
import type { Problem } from '../../core/result.ts';
import { counted } from '../../core/words.ts';
import { Button, ProblemNote, saveBytes, saveText, Select, TextButton } from '../shared/index.ts';
import { type OpenRecord, timeText, type Waves } from '../wave/index.ts';
import { inside } from './words.ts';

interface Props {
  readonly record: OpenRecord;
  readonly waves: Waves;
  readonly see: readonly string[];
  readonly onRun: (instance: string, testbench: string, files: readonly TextFile[]) => void;
}

const FILLS = [
  { id: 'x', name: 'x, and not compared' },
  { id: 'zeros', name: 'zeros' },
  { id: 'ones', name: 'ones' },
  { id: 'random', name: 'random, by a seed' },
] as const;

type FillId = (typeof FILLS)[number]['id'];

/** The record as a testbench: run here beside the hardware, or taken away. */
export function SimulationPanel({ record, waves, see, onRun }: Props) {
  const [picked, setPicked] = useState<string | null>(null);
  const [fillId, setFillId] = useState<FillId>('zeros');
  const [seed, setSeed] = useState(1);
  const [problem, setProblem] = useState<Problem | null>(null);
  const instance = picked ?? see[0] ?? '';
  const fill: TestbenchFill = fillId === 'random' ? { seed } : fillId;
  const { simulation } = record.opened.replay ?? {};
  const run = async () => {
    const made = await record.desk.ask('testbenchFiles', { instance, fill });
    setProblem(made.ok ? null : made.error);
    if (made.ok) onRun(instance, made.value.name, made.value.files);
  };
  const take = async () => {
    const made = await record.desk.ask('testbench', { instance, fill });
    setProblem(made.ok ? null : made.error);
    if (made.ok) saveBytes(made.value.name, 'application/zip', made.value.zip);
  };
  const table = async () => {
    const made = await record.desk.ask('table', { instance });
    setProblem(made.ok ? null : made.error);
    if (!made.ok) return;
    saveText(made.value.name, 'text/csv', made.value.text);
    toast.success(`${made.value.name} has ${counted(made.value.rows, 'row')}: for Simulate and for Drive › Table.`);
  };
  return (
    <div className="flex flex-col gap-3 text-sm">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="flex items-center gap-1.5">
          <span className="text-quiet">Instance</span>
          <Select value={instance} aria-label="Instance to simulate" onPick={setPicked}>
            {see.map((path) => (
              <option key={path} value={path}>
                {inside(path)}
              </option>
            ))}
          </Select>
        </label>
        <label className="flex items-center gap-1.5">
          <span className="text-quiet">What is not known becomes</span>
          <Select value={fillId} aria-label="What is not known becomes" onPick={setFillId}>
            {FILLS.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Select>
        </label>
        {fillId === 'random' && (
          <label className="flex items-center gap-1.5">
            <span className="text-quiet">seed</span>
            <input
              type="number"
              min={0}
              className="tabular h-7 w-20 border border-line bg-raised px-1"
              aria-label="Seed"
              value={seed}
              onChange={(event) => setSeed(Math.max(0, Math.trunc(event.target.valueAsNumber || 0)))}
            />
          </label>
        )}
        <Button look="main" onClick={() => void run()}>
          Run it in simulation
        </Button>
        <Button onClick={() => void take()}>Testbench as zip</Button>
        <Button onClick={() => void table()}>Vectors as table</Button>
      </div>
      {problem && <ProblemNote problem={problem} />}
      {simulation ? (
        <div className="border border-line bg-raised px-3 py-2" data-testid="simulation">
          {simulation.differences.length === 0 && simulation.finished ? (
            <p>
              Hardware and simulation of {inside(simulation.instance)} agree in every bit that both know. Its rows stand
              under <b>in simulation</b>.
            </p>
          ) : (
            <>
              <p className="font-bold">
                {simulation.differences.length > 0
                  ? 'What only the hardware does:'
                  : 'The simulation did not come to its end.'}
              </p>
              <ul>
                {simulation.differences.map((one) => (
                  <li key={one.signal}>
                    <TextButton onClick={() => waves.go(one.tick)}>{timeText(waves.axis, one.tick)}</TextButton>{' '}
                    <span className="code text-xs">{inside(one.signal)}</span>, in {counted(one.samples, 'sample')}
                  </li>
                ))}
              </ul>
            </>
          )}
          {simulation.printed !== '' && (
            <pre className="code mt-1 max-h-40 overflow-auto whitespace-pre-wrap text-quiet text-xs">
              {simulation.printed}
            </pre>
          )}
        </div>
      ) : (
        <p className="text-quiet">
          The testbench drives what came in, as it came, and compares what goes out. It is plain Verilog with data files
          beside it.
        </p>
      )}
    </div>
  );
}
