import { usualPart } from '../families/index.ts';
import { PieceMemory } from '../mapping/index.ts';
import type { ProbePlan } from '../probes/index.ts';
import { build, type BuildInputs, type BuildResult } from './build.ts';
import type { ProjectFile } from './project.ts';

/** A bit of everything that designs are made of. */
const TEXT = `
module part #(parameter W = 8, parameter [W-1:0] TOP = 200) (
  input clk, input rst_n, input [W-1:0] a, input signed [W-1:0] b, output reg [2*W-1:0] product, output reg [W-1:0] sum,
  output [W-1:0] kept, output reg [2:0] state, output near
);
  reg [W-1:0] memory [0:63]; reg [5:0] at = 0; reg [W-1:0] read; reg [W-1:0] count = 0;
  localparam [2:0] IDLE = 0, FILL = 1, WAIT = 3, DRAIN = 2, DONE = 6, LOST = 7;
  function [W-1:0] turned(input [W-1:0] x, input integer n); turned = (x >> n) | (x << (W - n)); endfunction
  assign near = (a > sum ? a - sum : sum - a) < 5;
  assign kept = turned(read, 3) ^ (state == WAIT ? a : 0);
  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin state <= IDLE; count <= 0; end
    else case (state)
      IDLE: if (a[0]) state <= FILL;
      FILL: begin count <= count >= TOP ? 0 : count + 1; if (count == TOP) state <= WAIT; end
      WAIT: if (near) state <= DRAIN; else if (b < -3) state <= LOST;
      DRAIN: if (count == 0) state <= DONE; else count <= count - 1;
      DONE: state <= a[1] ? IDLE : LOST;
      default: state <= IDLE;
    endcase
  always @(posedge clk) begin
    if (state == FILL) begin memory[at] <= a; at <= at + 1; end
    read <= memory[count[5:0]];
    product <= a * b;
    sum <= near ? sum + a : sum - b;
  end
endmodule
module top(input clk, input clk_b, input rst_n, input [7:0] a, input [7:0] b, output [15:0] p, output [7:0] s, k,
  output [6:0] segments, output [5:0] states, output reg [3:0] slow);
  wire [15:0] p0, p1; wire [7:0] s0, s1, k0, k1; wire n0, n1;
  part u(.clk(clk), .rst_n(rst_n), .a(a), .b(b), .product(p0), .sum(s0), .kept(k0), .state(states[2:0]), .near(n0));
  part #(.W(8), .TOP(99)) v(.clk(clk_b), .rst_n(rst_n), .a(b), .b(a), .product(p1), .sum(s1), .kept(k1),
    .state(states[5:3]), .near(n1));
  assign p = p0 + p1; assign s = s0 ^ s1; assign k = n0 ? k0 : n1 ? k1 : 8'h5a;
  reg [6:0] glyph;
  always @* case (s[3:0]) 0: glyph = 63; 1: glyph = 6; 2: glyph = 91; 3: glyph = 79; 4: glyph = 102; 5: glyph = 109;
    6: glyph = 125; 7: glyph = 7; 8: glyph = 127; 9: glyph = 111; default: glyph = 64; endcase
  assign segments = glyph;
  reg [19:0] wide = 0; genvar g;
  always @(posedge clk) begin wide <= wide + 1; slow <= wide[19:16]; end
  wire [7:0] parity;
  generate for (g = 0; g < 8; g = g + 1) begin : each assign parity[g] = ^(a >> g); end endgenerate
endmodule
`;

const FILE: ProjectFile = {
  ...{
    format: 'nimble-project',
    version: 3,
    grade: 2,
    name: 'Warm-up',
    part: usualPart(),
    pins: 'pins.csv',
    top: 'top',
  },
  ...{ accepted: [], clocks: { clk: 12e6, clk_b: 10e6 } },
};

const PLAN: ProbePlan = {
  recorders: [
    {
      ...{ name: 'r', clock: 'top.clk', depth: 256, signals: ['top.u.state', 'top.u.count', 'top.v.count'] },
      ...{ comparators: 2, stages: 2 },
    },
  ],
  panels: [{ name: 'p', clock: 'top.clk', levers: [], gauges: ['top.u.sum'] }],
};

const FILES = [
  { name: 'top.v', text: TEXT },
  { name: 'pins.csv', text: '' },
];

const WARM_UP: BuildInputs = { project: { file: FILE, files: FILES }, plan: PLAN };

/**
 * Builds a small design, with its probes at last, so that what builds has been run before the first one that somebody
 * waits for: what runs for the first time is translated first, and takes several times as long.
 */
export function warmUp(): BuildResult {
  const memory = { sources: new Map(), pieces: new PieceMemory() };
  build({ ...WARM_UP, plan: { recorders: [], panels: [] } }, undefined, memory);
  return build(WARM_UP, undefined, memory);
}
