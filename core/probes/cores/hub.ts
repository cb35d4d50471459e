/** The hub: one JTAG user register in front of all cores. */
export const hubVerilog = `
// A scan begins with a 1, then a 16-bit command, lowest bit first: register (8), core (4), operation (4).
// Write (1): 32-bit words follow at once. Read (2) and stream (3): 16 bits of pause, then data comes out.
module nimble_hub #(parameter [127:0] PRINT = 0, parameter [31:0] CORES = 0) (
  input             tck,
  input             tdi,
  input             capture,
  input             shift,
  output            tdo,
  output reg [3:0]  bus_core,
  output     [7:0]  bus_reg,
  output     [4:0]  bus_bit,
  output     [31:0] bus_wdata,
  output reg        bus_write,
  output            bus_hold,
  output            stream_load,
  output            stream_next,
  input             bus_rbit,
  input             stream_bit
);
  localparam [1:0] OP_WRITE = 1, OP_READ = 2, OP_STREAM = 3;

  reg [31:0] word = 0;
  // Bits since the leading 1, from 1 on: the command is complete with bit 16, data begins as the count comes to 0 again.
  reg [4:0]  count = 1;
  reg        heard = 0, known = 0, data = 0;
  reg [1:0]  op = 0;
  reg        out = 0;
  // Registers are read one after another within sixteen.
  reg [3:0]  row = 0, register = 0;
  assign bus_reg = {row, register};

  wire [15:0] command = {tdi, word[31:17]};
  // What is read is picked bit by bit where it stands: first a register's low bits. What may change meanwhile is held before.
  assign bus_bit = count;
  assign bus_hold = known && count[4] && !data;
  wire [255:0] own = {PRINT, 64'd0, CORES, 32'h48550001};
  wire own_bit = bus_core == 0 && own[{bus_reg[2:0], count}];
  // A word that is complete rests in the shift register for the edge at which it is taken.
  assign bus_wdata = word;

  initial begin bus_core = 0; bus_write = 0; end
  always @(posedge tck) begin
    bus_write <= shift && known && op == OP_WRITE && count == 16;
    if (capture) begin
      heard <= 0;
      known <= 0;
      data <= 0;
      count <= 1;
    end else if (shift) begin
      word <= {tdi, word[31:1]};
      if (!heard) heard <= tdi;
      else count <= count + 1;
      if (!known && count == 16) begin
        known <= 1;
        {op, bus_core, row, register} <= command[13:0];
      end
      if (known && op != OP_WRITE && count == 0) data <= 1;
      if (data && count == 31) register <= register + 1;
      out <= op == OP_STREAM ? stream_bit : own_bit | bus_rbit;
    end
  end

  assign tdo = out;
  assign stream_load = known && op == OP_STREAM && bus_hold;
  assign stream_next = shift && known && op == OP_STREAM && (data || count == 0);
endmodule
`;
