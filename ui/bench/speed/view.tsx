'use client';
import { useMemo } from 'react';
import {
  Button,
  Chart,
  clockTime,
  DataTable,
  Empty,
  frequency,
  JobOutcome,
  Section,
  useAct,
  useLatestJob,
  useLive,
  useBoard,
  useColour,
  api,
  TextInput,
  Field,
} from '../../shared/index.ts';
import { errorChart } from './error-chart.ts';
import type { Sweep } from '../../../core/operations/index.ts';

export function SpeedView() {
  const state = useLive('sweep', 'integrity', 'pod');
  const tckHz = useBoard()?.cable.tckHz;
  const { busy, act } = useAct();
  const job = useLatestJob('sweep', 'integrity');
  const running = job?.endedAt === null;
  const sweep = state?.sweep ?? null;
  const tested = state?.integrity ?? null;
  const colour = useColour();
  const option = useMemo(() => (sweep ? errorChart(sweep, colour) : null), [sweep, colour]);
  const ready = !busy && !running && state?.pod.state === 'connected';
  return (
    <>
      <SpeedTools ready={ready} act={act} tckHz={tckHz} />
      <JobOutcome job={job} tellDone />
      {tested && (
        <p className="mb-3 text-sm" data-testid="integrity">
          Bypass test at {frequency(tested.hz)}, {clockTime(tested.time)}:{' '}
          <b className={tested.errors === 0 ? 'text-good' : 'text-bad'}>
            {tested.errors.toLocaleString('en')} of {tested.bits.toLocaleString('en')} bits wrong
          </b>
          {tested.firstError === null ? '.' : `, the first at bit ${tested.firstError}.`}
        </p>
      )}
      {sweep && option ? (
        <Section title="Bit errors against TCK" aside={clockTime(sweep.time)}>
          <p className="mb-1 text-sm" data-testid="sweep">
            {sweep.reliableHz === null ? (
              'Bits come back wrong even at the lowest frequency.'
            ) : (
              <>
                Highest without an error: <b>{frequency(sweep.reliableHz)}</b>. Set, with {sweep.margin * 100} % margin:{' '}
                <b>{frequency(sweep.chosenHz ?? 0)}</b>.
              </>
            )}
          </p>
          <Chart option={option} label="Share of wrong bits against TCK frequency" className="h-60 w-full" />
          <PointTable sweep={sweep} />
        </Section>
      ) : (
        !running && (
          <Empty>
            Not measured yet. The sweep sends 20 000 bits through BYPASS at each frequency and sets the highest reliable
            one, with a margin.
          </Empty>
        )
      )}
    </>
  );
}

interface PointTableProps {
  readonly sweep: Sweep & { readonly time: string };
}

function PointTable({ sweep }: PointTableProps) {
  return (
    <DataTable
      name="frequencies"
      rows={sweep.points.map((point) => ({
        tck: point.hz,
        bits: point.bits,
        errors: point.errors,
        share: point.errors / point.bits,
      }))}
      empty="Nothing measured."
      columns={[
        {
          accessorKey: 'tck',
          header: 'TCK',
          cell: (cell) => <span className="tabular">{frequency(cell.getValue() as number)}</span>,
        },
        {
          accessorKey: 'bits',
          header: 'Bits sent',
          cell: (cell) => <span className="tabular">{(cell.getValue() as number).toLocaleString('en')}</span>,
        },
        {
          accessorKey: 'errors',
          header: 'Wrong',
          cell: (cell) => (
            <span className={`tabular ${(cell.getValue() as number) > 0 ? 'font-bold text-bad' : ''}`}>
              {(cell.getValue() as number).toLocaleString('en')}
            </span>
          ),
        },
        {
          accessorKey: 'share',
          header: 'Share',
          cell: (cell) => <span className="tabular">{((cell.getValue() as number) * 100).toFixed(2)} %</span>,
        },
      ]}
    />
  );
}

interface SpeedToolsProps {
  readonly ready: boolean;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
  readonly tckHz: number | undefined;
}

function SpeedTools({ ready, act, tckHz }: SpeedToolsProps) {
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2 text-sm">
      <Button look="main" disabled={!ready} onClick={() => act(() => api.jobs.start.mutate({ kind: 'sweep' }))}>
        Sweep TCK
      </Button>
      <Button disabled={!ready} onClick={() => act(() => api.jobs.start.mutate({ kind: 'integrity' }))}>
        Test at this TCK
      </Button>
      <form
        className="ml-auto flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          const mhz = Number(new FormData(event.currentTarget).get('mhz'));
          if (mhz > 0) void act(() => api.bench.setFrequency.mutate({ hz: mhz * 1e6 }));
        }}
      >
        <Field name="TCK">
          <TextInput
            size="normal"
            className="tabular w-20 text-right"
            key={tckHz}
            name="mhz"
            inputMode="decimal"
            defaultValue={tckHz ? Number((tckHz / 1e6).toPrecision(4)) : ''}
            aria-label="TCK in MHz"
          />{' '}
          MHz
        </Field>
        <Button type="submit" disabled={!ready}>
          Set
        </Button>
      </form>
    </div>
  );
}
