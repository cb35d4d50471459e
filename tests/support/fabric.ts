// Verilog text straight into a running design, for tests of what the language and the fabric do.
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { type Backend, Simulator } from '../../core/sim/fabric/index.ts';

/** `name` says by its ending whether the text is Verilog or SystemVerilog. */
export function run(text: string, backend: Backend = 'wasm', name = 'test.v'): Simulator {
  const { netlist, messages } = elaborate([{ name, text }]);
  if (!netlist) throw new Error(messages.list.map((m) => `${m.line}:${m.column} ${m.code} ${m.message}`).join('\n'));
  return new Simulator(optimise(netlist).netlist, backend);
}

export function complaints(text: string, name = 'test.v'): string[] {
  return elaborate([{ name, text }]).messages.list.map((m) => `${m.code}@${m.line}:${m.column}`);
}
