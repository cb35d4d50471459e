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
  output reg [7:0]  bus_reg,
  output     [31:0] bus_wdata,
  output reg        bus_write,
  output            stream_load,
  output            stream_next,
  input      [31:0] bus_rdata,
  input             stream_bit
);
  localparam WAITING = 3'd0, COMMAND = 3'd1, WRITE = 3'd2, PAUSE = 3'd3, DATA = 3'd4;
  localparam [3:0] OP_WRITE = 1, OP_READ = 2, OP_STREAM = 3;

  reg [31:0] word = 0;
  reg [4:0]  count = 0;
  reg [2:0]  phase = WAITING;
  reg [3:0]  op = 0;

  wire [15:0] command = {tdi, word[31:17]};
  reg  [31:0] own;
  always @* begin
    own = 0;
    if (bus_core == 0)
      case (bus_reg)
        8'd0: own = 32'h48550001;
        8'd1: own = CORES;
        8'd4: own = PRINT[31:0];
        8'd5: own = PRINT[63:32];
        8'd6: own = PRINT[95:64];
        8'd7: own = PRINT[127:96];
        default: own = 0;
      endcase
  end
  wire [31:0] answer = own | bus_rdata;
  // A word that is complete rests in the shift register for the edge at which it is taken.
  assign bus_wdata = word;
  wire load = (phase == PAUSE && count == 15) || (phase == DATA && op == OP_READ && count == 31);

  always @(posedge tck) begin
    bus_write <= 0;
    if (capture) begin
      phase <= WAITING;
      op <= 0;
    end else if (shift) begin
      count <= count + 1;
      word <= load ? answer : {tdi, word[31:1]};
      if (load) bus_reg <= bus_reg + 1;
      case (phase)
        WAITING: begin
          count <= 0;
          if (tdi) phase <= COMMAND;
        end
        COMMAND:
          if (count == 15) begin
            {op, bus_core, bus_reg} <= command;
            phase <= command[15:12] == OP_WRITE ? WRITE : PAUSE;
            count <= 0;
          end
        WRITE:
          if (count == 31) bus_write <= 1;
        PAUSE:
          if (count == 15) begin
            phase <= DATA;
            count <= 0;
          end
        default: ;
      endcase
    end
  end

  assign tdo = op == OP_STREAM ? stream_bit : word[0];
  assign stream_load = shift && phase == PAUSE && op == OP_STREAM;
  assign stream_next = shift && phase == DATA && op == OP_STREAM;
endmodule
`;
