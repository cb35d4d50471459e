import type { JudgedMessage } from './accept.ts';
import type { BuildOutput } from './build.ts';

interface Difference {
  readonly name: string;
  readonly unit: string;
  readonly before: number | null;
  readonly after: number | null;
}

/** How two builds differ. */
export interface Comparison {
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
  const highest = (build: BuildOutput, clock: string) =>
    build.timing?.clocks.find((c) => c.clock === clock)?.highest ?? null;
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
      ...clocks.map((clock) =>
        figure(`highest frequency of ${clock}`, 'Hz', highest(before, clock), highest(after, clock)),
      ),
    ],
    appeared: after.messages.filter((m) => !old.has(`${m.code} ${m.file} ${m.message}`)),
    gone: before.messages.filter((m) => !fresh.has(`${m.code} ${m.file} ${m.message}`)),
  };
}
