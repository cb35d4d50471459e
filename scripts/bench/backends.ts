import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { type Netlist, optimise } from '../../core/netlist/index.ts';
import { insertCores } from '../../core/probes/index.ts';
import { type Backend, Simulator } from '../../core/sim/fabric/index.ts';

const BATCH = 1000;
const WARM = 3000;
const MEASURED = 3000;

/** Clock cycles a second of the demo, compiled both ways, with and without its probes. */
export function backendSpeeds(): { design: string; wasm: number; javascript: number }[] {
  return [
    ['the demo', false],
    ['the demo with recorder and panel', true],
  ].map(([design, probes]) => {
    const netlist = demoNetlist(probes as boolean);
    return { design: design as string, wasm: speed(netlist, 'wasm'), javascript: speed(netlist, 'javascript') };
  });
}

function demoNetlist(probes: boolean): Netlist {
  const { netlist } = elaborate(demoProject().files, { top: 'lockhouse' });
  if (!netlist) throw new Error('the demo does not elaborate');
  if (probes && !insertCores(netlist, demoPlan(), '0'.repeat(32)).ok) throw new Error('the plan does not fit the demo');
  return optimise(netlist).netlist;
}

function speed(netlist: Netlist, backend: Backend): number {
  const simulator = new Simulator(netlist, backend);
  const clock = simulator.domain('clk');
  for (let i = 0; i < WARM; i++) simulator.step(clock, BATCH);
  const start = performance.now();
  for (let i = 0; i < MEASURED; i++) simulator.step(clock, BATCH);
  return (MEASURED * BATCH * 1000) / (performance.now() - start);
}
