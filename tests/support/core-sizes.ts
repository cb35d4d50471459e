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

/** What is laid down for a debug core, and what it is; in tables, or megahertz, of which there are to be as many at least. */
export interface CoreFigure {
  readonly core: string;
  readonly value: number;
  readonly reach: number;
  readonly unit: 'LUTs' | 'MHz';
}

export function coreFigures(): CoreFigure[] {
  const size = (over: Wanted = {}) => {
    const { plan, width } = recorderOf(over);
    return coreSize(plan, width);
  };
  const base = size();
  const luts = (core: string, value: number, reach: number): CoreFigure => ({ core, value, reach, unit: 'LUTs' });
  const more = (core: string, over: Wanted, reach: number) => luts(core, size(over).luts - base.luts, reach);
  const speed = (core: string, megahertz: number): CoreFigure => ({ core, value: megahertz, reach: 150, unit: 'MHz' });
  const most = { comparators: 3, stages: 4, qualifier: true, segments: 4 };
  const levels = { width: 18, comparators: 3, stages: 2 };
  return [
    luts('recorder, 16 bits × 1,024', base.luts, 16 * 3.5 + 250),
    more('32 bits more', { width: 48 }, 32 * 3.5),
    more('a second comparator of 16 bits', { comparators: 2 }, 16 * 3.5),
    more('a second stage', { stages: 2 }, 60),
    more('a qualifier', { qualifier: true }, 120),
    more('segments', { segments: 4 }, 40),
    luts('recorder, 18 bits, 3 comparators, 2 stages', size(levels).luts, 620),
    luts('recorder, 4 bits × 64', size({ width: 4, depth: 64 }).luts, 180),
    luts('panel, 32 levers, 32 gauges', coreSize(panelOf(32, 32), 1).luts, 150),
    speed('recorder', base.megahertz),
    speed('recorder of two stages', size({ stages: 2 }).megahertz),
    speed('recorder with segments', size({ segments: 4 }).megahertz),
    speed('recorder of two stages, qualifier, segments', size({ stages: 2, qualifier: true, segments: 4 }).megahertz),
    speed('recorder, 18 bits, 3 comparators, 2 stages', size(levels).megahertz),
    speed('recorder, 4 bits × 64', size({ width: 4, depth: 64 }).megahertz),
    speed('recorder of three stages', size({ stages: 3 }).megahertz),
    speed('recorder of four stages, 3 comparators, qualifier, segments', size(most).megahertz),
    speed('recorder of 64 bits', size({ width: 64 }).megahertz),
    speed('recorder of 150 bits, 4 stages', size({ width: 150, stages: 4 }).megahertz),
  ];
}

export const isReached = ({ value, reach, unit }: CoreFigure): boolean =>
  unit === 'MHz' ? value >= reach : value <= reach;
