// Reads the level converter over SPI, the chamber and the upper pond in turn, each every 1.6 ms. A frame is 16 clocks of 625 kHz: the
// first bit out is the channel, the last twelve in are centimetres, highest first. Gives each byte away as soon as it is complete.
module converter (
  input            clk,       // 10 MHz
  output reg       sck,
  output reg       cs_n,
  output reg       mosi,
  input            miso,
  output reg [7:0] data,      // the byte, at rest for 8 bits and longer
  output reg       low,       // it is the low one of two
  output reg       channel,   // 0 the chamber, 1 the upper pond
  output reg       sent       // changes when there is another byte
);
  // Selected for the first eighth of a turn; the clocks begin after 51 us, since the converter wants 40.
  reg [13:0] at = 0;
  reg [6:0]  shift = 0;
  wire clocking = at[12:8] == 5'd2;
  wire rises = clocking && at[3:0] == 4'd7;

  initial begin
    sck = 0;
    cs_n = 1;
    mosi = 0;
    data = 0;
    low = 0;
    channel = 0;
    sent = 0;
  end

  always @(posedge clk) begin
    at <= at + 1'b1;
    cs_n <= at[12:10] != 3'd0;
    mosi <= at[13];
    sck <= clocking && at[3];
    if (rises) begin
      shift <= {shift[5:0], miso};
      if (at[6:4] == 3'd7) begin
        data <= {shift, miso};
        low <= at[7];
        channel <= at[13];
        sent <= ~sent;
      end
    end
  end
endmodule
