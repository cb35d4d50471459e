import { madeClocks, type Netlist } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** The input that a cycle of a table means: the one that is wanted, else the only one that clocks registers; or none. */
export function chooseClock(
  inputs: readonly string[],
  netlist: Netlist | null,
  wanted: string | undefined,
): Result<string | null> {
  if (wanted !== undefined) {
    if (inputs.includes(wanted)) return ok(wanted);
    return fail(problem('no-clock', { wanted, inputs: inputs.join(', ') || 'none' }));
  }
  if (!netlist) return ok(inputs.find((name) => /^(clk|clock)/i.test(name)) ?? null);
  const made = madeClocks(netlist);
  const clocks = new Set(
    [...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].flatMap(({ clock }) => {
      const node = netlist.nodes[made.get(clock) ?? clock];
      return node?.op === 'input' ? [node.name] : [];
    }),
  );
  const [only, another] = [...clocks].sort();
  if (another === undefined) return ok(only ?? null);
  return fail(problem('several-clocks', { list: [...clocks].sort().join(', ') }));
}
