import type { ProbePlan } from '../../core/probes/index.ts';

/** A recorder, a lever and a gauge in the demo's design. */
export const PROBED: ProbePlan = {
  recorders: [{ name: 'main', clock: 'lockhouse.clk', depth: 1024, signals: ['lockhouse.u_sequencer.state'] }],
  panels: [
    { name: 'panel', clock: 'lockhouse.clk', levers: ['lockhouse.level_trim'], gauges: ['lockhouse.level_shown'] },
  ],
};
