import { operations } from '../../../../server/index.ts';
import { priced } from '../priced.ts';

/** What of a plan it would be enough to give up where it does not fit; null where nothing is. */
export const POST = priced(operations.cheaperPlanNow);
