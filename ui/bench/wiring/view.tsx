'use client';
import type { InterconnectFault } from '../../../core/boundary/index.ts';
import {
  Button,
  clockTime,
  DataTable,
  Empty,
  hasFailed,
  JobProgress,
  Section,
  useAct,
  useLatestJob,
  useLive,
  api,
} from '../../shared/index.ts';

/** Test of the nets between devices. It takes their pins over, so it asks once, in place. */
export function WiringView() {
  const state = useLive('interconnect', 'pod');
  const { busy, act } = useAct();
  const job = useLatestJob('interconnect');
  const running = job?.endedAt === null;
  const result = state?.interconnect ?? null;
  return (
    <>
      <div className="mb-3 flex items-center gap-3 text-sm">
        <Button
          look="main"
          disabled={busy || running || state?.pod.state !== 'connected'}
          onClick={() => act(() => api.jobs.start.mutate({ kind: 'interconnect' }))}
        >
          Take the pins over and test
        </Button>
        <span className="text-quiet">
          For a moment every pin with a boundary cell is driven or let go by the test. Designs keep running inside; pins
          are given back.
        </span>
      </div>
      {running && job && <JobProgress job={job} />}
      {!running && job && hasFailed(job) && job.problem?.code !== 'interconnect' && (
        <p role="alert" className="mb-3 border-bad border-l-4 bg-raised px-3 py-1.5 text-sm">
          {job.message} {job.problem?.tryNext[0]}
        </p>
      )}
      {result ? (
        <Section
          title={
            result.faults.length === 0
              ? 'No fault'
              : `${result.faults.length} ${result.faults.length === 1 ? 'fault' : 'faults'}`
          }
          aside={`${result.tested.length} nets, ${result.vectors} vectors, ${clockTime(result.time)}`}
        >
          <div data-testid="wiring">
            <DataTable
              name="faults"
              rows={result.faults.map((fault) => ({
                kind: KINDS[fault.kind],
                nets: netsOf(fault),
                what: explain(fault),
                pins: fault.pins.join(', '),
              }))}
              empty="All nets answered as they were driven."
              columns={[
                { accessorKey: 'kind', header: 'Fault' },
                {
                  accessorKey: 'nets',
                  header: 'Nets',
                  cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
                },
                { accessorKey: 'what', header: 'What was seen' },
                {
                  accessorKey: 'pins',
                  header: 'Pins',
                  cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
                },
              ]}
            />
          </div>
          <p className="mt-2 text-quiet text-sm">
            Tested: <span className="code text-xs">{result.tested.join(', ')}</span>
          </p>
          {result.untested.length > 0 && (
            <p className="text-quiet text-sm">
              Not testable: {result.untested.map(({ net, why }) => `${net} (${why})`).join(', ')}.
            </p>
          )}
          <p className="text-quiet text-sm">
            Each net is driven with its own number, bit by bit, and then with its complement (true/complement counting
            sequence, Wagner 1987). Pins read as place.pin.
          </p>
        </Section>
      ) : (
        !running && (
          <Empty>
            Not tested yet. The nets between devices come from the "links" of the project's board description.
          </Empty>
        )
      )}
    </>
  );
}

const KINDS = { short: 'short', stuck: 'stuck', open: 'open', other: 'unexplained' } as const;

const netsOf = (fault: InterconnectFault): string => (fault.kind === 'short' ? fault.nets.join(', ') : fault.net);

function explain(fault: InterconnectFault): string {
  switch (fault.kind) {
    case 'short':
      return fault.as === 'one-wins'
        ? 'they read alike; one driver is stronger'
        : `they read alike: ${fault.as}, a ${fault.as === 'wired-and' ? '0' : '1'} on either wins`;
    case 'stuck':
      return `always ${fault.level}, whoever drives`;
    case 'open':
      return fault.pins.length === 1 ? 'this pin has no contact' : 'no contact between these pins';
    case 'other':
      return `read ${fault.actual}, driven ${fault.expected}`;
  }
}
