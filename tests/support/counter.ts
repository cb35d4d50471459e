// A counter with a recorder and a panel, and a bench that runs it: a small design for whatever needs the whole path.
import { Bench, BenchCable } from '../../bench/index.ts';
import { build } from '../../core/build/index.ts';
import { readBitstream } from '../../core/families/index.ts';

const source = (bits: number) => `module top(input clk, output [7:0] lamp);
  reg [${bits - 1}:0] count = 0;
  wire [7:0] free;
  always @(posedge clk) count <= count + 1;
  assign lamp = count[15:8] ^ free;
endmodule`;

/** Slow, so that minutes at a low TCK cost the simulation little. */
export const COUNTER_HZ = 250e3;

/** `depth` in samples. */
export function builtCounter({ bits = 16, depth = 16 } = {}) {
  const built = build({
    project: {
      file: {
        format: 'nimble-project',
        version: 3,
        grade: 2,
        accepted: [],
        name: 't',
        part: 'CV25',
        pins: 'pins.csv',
        clocks: { clk: COUNTER_HZ },
      },
      files: [
        { name: 't.v', text: source(bits) },
        { name: 'pins.csv', text: 'clk,P1\nlamp[0],P26\n' },
      ],
    },
    plan: {
      recorders: [{ name: 'r', clock: 'top.clk', depth, signals: ['top.count'] }],
      panels: [{ name: 'p', clock: 'top.clk', levers: ['top.free'], gauges: ['top.free', 'top.count'] }],
    },
  });
  const read = readBitstream(built.bitstream ?? new Uint8Array(0));
  if (!read.ok || !built.probes) throw new Error(JSON.stringify(built.messages));
  return { bitstream: read.value, map: built.probes, part: 'CV25' };
}

export function counterBench(tckHz: number): { bench: Bench; cable: BenchCable } {
  const bench = new Bench({
    format: 'nimble-bench',
    version: 1,
    name: 't',
    tckHz,
    referenceVolts: 3.3,
    cableNanoseconds: 18,
    nets: [],
    faults: [],
    chain: [{ kind: 'sprig' }, { kind: 'corvane', part: 'CV25', flash: 'LR32' }],
    board: {
      fpga: 1,
      banks: {},
      oscillators: [{ name: 'X', pin: 'P1', hz: COUNTER_HZ }],
      ...{ lamps: [], buttons: [], switches: [], displays: [], keyboards: [], sensors: [] },
    },
  });
  return { bench, cable: new BenchCable(bench) };
}
