// The level as it is shown: it rises or falls by one centimetre a tick. Keeps the last 256 levels.
module chamber #(parameter [11:0] FULL = 12'd400) (
  input             clk,
  input             rst_n,
  input             tick,
  input             fill,
  input             drain,
  output reg [11:0] level,
  output            rising     // higher than 256 ticks ago
);
  reg [11:0] history [0:255];
  reg [7:0]  at;
  reg [11:0] oldest;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) level <= 12'd0;
    else if (tick) begin
      if (fill && level < FULL) level <= level + 1'b1;
      else if (drain && level != 0) level <= level - 1'b1;
    end

  initial at = 0;
  always @(posedge clk) begin
    if (tick) begin
      history[at] <= level;
      at <= at + 1'b1;
    end
    oldest <= history[at];
  end

  assign rising = level > oldest;
endmodule
