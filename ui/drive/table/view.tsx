'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { emptyPlan, type PlanShelf } from '../../../core/probes/index.ts';
import {
  api,
  Button,
  Checkbox,
  DRIVE_VIEWS,
  Empty,
  Field,
  JobOutcome,
  Select,
  SHELF_KEY,
  StationHead,
  TextInput,
  useAct,
  useFiles,
  useLatestJob,
  useRemembered,
  useStart,
  ViewLinks,
} from '../../shared/index.ts';
import { useProject } from '../../design/index.ts';
import { Outcome } from './outcome.tsx';

const CHOICE = { file: '', clock: '', instance: '', seed: '1', stopAtFirst: false };
/** Name of the plan on the shelf that a table is run with. */
const PLAN = 'table';

/** A table of vectors on the hardware: its plan, the run, and what came row by row. */
export function TableView({ hint }: { readonly hint: string }) {
  const files = useFiles().data ?? [];
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
      {tables.length === 0 ? (
        <Empty>
          Add a .csv file to the sources: a header row of port names, =name for an expected output, cycles for clock
          edges; then a row for each step.
        </Empty>
      ) : (
        <TableTools tables={tables} isBusy={job?.endedAt === null} />
      )}
      <JobOutcome job={job} />
      {run && <Outcome key={run.id} run={run} />}
    </>
  );
}

function TableTools({ tables, isBusy }: { readonly tables: readonly string[]; readonly isBusy: boolean }) {
  const start = useStart();
  const makePlan = useMakePlan();
  const [kept, setKept] = useRemembered('drive-table', CHOICE);
  const file = tables.includes(kept.file) ? kept.file : (tables[0] ?? '');
  const choice = {
    file,
    ...(kept.clock.trim() && { clock: kept.clock.trim() }),
    ...(kept.instance.trim() && { instance: kept.instance.trim() }),
  };
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
      <Field name="For the instance">
        <TextInput
          size="normal"
          isCode
          className="w-32"
          placeholder="the top module"
          value={kept.instance}
          onChange={(event) => setKept({ instance: event.target.value })}
        />
      </Field>
      <Field name="Clock">
        <TextInput
          size="normal"
          isCode
          className="w-28"
          placeholder="the only one"
          value={kept.clock}
          onChange={(event) => setKept({ clock: event.target.value })}
        />
      </Field>
      <Field name="Open digits from">
        <TextInput
          size="normal"
          className="tabular w-16 text-right"
          value={kept.seed}
          aria-invalid={seed === null}
          onChange={(event) => setKept({ seed: event.target.value })}
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
          disabled={isBusy || seed === null}
          onClick={() => start({ kind: 'table', ...choice, seed: seed ?? 1, stopAtFirst: kept.stopAtFirst })}
        >
          Load and run
        </Button>
      </span>
    </div>
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
