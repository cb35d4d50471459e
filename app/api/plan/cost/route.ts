import { priced } from '../priced.ts';

/** What the cores of a plan, and of the others in the build, would take of what the design leaves. */
export const POST = priced(({ desks }, plan, others) => desks.probe.planCostNow(plan, others));
