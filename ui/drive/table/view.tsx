'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { emptyPlan, type PlanShelf } from '../../../core/probes/index.ts';
import {
  api,
  Button,
  Checkbox,
  CountInput,
  DRIVE_VIEWS,
  Empty,
  Field,
  JobOutcome,
  Select,
  SHELF_KEY,
  StationHead,
  TextField,
  TextInput,
  useAct,
  useFiles,
  useLatestJob,
  useProject,
  useRemembered,
  useSaveFile,
  useStart,
  ViewLinks,
} from '../../shared/index.ts';
import { Waves } from '../../design/index.ts';
import { Outcome } from './outcome.tsx';

const CHOICE = { file: '', clock: '', instance: '', seed: '1', times: '1', stopAtFirst: false };
const WANTED = { wanted: '' };
/** Name of the plan on the shelf that a table is run with. */
const PLAN = 'table';

/** A table of vectors on the hardware: its plan, the run, and what came row by row. */
export function TableView({ hint }: { readonly hint: string }) {
  const files = useFiles().data ?? [];
  const [kept, setKept] = useRemembered('drive-table', CHOICE);
  const pins = useProject().data?.file.pins;
  const job = useLatestJob('table', 'build');
  const run = useQuery({
    queryKey: ['table-run', job?.id ?? 0, job?.state],
    placeholderData: (before) => before,
    queryFn: () => api.drive.table.query(),
  }).data;
  const tables = files
    .map(({ name }) => name)
    .filter((name) => name.endsWith('.csv') && !name.endsWith('.boards.csv') && name !== pins);
  return (
    <>
      <StationHead title="Drive" hint={hint} />
      <ViewLinks station="Drive" views={DRIVE_VIEWS} current="table" />
      {tables.length === 0 && (
        <Empty>
          Add a .csv file to the sources: a header row of port names, =name for an expected output, cycles for clock
          edges; then a row for each step. Or let a table of all combinations be made.
        </Empty>
      )}
      {tables.length > 0 && <TableTools tables={tables} isBusy={job?.endedAt === null} {...{ kept, setKept }} />}
      <AllCombinations clock={kept.clock.trim()} onMade={(file) => setKept({ file })} />
      <JobOutcome job={job} />
      {run && <Outcome key={run.id} run={run} waves={(what) => <Waves {...what} />} />}
    </>
  );
}

interface ToolsProps {
  readonly tables: readonly string[];
  readonly isBusy: boolean;
  readonly kept: typeof CHOICE;
  readonly setKept: (change: Partial<typeof CHOICE>) => void;
}

function TableTools({ tables, isBusy, kept, setKept }: ToolsProps) {
  const start = useStart();
  const makePlan = useMakePlan();
  const file = tables.includes(kept.file) ? kept.file : (tables[0] ?? '');
  const choice = {
    file,
    ...(kept.clock.trim() && { clock: kept.clock.trim() }),
    ...(kept.instance.trim() && { instance: kept.instance.trim() }),
  };
  const times =
    /^\d{1,4}$/.test(kept.times) && Number(kept.times) >= 1 && Number(kept.times) <= 1000 ? Number(kept.times) : null;
  const seed = /^\d{1,15}$/.test(kept.seed) ? Number(kept.seed) : null;
  return (
    <div className="mb-3 flex flex-wrap items-end gap-3 text-sm">
      <Field name="Table">
        <Select
          size="normal"
          isCode
          className="w-40"
          aria-label="Table"
          value={file}
          onChange={(event) => setKept({ file: event.target.value })}
        >
          {tables.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Select>
      </Field>
      <TextField
        name="For the instance"
        className="w-32"
        placeholder="the top module"
        value={kept.instance}
        onText={(instance) => setKept({ instance })}
      />
      <TextField
        name="Clock"
        className="w-28"
        placeholder="the only one"
        value={kept.clock}
        onText={(clock) => setKept({ clock })}
      />
      <Field name="Open digits from">
        <CountInput
          className="w-16"
          value={kept.seed}
          aria-invalid={seed === null}
          onText={(next) => setKept({ seed: next })}
        />
      </Field>
      <Field name="Times">
        <CountInput
          className="w-14"
          title="Loaded and run again and again until it is not good"
          value={kept.times}
          aria-invalid={times === null}
          onText={(next) => setKept({ times: next })}
        />
      </Field>
      <Checkbox
        className="h-8"
        checked={kept.stopAtFirst}
        onChange={(event) => setKept({ stopAtFirst: event.target.checked })}
      >
        stop at the first difference
      </Checkbox>
      <span className="ml-auto flex gap-2">
        <Button
          disabled={isBusy}
          onClick={() => makePlan(choice)}
          title="Levers, gauges and a held clock for this table, then a build with them"
        >
          Make the plan, build
        </Button>
        <Button
          look="main"
          disabled={isBusy || seed === null || times === null}
          onClick={() =>
            start({ kind: 'table', ...choice, seed: seed ?? 1, times: times ?? 1, stopAtFirst: kept.stopAtFirst })
          }
        >
          Load and run
        </Button>
      </span>
    </div>
  );
}

/** Where a table of all combinations is kept among the sources. */
const TRUTH_FILE = 'truth.csv';

/** Makes a table of all combinations of the inputs; with an expression, those rows fail that differ from it. */
function AllCombinations({ clock, onMade }: { readonly clock: string; readonly onMade: (file: string) => void }) {
  const { act, busy } = useAct();
  const { keep, save } = useSaveFile();
  const [{ wanted }, setKept] = useRemembered('drive-truth', WANTED);
  const make = async () => {
    const made = await act(() => api.drive.truthTable.query({ wanted, ...(clock && { clock }) }));
    if (!made) return;
    keep(TRUTH_FILE, made.text);
    if (await save(TRUTH_FILE, true)) onMade(TRUTH_FILE);
  };
  return (
    <form
      className="mb-3 flex flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void make();
      }}
    >
      <Button type="submit" disabled={busy} title={`Written to ${TRUTH_FILE}, up to 16 bits of inputs`}>
        Table of all combinations
      </Button>
      <span className="text-quiet">wanted</span>
      <TextInput
        size="normal"
        isCode
        className="min-w-40 flex-1"
        aria-label="What outputs are wanted to be"
        placeholder="s = a + b; or nothing"
        value={wanted}
        onChange={(event) => setKept({ wanted: event.target.value })}
      />
    </form>
  );
}

/** Puts what a table needs on the shelf of plans and builds with it; what else is planned stays there and rests. */
function useMakePlan() {
  const start = useStart();
  const { act } = useAct();
  const queries = useQueryClient();
  return async (choice: { readonly file: string; readonly clock?: string; readonly instance?: string }) => {
    const plan = await act(() => api.drive.tablePlan.query(choice));
    const shelf = plan && (await act(() => api.probe.shelf.query()));
    if (!plan || !shelf) return;
    const others = shelf.filter(({ name }) => name !== PLAN).map((one) => ({ ...one, inBuild: false }));
    const next: PlanShelf = [...others, { name: PLAN, inBuild: true, plan: { ...emptyPlan, ...plan } }];
    await act(() => api.probe.saveShelf.mutate(next));
    await queries.invalidateQueries({ queryKey: SHELF_KEY });
    await start({ kind: 'build' });
  };
}
