// A lamp that brightens and fades as a tide does: the level rises and falls, the lamp is lit for that share of the time.
module tide_lamp (
  input            clk,
  input            hold,
  output           lamp,
  output     [3:0] level
);
  reg [11:0] beat = 0;
  reg [7:0]  tide = 0;
  reg        ebb  = 0;
  // A lever gives it a value; without one the tide is as it comes.
  wire [7:0] offset;
  wire [7:0] shown = tide + offset;

  always @(posedge clk) begin
    beat <= beat + 1;
    if (&beat && !hold) begin
      tide <= ebb ? tide - 8'd1 : tide + 8'd1;
      if (tide == 8'd254 && !ebb) ebb <= 1;
      if (tide == 8'd1 && ebb) ebb <= 0;
    end
  end

  assign lamp  = beat[7:0] < shown;
  assign level = shown[7:4];
endmodule
