import type { JudgedMessage } from './accept.ts';
import type { BuildOutput } from './build.ts';

interface Difference {
  readonly name: string;
  readonly unit: string;
  readonly before: number | null;
  readonly after: number | null;
}

/** LUTs and flip-flops of one instance in both builds, without those inside it; null where it is not there. */
interface InstanceChange {
  readonly path: string;
  readonly luts: readonly [number | null, number | null];
  readonly registers: readonly [number | null, number | null];
}

/** How two builds differ. */
export interface Comparison {
  /** Instances that take more or less, the largest change first. */
  readonly instances: readonly InstanceChange[];
  readonly figures: readonly Difference[];
  readonly appeared: readonly JudgedMessage[];
  readonly gone: readonly JudgedMessage[];
}

/** Compares resources, the frequency of each clock, and messages: one that only moved to another line is the same. */
export function compareBuilds(before: BuildOutput, after: BuildOutput): Comparison {
  const { resources: a } = before;
  const { resources: b } = after;
  const figure = (name: string, unit: string, x: number | null, y: number | null): Difference => ({
    name,
    unit,
    before: x,
    after: y,
  });
  const clocks = [
    ...new Set([...(before.timing?.clocks ?? []), ...(after.timing?.clocks ?? [])].map((clock) => clock.clock)),
  ];
  /** What each build says of a clock, before and after. */
  const both = (clock: string, of: 'highest' | 'wanted') =>
    [before, after].map((build) => build.timing?.clocks.find((c) => c.clock === clock)?.[of] ?? null) as [
      number | null,
      number | null,
    ];
  const known = (messages: readonly JudgedMessage[]) =>
    new Set(messages.map((m) => `${m.code} ${m.file} ${m.message}`));
  const [old, fresh] = [known(before.messages), known(after.messages)];
  return {
    figures: [
      figure('LUTs', '', a.luts, b.luts),
      figure('flip-flops', '', a.registers, b.registers),
      figure('logic cells', '', a.cells, b.cells),
      figure('block RAMs', '', a.blockRams, b.blockRams),
      figure('LUTs on the longest way', '', a.depth, b.depth),
      ...clocks.flatMap((clock) => [
        figure(`highest frequency of ${clock}`, 'Hz', ...both(clock, 'highest')),
        // What is wanted is said of each build in the list; here it is of interest where it is another one.
        ...(new Set(both(clock, 'wanted')).size === 1
          ? []
          : [figure(`frequency wanted of ${clock}`, 'Hz', ...both(clock, 'wanted'))]),
      ]),
    ],
    instances: instanceChanges(before.instances, after.instances),
    appeared: after.messages.filter((m) => !old.has(`${m.code} ${m.file} ${m.message}`)),
    gone: before.messages.filter((m) => !fresh.has(`${m.code} ${m.file} ${m.message}`)),
  };
}

function instanceChanges(before: BuildOutput['instances'], after: BuildOutput['instances']): InstanceChange[] {
  const [old, fresh] = [before, after].map((list) => new Map(list.map((use) => [use.path, use])));
  const change = (path: string): InstanceChange => {
    const [x, y] = [old?.get(path), fresh?.get(path)];
    return {
      path,
      luts: [x?.luts ?? null, y?.luts ?? null],
      registers: [x?.registers ?? null, y?.registers ?? null],
    };
  };
  const by = ([x, y]: readonly [number | null, number | null]): number => Math.abs((y ?? 0) - (x ?? 0));
  return [...new Set([...before, ...after].map(({ path }) => path))]
    .map(change)
    .filter(({ luts, registers }) => by(luts) + by(registers) > 0)
    .sort((x, y) => by(y.luts) - by(x.luts) || by(y.registers) - by(x.registers));
}
