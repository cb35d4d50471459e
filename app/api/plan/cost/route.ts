import { probePlan } from '../../../../core/probes/index.ts';
import { operations, runtime } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, readJson } from '../../guard.ts';

/** What the cores of a plan would take of what the design leaves. */
export const POST = guarded(async (request) => answer(taken(await operations.planCostNow(await runtime(), await readJson(request, probePlan)))));
