import { priced } from '../priced.ts';

/** What of a plan it would be enough to give up where it does not fit; null where nothing is. */
export const POST = priced(({ desks }, plan, others) => desks.probe.cheaperPlanNow(plan, others));
