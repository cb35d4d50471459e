// Debug cores by themselves, mapped: what they take and how fast their clock may be.
import { delaysOf, MEMORIES } from '../../core/families/corvane/delays.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { countResources, map, time } from '../../core/mapping/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { layOutPlan } from '../../core/probes/insert.ts';
import { mapOf } from '../../core/probes/map.ts';
import type { ProbePlan } from '../../core/probes/index.ts';
import { debugVerilog } from '../../core/probes/verilog.ts';

interface Wanted {
  readonly width?: number;
  readonly depth?: number;
  readonly comparators?: number;
  readonly stages?: number;
  readonly qualifier?: boolean;
  readonly segments?: number;
}

/** A plan of one recorder of one signal, one comparator and one stage unless said otherwise. */
export function recorderOf({ width = 16, depth = 1024, ...over }: Wanted): { plan: ProbePlan; width: number } {
  const recorder = { name: 'r', clock: 'clk', depth, signals: ['s'], comparators: 1, stages: 1, ...over };
  return { plan: { recorders: [recorder], panels: [] }, width };
}

const names = (of: string, count: number): string[] => Array.from({ length: count }, (_, i) => `${of}${i}`);

/** A plan of one panel of levers and gauges of one bit. */
export const panelOf = (levers: number, gauges: number): ProbePlan => ({
  recorders: [],
  panels: [{ name: 'p', clock: 'clk', levers: names('l', levers), gauges: names('g', gauges) }],
});

/** Tables, and the highest frequency of the core's own clock at grade 2 in megahertz; the hub is among the tables. */
export function coreSize(plan: ProbePlan, width: number): { readonly luts: number; readonly megahertz: number } {
  const cores = layOutPlan(plan, () => ({ width, signed: false, free: true, names: [] }));
  const probes = mapOf(
    '0123456789abcdef'.repeat(2),
    cores.map((core, i) => ({ ...core, core: i + 1 })),
  );
  const { netlist } = elaborate([debugVerilog(probes)], { top: 'nimble_debug' });
  if (!netlist) throw new Error('the cores do not elaborate');
  const mapped = map(optimise(netlist).netlist, MEMORIES);
  const clocks = time(mapped, delaysOf(2), new Map()).clocks.filter(({ clock }) => clock !== 'tck');
  return {
    luts: countResources(mapped).total.luts,
    megahertz: Math.min(...clocks.map(({ highest }) => (highest ?? Number.POSITIVE_INFINITY) / 1e6)),
  };
}
