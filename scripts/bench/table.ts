// How many rows of a table of vectors run on the hardware in a second.
import { runTable } from '../../core/operations/index.ts';
import { planForTable } from '../../core/probes/index.ts';
import { MADE_PART, madeBoard } from '../../tests/support/made-board.ts';

const ROWS = 3000;
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
  const { chain, map, load } = madeBoard({
    ...{ top: 'ff', files: FILES, plan: planned.value.plan, clocks: { clk: 12e6 } },
  });
  await load();
  const start = performance.now();
  const ran = await runTable(chain, { part: MADE_PART, device: null, map, table });
  const seconds = (performance.now() - start) / 1000;
  if (!ran.ok || ran.value.passed !== ROWS) throw new Error('rows of the flip-flop fail');
  return ROWS / seconds;
}
