import { expose } from 'comlink';
import { replayRegion, replaySources } from '../../core/operations/index.ts';
import { proposalsFor } from '../../core/replay/index.ts';
import { ok } from '../../core/result.ts';
import type { PlanWorker } from './messages.ts';

const worker: PlanWorker = {
  propose: async ({ project, see, insist, never }) => {
    const region = replayRegion(replaySources(project), { see });
    if (!region.ok) return region;
    const proposals = proposalsFor(region.value, { insist, never });
    if (!proposals.ok) return proposals;
    const { clock, clocks } = region.value;
    return ok({ clock: clock.name, clocks, proposals: proposals.value });
  },
};

expose(worker);
