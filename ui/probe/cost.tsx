'use client';
import { counted } from '../../core/words.ts';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { coresIn, type CheaperPlan, fits, type ProbePlan } from '../../core/probes/index.ts';
import { partNamed } from '../../core/families/index.ts';
import type { PlanCost } from '../../server/index.ts';
import { Button, useLive, api, problemOf } from '../shared/index.ts';
import type { ProbeCost, Room } from '../../core/probes/index.ts';

interface Props {
  readonly plan: ProbePlan;
  /** What other plans in the build add. */
  readonly others: ProbePlan;
  readonly onPlan: (plan: ProbePlan) => void;
}

const KINDS = [
  { kind: 'luts', name: 'LUTs' },
  { kind: 'registers', name: 'Flip-flops' },
  { kind: 'blockRams', name: 'Block RAMs' },
] as const;

/**
 * What the plan, with the others in the build, takes of what the design leaves in the part, mapped as a build would;
 * where it is too much, the least to give up.
 */
export function Cost(props: Props) {
  const latest = useLive('latest')?.latest ?? null;
  if (latest && !partNamed(latest.part))
    return (
      <p className="border border-line bg-raised px-2 py-1.5 text-quiet text-sm" data-testid="plan-cost">
        What probes take of a {latest.part} its own tools know.
      </p>
    );
  return <Priced {...props} build={latest?.id ?? 0} />;
}

function Priced({ plan, others, onPlan, build }: Props & { readonly build: number }) {
  const on: ProbePlan = {
    recorders: plan.recorders.filter(({ off }) => !off),
    panels: plan.panels.filter(({ off }) => !off),
    steppers: (plan.steppers ?? []).filter(({ off }) => !off),
    ...(plan.bridge && !plan.bridge.off ? { bridge: plan.bridge } : {}),
  };
  const asked = [build, JSON.stringify([on, others])];
  const {
    data: cost,
    isFetching,
    error,
  } = useQuery({
    queryKey: ['plan-cost', ...asked],
    placeholderData: (before: PlanCost | undefined) => before,
    ...AGAIN,
    queryFn: () => priced(api.probe.cost.query({ plan: on, others })),
  });
  const isOver = !isFetching && cost !== undefined ? !fits(cost.total, cost.room) : false;
  const cheaper = useQuery({
    queryKey: ['plan-cheaper', ...asked],
    enabled: isOver,
    ...AGAIN,
    queryFn: () => priced(api.probe.cheaper.query({ plan: on, others })),
  });
  if (!cost)
    return (
      <p className="h-24 text-quiet text-xs">
        {error && !isFetching ? problemOf(error).message : 'What this takes is being counted.'}
      </p>
    );
  const { total, room } = cost;
  const beside = coresIn(others) > 0;
  return (
    <div
      className={clsx('border border-line bg-raised px-2 py-1.5', isFetching && 'opacity-70')}
      data-testid="plan-cost"
    >
      <CostTable cost={cost} beside={beside} total={total} room={room} />
      {!cost.isExact && (
        <p className="mt-1 text-quiet text-xs">
          The cores alone: as the sources stand the design cannot be counted, or a signal is gone. In the design it may
          be up to a third more.
        </p>
      )}
      {!fits(total, room) && (
        <p className="mt-1 text-xs">
          It does not fit.{' '}
          {cheaper.isFetching ? (
            'Looking for the least that would be enough to give up.'
          ) : cheaper.data ? (
            <>
              Enough would be {cheaper.data.change} ({counted(cheaper.data.cost.luts, 'LUT')},{' '}
              {counted(cheaper.data.cost.blockRams, 'block RAM')}).{' '}
              <Button className="h-6 px-2!" onClick={() => onPlan(taken(plan, cheaper.data as CheaperPlan))}>
                Do that
              </Button>
            </>
          ) : (
            'The smallest settings are not enough: leave out signals, or choose a larger part.'
          )}
        </p>
      )}
    </div>
  );
}

interface CostTableProps {
  readonly cost: PlanCost;
  readonly beside: boolean;
  readonly total: ProbeCost;
  readonly room: Room;
}

function CostTable({ cost, beside, total, room }: CostTableProps) {
  return (
    <table
      className="w-full"
      title={cost.cores
        .map(
          ({ name, cost: one }) =>
            `${name}: ${counted(one.luts, 'LUT')}, ${counted(one.registers, 'flip-flop')}, ` +
            `${counted(one.blockRams, 'block RAM')}, with the hub`,
        )
        .join('\n')}
    >
      <thead className="text-quiet text-xs">
        <tr>
          <th className="text-left font-normal">
            {beside ? 'With others in the build' : <span className="sr-only">resource</span>}
          </th>
          <th className="pl-4 text-right font-normal">{cost.isExact ? 'takes' : 'takes, about'}</th>
          <th className="pl-4 text-right font-normal">is free</th>
          <th className="w-10">
            <span className="sr-only">share</span>
          </th>
        </tr>
      </thead>
      <tbody className="tabular">
        {KINDS.map(({ kind, name }) => {
          const over = total[kind] > room[kind];
          return (
            <tr key={kind} className={over ? 'text-bad' : ''} data-over={over || undefined}>
              <td className="whitespace-nowrap">{name}</td>
              <td className="pl-3 text-right">{total[kind].toLocaleString('en')}</td>
              <td className="pl-3 text-right">{room[kind].toLocaleString('en')}</td>
              <td className="pl-2 align-middle" aria-hidden>
                <div className="h-1.5 bg-well">
                  <div
                    className={over ? 'h-full bg-bad' : 'h-full bg-good'}
                    style={{ width: `${Math.min(1, total[kind] / Math.max(1, room[kind])) * 100}%` }}
                  />
                </div>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** A plan with the change taken over; what is switched off stays as it is. */
function taken(plan: ProbePlan, cheaper: CheaperPlan): ProbePlan {
  const next = new Map(cheaper.plan.recorders.map((one) => [one.name, one]));
  return { ...plan, recorders: plan.recorders.map((one) => (one.off ? one : (next.get(one.name) ?? one))) };
}

/** A newer plan came in between, from this page or another one. */
class Superseded extends Error {}

/** Asked again after a while: if that plan is no longer looked at, the question is gone with it. */
const AGAIN = {
  retry: (failures: number, error: Error) => error instanceof Superseded && failures < 5,
  meta: { quiet: true },
};

/** An answer that was put off for a newer plan fails the query, which asks again. */
async function priced<T>(
  call: Promise<{ readonly superseded: true } | { readonly superseded: false; readonly answer: T }>,
): Promise<T> {
  const answer = await call;
  if (answer.superseded) throw new Superseded();
  return answer.answer;
}
