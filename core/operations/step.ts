import type { ChainSession } from '../board/index.ts';
import { type ProbeMap, StepperClient, type StepperMap, type StepperState } from '../probes/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { compileStepCondition } from '../trigger/index.ts';
import { openHub } from './debug-link.ts';
import { problem } from './problems.ts';

/** What a stepper is to do: nothing more, let everything through, so many steps, or steps until something holds. */
export type StepOrder =
  | { readonly way: 'hold' | 'run' }
  | { readonly way: 'step'; readonly count: number }
  | { readonly way: 'until'; readonly condition: string; readonly most: number };

interface StepRequest {
  readonly part: string;
  readonly device: number | null;
  readonly map: ProbeMap;
  /** Name of the stepper. */
  readonly stepper: string;
  /** Null to look only. */
  readonly order: StepOrder | null;
}

/** As many steps as one order may ask for. */
export const MOST_STEPS = 2 ** 32 - 1;

const steppersOf = (map: ProbeMap) => map.cores.filter((core): core is StepperMap => core.kind === 'stepper');

/** Gives an order to a stepper, and tells how it stands right behind it: long steps go on meanwhile. */
export async function stepClock(chain: ChainSession, request: StepRequest): Promise<Result<StepperState>> {
  const { map, order } = request;
  const stepper = steppersOf(map).find(({ name }) => name === request.stepper);
  if (!stepper) return fail(problem('no-such-stepper', { name: request.stepper }));
  const condition = order?.way === 'until' ? compileStepCondition(order.condition, stepper) : null;
  if (condition && !condition.ok) return condition;
  const count = order?.way === 'step' ? order.count : order?.way === 'until' ? order.most : 0;
  if (!Number.isInteger(count) || count < 0 || count > MOST_STEPS) return fail(problem('steps', { most: MOST_STEPS }));
  const hub = await openHub(chain, request.part, request.device, map);
  if (!hub.ok) return hub;
  const client = new StepperClient(hub.value, stepper);
  if (!(await client.isKnown())) return fail(problem('stepper-old', { name: stepper.name }));
  if (order?.way === 'hold') client.hold();
  else if (order?.way === 'run') client.run();
  else if (order?.way === 'step') client.step(order.count);
  else if (order?.way === 'until' && condition) client.until(condition.value, order.most);
  return order === null ? ok(await client.state()) : client.heard();
}
