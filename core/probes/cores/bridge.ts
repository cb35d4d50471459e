/** The bridge: a serial flash on four pins of the fabric, reached through the hub. */
export const bridgeVerilog = `
// Two edges of TCK a bit of the flash: SCK rises at the first, which is when both sides take a bit, and falls at the second.
// Register 0 selects the chip (bit 0), 1 sends 16 bits, 2 sends 8, highest first; what is streamed out is MISO, each bit
// twice. All of it is under TCK, so a write's last bits leave with the edges of whatever is shifted next.
module nimble_bridge #(parameter CORE = 1) (
  input             tck,
  input  [3:0]      bus_core,
  input  [7:0]      bus_reg,
  input  [4:0]      bus_bit,
  input  [31:0]     bus_wdata,
  input             bus_write,
  input             bus_hold,
  input             stream_load,
  input             stream_next,
  output            bus_rbit,
  output            stream_bit,
  output reg        cs_n,
  output reg        sck,
  output            mosi,
  input             miso
);
  localparam [31:0] KIND = 32'h42520001;

  reg [15:0] word = 0;
  // Edges of SCK that are left of a word.
  reg [5:0]  left = 0;
  reg        got = 0;
  initial begin cs_n = 1; sck = 0; end

  wire mine = bus_core == CORE;
  wire written = mine && bus_write;
  wire sends = written && (bus_reg[2:0] == 1 || bus_reg[2:0] == 2);
  wire reads = mine && stream_next && !cs_n;

  always @(posedge tck) begin
    if (left != 0 || reads) begin
      sck <= ~sck;
      if (!sck) got <= miso;
    end
    if (left != 0) begin
      left <= left - 1;
      if (sck) word <= {word[14:0], 1'b0};
    end
    if (sends) begin
      word <= bus_reg[0] ? bus_wdata[15:0] : {bus_wdata[7:0], 8'd0};
      left <= bus_reg[0] ? 32 : 16;
    end
    if (written && bus_reg[2:0] == 0) begin
      cs_n <= !bus_wdata[0];
      sck <= 0;
      left <= 0;
    end
  end

  assign mosi = word[15];
  assign bus_rbit = mine && bus_reg[2:0] == 0 && KIND[bus_bit];
  assign stream_bit = mine && got;
endmodule
`;
