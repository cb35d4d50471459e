'use client';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import type { ProbePlan } from '../../core/probes/index.ts';
import type { PlanCost } from '../../server/index.ts';
import { Button, send, useLive } from '../shared/index.ts';

/** What the plan takes of what the design leaves in the part, mapped as a build would; where it is too much, the least to give up. */
export function Cost({ plan, onPlan }: { readonly plan: ProbePlan; readonly onPlan: (plan: ProbePlan) => void }) {
  const build = useLive()?.latest?.id ?? 0;
  const on: ProbePlan = { recorders: plan.recorders.filter(({ off }) => !off), panels: plan.panels.filter(({ off }) => !off) };
  const { data: cost, isFetching } = useQuery({
    queryKey: ['plan-cost', build, JSON.stringify(on)],
    placeholderData: (before: PlanCost | null | undefined) => before,
    queryFn: async () => {
      const answer = await send<PlanCost>('/api/plan/cost', 'POST', on);
      return answer.ok ? answer.value : null;
    },
  });
  if (!cost) return <p className="h-10 text-quiet text-xs">What this takes is being counted.</p>;
  const { total, room, cheaper } = cost;
  const share = Math.min(1, total.luts / Math.max(1, room.luts));
  const fits = total.luts <= room.luts && total.blockRams <= room.blockRams;
  return (
    <div className={clsx('border border-line bg-raised px-2 py-1.5', isFetching && 'opacity-70')} data-testid="plan-cost" title={cost.cores.map(({ name, cost: one }) => `${name}: ${one.luts} LUTs, ${one.registers} flip-flops, ${one.blockRams} block RAMs, with the hub`).join('\n')}>
      <p className={clsx('tabular', !fits && 'text-bad')}>
        Takes {total.luts.toLocaleString('en')} LUTs and {total.blockRams} block RAMs; {room.luts.toLocaleString('en')} and {room.blockRams} are free. {total.registers.toLocaleString('en')} flip-flops
      </p>
      <div className="mt-1 h-1.5 bg-well" aria-hidden>
        <div className={fits ? 'h-full bg-good' : 'h-full bg-bad'} style={{ width: `${share * 100}%` }} />
      </div>
      {!fits && (cheaper ? (
        <p className="mt-1 text-xs">
          It does not fit. Enough would be {cheaper.change} ({cheaper.cost.luts.toLocaleString('en')} LUTs, {cheaper.cost.blockRams} block RAMs).{' '}
          <Button className="h-6 px-2!" onClick={() => { const next = new Map(cheaper.plan.recorders.map((one) => [one.name, one])); onPlan({ ...plan, recorders: plan.recorders.map((one) => (one.off ? one : (next.get(one.name) ?? one))) }); }}>
            Do that
          </Button>
        </p>
      ) : (
        <p className="mt-1 text-xs">It does not fit, and no single setting is enough: leave out signals, or choose a larger part.</p>
      ))}
    </div>
  );
}
