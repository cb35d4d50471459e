// Takes bytes from a serial line, each bit looked at in its middle.
module serial_in #(
  parameter CLOCKS = 104,
  parameter BITS = $clog2(CLOCKS)
) (
  input            clk,
  input            rst_n,
  input            line,
  output reg [7:0] data,
  output reg       got            // for one clock, with a byte that had its stop bit
);
  reg [1:0]      seen;            // the line belongs to no clock of ours
  reg [3:0]      left;
  reg [BITS-1:0] count;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      seen <= 2'b11;
      left <= 4'd0;
      count <= 0;
      data <= 8'd0;
      got <= 1'b0;
    end else begin
      seen <= {seen[0], line};
      got <= 1'b0;
      if (left == 4'd0) begin
        // From the fall to the middle of the start bit.
        count <= CLOCKS / 2;
        if (!seen[1]) left <= 4'd10;
      end else if (count != CLOCKS - 1) count <= count + 1'b1;
      else begin
        count <= 0;
        left <= left - 1'b1;
        if (left == 4'd10 && seen[1]) left <= 4'd0;
        else if (left == 4'd1) got <= seen[1];
        else if (left != 4'd10) data <= {seen[1], data[7:1]};
      end
    end
endmodule
