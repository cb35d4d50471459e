// The debug cores of a map alone, spoken to bit by bit as docs/silicon.md, section 6, gives the hub's scans.
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import { debugVerilog } from '../../core/probes/verilog.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';

export const WRITE = 1;
export const READ = 2;
export const STREAM = 3;

export class BareHub {
  readonly sim: Simulator;
  /** Edges of the core's clock before the last bit of the last scan. */
  samplesAtWrite = 0;
  readonly #ratio: number;
  readonly #before: () => void;
  #owed = 0;
  #taken = 0;

  /** The first core's clock ticks `ratio` times a TCK on average; `before` is called before each of its edges. */
  constructor(map: ProbeMap, ratio: number, before: () => void) {
    const { netlist } = elaborate([debugVerilog(map)], { top: 'nimble_debug' });
    if (!netlist) throw new Error('the cores do not elaborate');
    this.sim = new Simulator(optimise(netlist).netlist);
    this.#ratio = ratio;
    this.#before = before;
  }

  edge(inputs: { capture?: bigint; shift?: bigint; tdi?: bigint }): bigint {
    for (this.#owed += this.#ratio; this.#owed >= 1; this.#owed--) this.sample();
    for (const name of ['capture', 'shift', 'tdi'] as const) this.sim.setInput(name, inputs[name] ?? 0n);
    const tdo = this.sim.getOutput('tdo');
    this.sim.step(this.sim.domain('tck'));
    return tdo;
  }

  sample(): void {
    this.#before();
    this.#taken++;
    this.sim.step(this.sim.domain('c1_clk'));
  }

  /** One scan to core 1: a 1, the command, then words in or `count` bits out. */
  scan(operation: number, register: number, words: readonly bigint[], count = 0): bigint {
    this.edge({ capture: 1n });
    const shift = (bit: bigint) => this.edge({ shift: 1n, tdi: bit });
    shift(1n);
    const command = BigInt(register | (1 << 8) | (operation << 12));
    for (let i = 0n; i < 16n; i++) shift((command >> i) & 1n);
    for (const word of words) for (let i = 0n; i < 32n; i++) shift((word >> i) & 1n);
    let out = 0n;
    if (count > 0) {
      for (let i = 0; i < 16; i++) shift(0n);
      for (let i = 0n; i < BigInt(count); i++) out |= shift(0n) << i;
    }
    this.samplesAtWrite = this.#taken;
    for (let i = 0; i < 6; i++) this.edge({});
    return out;
  }
}
