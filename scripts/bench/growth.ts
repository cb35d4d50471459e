// How the time of a build grows with the size of a design.
import { build } from '../../core/build/index.ts';
import { partNamed } from '../../core/families/index.ts';

const SIZES = [1000, 2000, 4000, 8000, 16_000, 32_000];
/** Logic cells that one copy of the module below takes. */
const CELLS_A_COPY = 70;

/** A row of small machines, each fed by the one before it, so that nothing is equal to anything else. */
function design(copies: number): string {
  return `module machine #(parameter [15:0] K = 1) (input clk, input [15:0] a, output reg [15:0] q);
  reg [7:0] n;
  always @(posedge clk) begin
    n <= n + K[7:0];
    if (n[0]) q <= (a ^ {q[14:0], q[15]}) + K; else q <= a & ~q | {n, n};
  end
endmodule
module grown(input clk, input [15:0] a, output [15:0] y);
  wire [15:0] w [0:${copies}];
  assign w[0] = a;
  genvar i;
  for (i = 0; i < ${copies}; i = i + 1) begin : row
    machine #(.K(2 * i + 1)) c (.clk(clk), .a(w[i]), .q(w[i + 1]));
  end
  assign y = w[${copies}];
endmodule`;
}

/** Seconds and logic cells of builds of growing size. */
export function growth(): { cells: number; seconds: number }[] {
  const part = partNamed('CV60')?.name ?? '';
  return SIZES.map((size) => {
    const project = {
      file: {
        format: 'nimble-project' as const,
        version: 3 as const,
        name: 'grown',
        part,
        grade: 2 as const,
        top: 'grown',
        pins: 'pins.csv',
        clocks: {},
        accepted: [],
      },
      files: [{ name: 'grown.v', text: design(Math.ceil(size / CELLS_A_COPY)) }],
    };
    const start = performance.now();
    const { resources } = build({ project, plan: { recorders: [], panels: [] } });
    return { cells: resources.cells, seconds: (performance.now() - start) / 1000 };
  });
}
