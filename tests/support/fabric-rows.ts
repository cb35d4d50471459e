// A table of vectors on the compiled fabric of a design, without parts, debug cores or a board.
import { elaborate, type SourceFile } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { ok } from '../../core/result.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { planForTable } from '../../core/probes/index.ts';
import type { RowTarget, Vectors } from '../../core/vectors/index.ts';

export function fabricRows(
  files: readonly SourceFile[],
  table: SourceFile,
  top: string,
): { readonly target: RowTarget; readonly vectors: Vectors; readonly clock: string | null } {
  const planned = planForTable(files, table, { top });
  const { netlist } = elaborate(files, { top });
  if (!planned.ok || !netlist) throw new Error('the table is not for this design');
  const sim = new Simulator(optimise(netlist).netlist);
  const { vectors, clock } = planned.value;
  const outputs = vectors.columns.flatMap((column) => (column.kind === 'expect' ? [column.port] : []));
  const target: RowTarget = {
    row: async (inputs, cycles) => {
      for (const [port, value] of inputs) sim.setInput(port, value);
      if (clock !== null) sim.step(sim.domain(clock), cycles);
      return ok(new Map(outputs.map((port) => [port, sim.getOutput(port)])));
    },
  };
  return { target, vectors, clock };
}
