// How many rows of a table of vectors run on the hardware in a second.
import { Bench, BenchCable, readBenchFile } from '../../bench/index.ts';
import { build } from '../../core/build/index.ts';
import { readBitstream } from '../../core/families/index.ts';
import { loadBitstream, runTable } from '../../core/operations/index.ts';
import { planForTable } from '../../core/probes/index.ts';
import { unwatched } from '../../core/progress.ts';
import { chainOn } from '../../tests/support/chain-on.ts';

const ROWS = 3000;
const PART = 'CV60';
const FILES = [
  {
    name: 'ff.v',
    text: `module ff(input clk, rst, en, input [15:0] d, output reg [15:0] q = 0);
      always @(posedge clk) if (rst) q <= 0; else if (en) q <= d; endmodule`,
  },
];

/** A flip-flop with reset and enable, each row a cycle of its clock; none may fail. */
export async function tableRows(): Promise<number> {
  const rows = Array.from({ length: ROWS }, (_, i) => `0,1,${(i * 7919) & 0xffff},${(i * 7919) & 0xffff}`);
  const table = { name: 'ff.csv', text: `rst,en,d,=q\n${rows.join('\n')}\n` };
  const planned = planForTable(FILES, table, { top: 'ff' });
  if (!planned.ok) throw new Error(planned.error.message);
  const { bitstream, probes } = build({
    project: {
      file: {
        ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 'ff', top: 'ff', part: PART },
        ...{ pins: 'pins.csv', clocks: { clk: 12e6 } },
      },
      files: [...FILES, { name: 'pins.csv', text: 'clk,A1\n' }],
    },
    plan: planned.value.plan,
  });
  const read = readBitstream(bitstream ?? new Uint8Array());
  const board = { fpga: 0, oscillators: [{ name: 'X', pin: 'A1', hz: 12e6 }] };
  const file = readBenchFile(JSON.stringify({ chain: [{ kind: 'corvane', part: PART }], board }), 'made');
  if (!read.ok || !probes || !file.ok) throw new Error('the flip-flop is not built');
  const chain = chainOn(new BenchCable(new Bench(file.value)));
  const load = await loadBitstream(chain, read.value, null, unwatched);
  if (!load.ok) throw new Error(load.error.message);
  const start = performance.now();
  const ran = await runTable(chain, { part: PART, device: null, map: probes, table });
  const seconds = (performance.now() - start) / 1000;
  if (!ran.ok || ran.value.passed !== ROWS) throw new Error('rows of the flip-flop fail');
  return ROWS / seconds;
}
