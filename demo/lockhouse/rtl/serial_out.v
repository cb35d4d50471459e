// Sends a byte over a serial line: a start bit, eight data bits lowest first, a stop bit, CLOCKS clocks each.
module serial_out #(
  parameter CLOCKS = 104,         // 12 MHz / 104 = 115 385 bit/s
  parameter BITS = $clog2(CLOCKS)
) (
  input            clk,
  input            rst_n,
  input      [7:0] data,
  input            send,          // for one clock, while not busy
  output           busy,
  output reg       line
);
  reg [8:0]      rest;            // what follows the bit on the line
  reg [3:0]      left;
  reg [BITS-1:0] count;

  assign busy = left != 4'd0;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      line <= 1'b1;
      rest <= 9'd0;
      left <= 4'd0;
      count <= 0;
    end else if (!busy) begin
      line <= !send;
      rest <= {1'b1, data};
      count <= 0;
      if (send) left <= 4'd10;
    end else if (count != CLOCKS - 1) count <= count + 1'b1;
    else begin
      count <= 0;
      left <= left - 1'b1;
      line <= left == 4'd1 || rest[0];
      rest <= {1'b1, rest[8:1]};
    end
endmodule
