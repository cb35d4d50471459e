import { readFileSync } from 'node:fs';
import { elaborate, type SourceFile } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { demoProject } from '../../tests/support/demo.ts';

interface Design {
  readonly name: string;
  readonly files: readonly SourceFile[];
  readonly top: string;
  readonly clock: string;
  /** Connections of the testbench, beside the clock. */
  readonly connect: string;
}

const DESIGNS: readonly Design[] = [
  {
    name: 'the demo',
    files: demoProject().files,
    top: 'lockhouse',
    clock: 'clk',
    connect: ".clk10(1'b0), .button(4'b0), .switch(4'b0), .miso(1'b0)",
  },
  {
    name: 'SHA-256',
    files: [{ name: 'sha256.v', text: readFileSync('tests/designs/sha256.v', 'utf8') }],
    top: 'sha256',
    clock: 'clk',
    connect: '',
  },
];
const CYCLES = 20_000;
const FABRIC_CYCLES = 1_000_000;

/** Clock cycles a second of the event simulator, and of the fabric with the same design. */
export function eventSpeeds(): { design: string; events: number; fabric: number }[] {
  return DESIGNS.map((design) => ({ design: design.name, events: eventSpeed(design), fabric: fabricSpeed(design) }));
}

function eventSpeed({ files, top, clock, connect }: Design): number {
  const bench = `module bench; reg clk = 0; always #1 clk = ~clk; ${top} u(.${clock}(clk)${connect === '' ? '' : `, ${connect}`}); endmodule`;
  const run = (cycles: number): number => {
    const start = performance.now();
    const host = { read: () => null, print: () => {} };
    const done = simulate([...files, { name: 'bench.v', text: bench }], {
      top: 'bench',
      until: { ticks: 2 * cycles },
      host,
    });
    if (!done.run) throw new Error(done.messages.map((m) => `${m.file}:${m.line} ${m.message}`).join('\n'));
    return performance.now() - start;
  };
  run(CYCLES / 4);
  // What reading and building take is in both, and falls out.
  const [few, many] = [run(CYCLES), run(CYCLES * 3)];
  return (CYCLES * 2 * 1000) / (many - few);
}

function fabricSpeed({ files, top, clock }: Design): number {
  const { netlist } = elaborate(files, { top });
  if (!netlist) throw new Error(`${top} does not elaborate`);
  const simulator = new Simulator(optimise(netlist).netlist, 'wasm');
  const domain = simulator.domain(clock);
  simulator.step(domain, FABRIC_CYCLES / 10);
  const start = performance.now();
  simulator.step(domain, FABRIC_CYCLES);
  return (FABRIC_CYCLES * 1000) / (performance.now() - start);
}
