// One pulse of a single clock every PERIOD clocks, or every FAST_PERIOD when asked to hurry.
module tick #(
  parameter PERIOD = 1000,
  parameter FAST_PERIOD = 100,
  parameter BITS = $clog2(PERIOD)
) (
  input      clk,
  input      rst_n,
  input      fast,
  output reg tick
);
  reg [BITS-1:0] count;
  wire [BITS-1:0] last = fast ? FAST_PERIOD - 1 : PERIOD - 1;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      count <= 0;
      tick <= 1'b0;
    end else if (count >= last) begin
      count <= 0;
      tick <= 1'b1;
    end else begin
      count <= count + 1'b1;
      tick <= 1'b0;
    end
endmodule
