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
  clocked?: string,
): { readonly target: RowTarget; readonly vectors: Vectors; readonly clock: string | null } {
  const planned = planForTable(files, table, { top, ...(clocked === undefined ? {} : { clock: clocked }) });
  const { netlist } = elaborate(files, { top });
  if (!planned.ok || !netlist) throw new Error('the table is not for this design');
  const sim = new Simulator(optimise(netlist).netlist);
  const { vectors, clock } = planned.value;
  const outputs = vectors.columns.flatMap((column) => (column.kind === 'expect' ? [column.port] : []));
  const target: RowTarget = {
    row: async (inputs, cycles) => {
      for (const [port, value] of inputs) sim.setInput(port, value);
      const [rise, fall] = [sim.domain(clock ?? '', 'posedge'), sim.domain(clock ?? '', 'negedge')];
      // Where falling edges matter each comes behind its rising one.
      if (fall < 0) sim.step(rise, cycles);
      for (let i = 0; fall >= 0 && i < cycles; i++) {
        sim.step(rise);
        sim.step(fall);
      }
      return ok(new Map(outputs.map((port) => [port, sim.getOutput(port)])));
    },
  };
  return { target, vectors, clock };
}
