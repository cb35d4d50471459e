`timescale 1ns/100ps
`define HALF 5
primitive latch(q, d, en); output q; reg q; input d, en;
  table 0 1 : ? : 0; 1 1 : ? : 1; ? 0 : ? : -; endtable
endprimitive
module leaf #(parameter W = 4, parameter NAME = "leaf") (input clk, input [W-1:0] d, output reg [W-1:0] q, inout bus);
  wire x;
  bufif1 (bus, d[0], q[1]);
  nand #(1, 2) g (x, d[0], d[1]);
  latch l (, d[0], clk);
  always @(posedge clk or negedge d[0]) if (!d[0]) q <= 0; else q <= #1 q + {{(W-1){1'b0}}, x};
  specify specparam T = 3; (clk => q) = T; endspecify
endmodule
module tb;
  parameter integer N = 3;
  reg clk = 0, other; reg [7:0] m [0:15]; reg signed [12:0] s; integer i, f; real r; time t; event e;
  reg [8*12:1] text; wire [3:0] q; wire bus; tri1 pulled; wor both; supply1 one;
  leaf #(.W(4)) u (.clk(clk), .d(m[i[3:0]][3:0]), .q(q), .bus(bus));
  defparam u.NAME = "other";
  assign both = clk; assign both = other;
  always #`HALF clk = ~clk;
  function automatic integer sum(input integer n); sum = n <= 0 ? 0 : n + sum(n - 1); endfunction
  task wait_for(input integer n, output [7:0] last); begin repeat (n) @(posedge clk); last = m[n]; end endtask
  initial begin : main
    for (i = 0; i < 16; i = i + 1) m[i] = i * i;
    r = 1.5e3 / 7; t = $time; s = -13'sd5 >>> 1; text = {"a", "b%d"};
    $display("%0d %h %b %s %t %g %m", sum(N), s, m[3], text, $realtime, r);
    $monitor("q=%b at %0t", q, $time);
    fork begin #3 -> e; end begin @e other = 1; end wait (other) $strobe("%b", both); join
    wait_for(N, m[0]);
    casez (m[2]) 8'b0000_01??: force q = 4'bx; 8'h?: release q; default: disable main; endcase
    release q; s[3 +: 4] = 4'bz; m[i] = 8'hxx; f = $fopen("out.txt"); $fdisplay(f, "%d", $random);
    if ($test$plusargs("A") || $value$plusargs("B=%h", i)) $error("no");
    while (i > 14) i = i - 1;
    assign other = clk; #20 deassign other; $readmemh("none.hex", m, 2, 4);
    $finish;
  end
endmodule
