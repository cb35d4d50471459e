// Brings the levels from the converter's clock to this one, byte by byte as they come.
module levels (
  input             clk,      // 12 MHz
  input       [7:0] data,
  input             low,
  input             channel,
  input             sent,
  output reg [11:0] chamber,
  output reg [11:0] pond
);
  // The byte rests much longer than its signal takes to arrive, so every byte is whole.
  reg [2:0] arrived = 0;
  wire      arrives = arrived[2] != arrived[1];
  initial begin
    chamber = 0;
    pond = 12'd400;
  end
  always @(posedge clk) begin
    arrived <= {arrived[1:0], sent};
    if (arrives) begin
      if (!channel) begin
        if (low) chamber[7:0] <= data;
        else chamber[11:8] <= data[3:0];
      end else begin
        if (low) pond[7:0] <= data;
        else pond[11:8] <= data[3:0];
      end
    end
  end
endmodule
