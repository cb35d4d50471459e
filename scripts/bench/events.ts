import { readFileSync } from 'node:fs';
import { elaborate, type SourceFile } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { item } from '../../core/lists.ts';
import { demoProject } from '../../tests/support/demo.ts';

interface Design {
  readonly name: string;
  readonly files: readonly SourceFile[];
  readonly top: string;
  readonly clock: string;
  /** Its other inputs, each with the value it has once its reset is over; 0 before. */
  readonly inputs: Readonly<Record<string, number>>;
}

const DESIGNS: readonly Design[] = [
  {
    name: 'the demo',
    files: demoProject().files,
    top: 'lockhouse',
    clock: 'clk',
    // A button that is let go reads 1; the first one resets.
    inputs: { clk10: 0, button: 15, switch: 0, miso: 0 },
  },
  {
    name: 'SHA-256',
    files: [{ name: 'sha256.v', text: readFileSync('tests/designs/sha256.v', 'utf8') }],
    top: 'sha256',
    clock: 'clk',
    inputs: {},
  },
];
const RESET_CYCLES = 20;
const CYCLES = 100_000;
const FABRIC_CYCLES = 10_000_000;
/** A cycle of the demo takes six. */
const EVENTS = 10_000_000;
/** Both are measured in turn, over about the same time, so that a machine that slows down slows both. */
const ROUNDS = 5;

/**
 * Clock cycles a second of the event simulator, and of the fabric with the same design: with every edge run in full, as
 * events are, and as it runs by itself, many edges at once where little changes.
 */
export function eventSpeeds(): { design: string; events: number; fabric: number; leaping: number }[] {
  return DESIGNS.map((design) => {
    const [events, fabric, leaping] = [eventRun(design), fabricRun(design, null), fabricRun(design)];
    const rounds = Array.from({ length: ROUNDS }, () => ({ events: events(), fabric: fabric(), leaping: leaping() }));
    const ordered = rounds.toSorted((a, b) => a.fabric / a.events - b.fabric / b.events);
    return { design: design.name, ...item(ordered, ROUNDS >> 1) };
  });
}

/** MiB by which the heap is larger in the last of ten million events of the demo than in the first tenth of them. */
export function heapOverEvents(): number {
  const [demo] = DESIGNS;
  if (!demo) return 0;
  const heaps: number[] = [];
  simulate(
    [...demo.files, { name: 'bench.v', text: benchOf(demo) }],
    { top: 'bench', until: { ticks: Math.ceil(EVENTS / 3) }, host: { read: () => null, print: () => {} } },
    { report: () => heaps.push(process.memoryUsage().heapUsed), cancelled: () => false },
  );
  // The least of each stretch: what lies between two collections is not kept.
  const tenth = Math.ceil(heaps.length / 10);
  return (Math.min(...heaps.slice(-tenth)) - Math.min(...heaps.slice(0, tenth))) / 2 ** 20;
}

function benchOf({ inputs, top, clock }: Design): string {
  const connect = Object.entries(inputs).map(([name, value]) => `, .${name}(ready ? ${value} : 0)`);
  return `module bench;
    reg clk = 0, ready = 0;
    initial #${2 * RESET_CYCLES} ready = 1;
    always #1 clk = ~clk;
    ${top} u(.${clock}(clk)${connect.join('')});
  endmodule`;
}

function eventRun(design: Design): () => number {
  const { files } = design;
  const bench = benchOf(design);
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
  return () => {
    const [few, many] = [run(CYCLES), run(CYCLES * 3)];
    return (CYCLES * 2 * 1000) / (many - few);
  };
}

function fabricRun({ files, top, clock, inputs }: Design, pacing?: null): () => number {
  const { netlist } = elaborate(files, { top });
  if (!netlist) throw new Error(`${top} does not elaborate`);
  const simulator = new Simulator(optimise(netlist).netlist, 'wasm', pacing);
  const domain = simulator.domain(clock);
  simulator.step(domain, RESET_CYCLES);
  for (const [name, value] of Object.entries(inputs)) simulator.setInput(name, BigInt(value));
  simulator.step(domain, FABRIC_CYCLES / 10);
  return () => {
    const start = performance.now();
    simulator.step(domain, FABRIC_CYCLES);
    return (FABRIC_CYCLES * 1000) / (performance.now() - start);
  };
}
