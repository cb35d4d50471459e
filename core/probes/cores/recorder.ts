/** The recorder: stores samples of its word around the moment a comparison holds. */
export const recorderVerilog = `
// Everything under clk runs on the sampling clock, everything under tck on JTAG's. What crosses is either a toggle through two
// flip-flops, a level that changes rarely, a Gray count, or a setting that rests while it is used.
module nimble_recorder #(parameter CORE = 1, parameter W = 4, parameter WORDS = 1, parameter LOG_DEPTH = 4) (
  input             clk,
  input  [W-1:0]    probe,
  input             tck,
  input  [3:0]      bus_core,
  input  [7:0]      bus_reg,
  input  [31:0]     bus_wdata,
  input             bus_write,
  input             stream_load,
  input             stream_next,
  output [31:0]     bus_rdata,
  output            stream_bit
);
  localparam IDLE = 3'd0, FILL = 3'd1, WAIT = 3'd2, POST = 3'd3, DONE = 3'd4;
  localparam TICKS = 20;

  // ---- settings, written under tck, at rest while the recorder is armed
  reg [32*WORDS-1:0] value = 0;
  reg [32*WORDS-1:0] mask = 0;
  reg [LOG_DEPTH-1:0] before = 0;
  reg [LOG_DEPTH-1:0] offset = 0;
  reg arm_request = 0, stop_request = 0;
  wire selected = bus_core == CORE;
  wire written = selected && bus_write;
  always @(posedge tck)
    if (written)
      case (bus_reg)
        8'd8: value <= {bus_wdata, value} >> 32;
        8'd9: mask <= {bus_wdata, mask} >> 32;
        8'd10: before <= bus_wdata[LOG_DEPTH-1:0];
        8'd11: begin
          if (bus_wdata[0]) arm_request <= ~arm_request;
          if (bus_wdata[1]) stop_request <= ~stop_request;
        end
        8'd12: offset <= bus_wdata[LOG_DEPTH-1:0];
        default: ;
      endcase

  // ---- sampling
  reg [2:0] arm_sync = 0, stop_sync = 0;
  reg [W-1:0] sample = 0;
  reg match = 0;
  reg [2:0] state = IDLE;
  reg [LOG_DEPTH-1:0] write_at = 0;
  reg [LOG_DEPTH-1:0] left = 0;
  wire storing = state == FILL || state == WAIT || state == POST;
  reg [W-1:0] buffer [0:(1 << LOG_DEPTH) - 1];
  always @(posedge clk) begin
    arm_sync <= {arm_sync[1:0], arm_request};
    stop_sync <= {stop_sync[1:0], stop_request};
    sample <= probe;
    match <= ((probe ^ value[W-1:0]) & mask[W-1:0]) == 0;
    if (storing) begin
      buffer[write_at] <= sample;
      write_at <= write_at + 1;
    end
    case (state)
      FILL: begin
        left <= left - 1;
        if (left == 1) state <= WAIT;
      end
      WAIT:
        if (match) begin
          left <= ~before;
          state <= &before ? DONE : POST;
        end
      POST: begin
        left <= left - 1;
        if (left == 1) state <= DONE;
      end
      default: ;
    endcase
    if (arm_sync[2] != arm_sync[1]) begin
      left <= before;
      state <= before == 0 ? WAIT : FILL;
    end
    if (stop_sync[2] != stop_sync[1]) state <= IDLE;
  end

  reg [TICKS-1:0] ticks = 0, gray = 0;
  always @(posedge clk) begin
    ticks <= ticks + 1;
    gray <= ticks ^ (ticks >> 1);
  end

  // ---- back under tck
  reg waiting_level = 0, triggered_level = 0, done_level = 0, filling_level = 0;
  always @(posedge clk) begin
    filling_level <= state == FILL;
    waiting_level <= state == WAIT;
    triggered_level <= state == POST;
    done_level <= state == DONE;
  end
  reg [3:0] level_1 = 0, level_2 = 0;
  reg [TICKS-1:0] gray_1 = 0, gray_2 = 0;
  always @(posedge tck) begin
    level_1 <= {filling_level, waiting_level, triggered_level, done_level};
    level_2 <= level_1;
    gray_1 <= gray;
    gray_2 <= gray_1;
  end

  reg [31:0] answer;
  always @*
    case (bus_reg)
      8'd0: answer = 32'h52430001;
      8'd1: answer = W;
      8'd2: answer = LOG_DEPTH;
      8'd3: answer = level_2;
      8'd4: answer = gray_2;
      default: answer = 0;
    endcase
  assign bus_rdata = selected ? answer : 32'd0;

  // ---- read-out: one bit a tck; the next sample is fetched while the last one leaves
  reg [LOG_DEPTH-1:0] read_at = 0;
  reg [W-1:0] fetched = 0, leaving = 0;
  reg [15:0] bit_count = 0;
  always @(posedge tck) begin
    fetched <= buffer[read_at];
    if (selected && stream_load) begin
      read_at <= write_at + offset;
      leaving <= fetched;
      bit_count <= 0;
    end else if (selected && stream_next) begin
      if (bit_count == 0) read_at <= read_at + 1;
      if (bit_count == W - 1) begin
        leaving <= fetched;
        bit_count <= 0;
      end else begin
        leaving <= leaving >> 1;
        bit_count <= bit_count + 1;
      end
    end
  end
  assign stream_bit = selected && leaving[0];
endmodule
`;
