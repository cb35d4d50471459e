`timescale 1ns/1ps
`define WIDTH 8
`ifndef NEVER
`define TWICE(x) ((x) * 2)
`endif
(* keep *) module stage #(parameter W = `WIDTH, parameter [W-1:0] START = 3) (
  input wire clk, input wire rst_n, input signed [W-1:0] d, output reg [W-1:0] q = START
);
  localparam LAST = W - 1;
  function automatic [W-1:0] turned(input [W-1:0] x);
    integer i;
    begin
      turned = 0;
      for (i = 0; i < W; i = i + 1) turned[i] = x[LAST - i];
    end
  endfunction
  always @(posedge clk or negedge rst_n)
    if (!rst_n) q <= START;
    else case (d[1:0])
      2'b00: q <= turned(d);
      2'b01, 2'b10: q <= q + `TWICE(1'b1);
      default: q <= {q[0 +: W/2], ~q[LAST -: W/2]};
    endcase
endmodule

module top(input clk, input rst_n, input [7:0] d, inout [3:0] bus, output [15:0] y, output reg lamp);
  wire [7:0] between [0:1];
  genvar g;
  generate
    for (g = 0; g < 2; g = g + 1) begin : made
      if (g == 0) stage #(.W(8)) one(.clk(clk), .rst_n(rst_n), .d(d), .q(between[g]));
      else stage #(.W(8), .START(8'h5a)) one(.clk, .rst_n, .d(between[0]), .q(between[g]));
    end
  endgenerate
  reg [7:0] store [0:15];
  initial begin store[3] = 8'd7; lamp = 0; end
  always @(posedge clk) begin
    if (d[7]) store[d[3:0]] <= between[1];
    lamp <= ^store[d[3:0]] & |d;
  end
  assign y = {between[1], between[0]} * 16'd3 - ($signed(d) >>> 2);
  assign bus = d[4] ? 4'bzzzz : d[3:0] % 4'd3;
endmodule
