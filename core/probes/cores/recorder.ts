/** The recorder: stores samples of its word around the moment a sequence of conditions has come true. */
export const recorderVerilog = `
// Everything under clk runs on the sampling clock, everything under tck on JTAG's. What crosses is either a toggle through two
// flip-flops, a level that changes rarely, a Gray count, or a setting that rests while it is used.
module nimble_comparator #(parameter W = 4) (
  input             clk,
  input  [W-1:0]    probe,
  input  [W-1:0]    last,
  input             moved,
  input             tck,
  input             write,
  input  [7:0]      bus_reg,
  input  [31:0]     bus_wdata,
  output reg        hit
);
  // Words come low first and leave the last W bits of what was sent; the value has no bit outside the mask.
  reg [W-1:0] value = 0;
  reg [W-1:0] mask = 0;
  reg to_last = 0, if_same = 0, if_below = 0, if_not = 0;
  always @(posedge tck)
    if (write)
      case (bus_reg)
        8'd8: value <= {bus_wdata, value} >> 32;
        8'd9: mask <= {bus_wdata, mask} >> 32;
        8'd15: {to_last, if_not, if_below, if_same} <= bus_wdata[3:0];
        default: ;
      endcase

  // A change is a difference from the sample before; a bit that fell is below it, one that rose is neither below nor equal.
  wire [W-1:0] field = probe & mask;
  wire [W-1:0] other = to_last ? last & mask : value;
  wire same = field == other;
  wire below = field < other;
  initial hit = 0;
  // Nothing can change while nothing has moved in this sample and the one before.
  always @(posedge clk) if (moved) hit <= ((same & if_same) | (below & if_below)) ^ if_not;
endmodule

module nimble_recorder #(
  parameter CORE = 1, parameter W = 4, parameter [W-1:0] LATE = 0, parameter LOG_DEPTH = 4,
  parameter C = 1, parameter S = 1, parameter Q = 0, parameter G = 0
) (
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
  localparam T = 1 << C;
  // A stored word: the sample; where chosen samples are kept, when it was taken; where the buffer can be divided, whether it triggered.
  localparam B = W + (Q ? 32 : 0) + (G ? 1 : 0);
  localparam [7:0] COMPARATORS = C, STAGES = S, DEPTH = LOG_DEPTH;
  localparam [15:0] SAMPLE_BITS = W, WORD_BITS = B;
  localparam [2:0] LOG_SEGMENTS = G;
  localparam QUALIFIES = Q != 0;

  // ---- settings, written under tck, at rest while the recorder is armed
  reg [7:0] select = 0;
  reg [T*S-1:0] table_of = 0;
  reg [16*S-1:0] times_of = 0;
  reg [S-1:0] row_of = 0;
  reg [20*S-1:0] within_of = 0;
  reg [2*S-1:0] otherwise_of = 0;
  reg [1:0] last_stage = 0;
  reg [LOG_DEPTH-1:0] before = 0;
  reg [LOG_DEPTH-1:0] offset = 0;
  reg [T-1:0] keep_of = 0;
  // One segment's addresses, as ones: all of them as long as the buffer is one.
  reg [LOG_DEPTH-1:0] span = ~0;
  reg [4:0] last_segment = 0;
  // Toggles that ask: arm, stop, look, trigger now.
  reg [3:0] request = 0;
  wire selected = bus_core == CORE;
  wire written = selected && bus_write;
  integer k;
  always @(posedge tck)
    if (written) begin
      case (bus_reg)
        8'd10: before <= bus_wdata[LOG_DEPTH-1:0];
        8'd11: request <= request ^ bus_wdata[3:0];
        8'd12: offset <= bus_wdata[LOG_DEPTH-1:0];
        8'd13: select <= bus_wdata[7:0];
        8'd19: last_stage <= bus_wdata[1:0];
        8'd20: if (Q != 0) keep_of <= bus_wdata[T-1:0];
        8'd21: if (G != 0) begin
          span <= bus_wdata[LOG_DEPTH-1:0];
          last_segment <= bus_wdata[20:16];
        end
        default: ;
      endcase
      for (k = 0; k < S; k = k + 1)
        if (select == k)
          case (bus_reg)
            8'd16: table_of[T*k +: T] <= bus_wdata[T-1:0];
            8'd17: begin
              times_of[16*k +: 16] <= bus_wdata[15:0];
              row_of[k] <= bus_wdata[31];
            end
            8'd18: begin
              within_of[20*k +: 20] <= bus_wdata[19:0];
              otherwise_of[2*k +: 2] <= bus_wdata[25:24];
            end
            default: ;
          endcase
    end

  // ---- signals of other clocks come in through two registers of this one
  reg [W-1:0] late_1 = 0, late_2 = 0;
  always @(posedge clk) begin
    late_1 <= probe & LATE;
    late_2 <= late_1;
  end
  wire [W-1:0] seen_word = (probe & ~LATE) | late_2;

  // ---- sampling; a hit belongs to the sample that is held beside it
  // Two flip-flops against metastability, a third to see the change.
  reg [3:0] asked_1 = 0, asked_2 = 0, asked_3 = 0;
  wire [3:0] asked = asked_2 ^ asked_3;
  reg [W-1:0] sample = 0;
  // Settings may be new when it is armed, so that counts as a movement.
  wire moves = seen_word != sample || asked[0];
  reg moved_before = 0;
  always @(posedge clk) moved_before <= moves;
  wire [C-1:0] hits;
  genvar g;
  generate
    for (g = 0; g < C; g = g + 1) begin : comparators
      nimble_comparator #(.W(W)) one (
        .clk(clk), .probe(seen_word), .last(sample), .moved(moves || moved_before), .tck(tck),
        .write(written && select == g), .bus_reg(bus_reg), .bus_wdata(bus_wdata), .hit(hits[g])
      );
    end
  endgenerate

  // ---- the stage that is waited for
  // A recorder of one stage needs nothing that tells stages apart.
  reg [1:0] stage_count = 0;
  wire [1:0] stage = S == 1 ? 2'd0 : stage_count;
  reg [15:0] times = 0;
  reg [19:0] age = 0;
  reg [T-1:0] table_now;
  reg [15:0] times_now;
  reg [19:0] within_now;
  reg [1:0] otherwise_now;
  reg in_a_row;
  integer s;
  always @* begin
    {table_now, times_now, within_now, otherwise_now, in_a_row} = 0;
    for (s = 0; s < S; s = s + 1)
      if (stage == s) begin
        table_now = table_of[T*s +: T];
        times_now = times_of[16*s +: 16];
        within_now = within_of[20*s +: 20];
        otherwise_now = otherwise_of[2*s +: 2];
        in_a_row = row_of[s];
      end
  end
  wire true_now = table_now >> hits;
  wire complete = true_now && times == times_now;
  wire late = S != 1 && within_now != 0 && age + 1 == within_now;

  reg [2:0] state = IDLE;
  reg [LOG_DEPTH-1:0] write_at = 0;
  reg [LOG_DEPTH-1:0] left = 0;
  reg [4:0] segment = 0;
  reg [31:0] stamp = 0;
  reg forced = 0;
  wire recording = state == FILL || state == WAIT || state == POST;
  wire arming = asked[0];
  wire [T-1:0] kept = keep_of >> hits;
  wire keeps = Q == 0 || kept[0];
  wire triggers = state == WAIT && (forced || (complete && (S == 1 || stage == last_stage)));
  // The sample that triggers is stored in any case.
  wire storing = recording && (keeps || triggers);
  wire filled = (state == POST && keeps && left == 1) || (triggers && before == span);
  wire next_segment = G != 0 && filled && segment != last_segment;
  wire [B-1:0] stored;
  generate
    if (Q != 0 && G != 0) begin : stored_with_both assign stored = {triggers, stamp, sample}; end
    else if (Q != 0) begin : stored_with_time assign stored = {stamp, sample}; end
    else if (G != 0) begin : stored_with_mark assign stored = {triggers, sample}; end
    else begin : stored_alone assign stored = sample; end
  endgenerate
  reg [B-1:0] buffer [0:(1 << LOG_DEPTH) - 1];
  always @(posedge clk) begin
    asked_1 <= request;
    asked_2 <= asked_1;
    asked_3 <= asked_2;
    sample <= seen_word;
    stamp <= stamp + 1;
    if (storing) begin
      buffer[write_at] <= stored;
      if (G == 0) write_at <= write_at + 1;
      else if (next_segment) write_at <= (write_at | span) + 1;
      else write_at <= (write_at & ~span) | ((write_at + 1) & span);
    end
    case (state)
      FILL:
        if (keeps) begin
          left <= left - 1;
          if (left == 1) state <= WAIT;
        end
      WAIT: begin
        age <= age + 1;
        if (true_now) times <= times + 1;
        else if (in_a_row) times <= 0;
        if (complete) begin
          times <= 0;
          age <= 0;
          stage_count <= stage + 1;
        end else if (late) begin
          times <= 0;
          age <= 0;
          stage_count <= otherwise_now;
        end
        if (triggers) begin
          left <= span & ~before;
          state <= POST;
          forced <= 0;
        end
      end
      POST: if (keeps) left <= left - 1;
      default: ;
    endcase
    if (asked[3]) forced <= recording;
    if (filled) state <= DONE;
    if (next_segment) segment <= segment + 1;
    if (arming) begin
      segment <= 0;
      stamp <= 0;
      forced <= 0;
      if (G != 0) write_at <= 0;
    end
    if (arming || next_segment) begin
      left <= before;
      state <= before == 0 ? WAIT : FILL;
      stage_count <= 0;
      times <= 0;
      age <= 0;
    end
    if (asked[1]) state <= IDLE;
  end

  // ---- how often each comparator was true since arming; what is asked for rests until it is asked for again
  reg [24*C-1:0] seen = 0, seen_held = 0;
  reg [C-1:0] hits_held = 0;
  reg [1:0] stage_held = 0;
  reg [4:0] segment_held = 0;
  reg [LOG_DEPTH-1:0] left_held = 0;
  integer n;
  always @(posedge clk) begin
    for (n = 0; n < C; n = n + 1)
      if (arming) seen[24*n +: 24] <= 0;
      else if (recording && hits[n]) seen[24*n +: 24] <= seen[24*n +: 24] + 1;
    if (asked[2]) begin
      seen_held <= seen;
      hits_held <= hits;
      stage_held <= stage;
      segment_held <= segment;
      left_held <= left;
    end
  end

  reg [TICKS-1:0] ticks = 0, gray = 0;
  always @(posedge clk) begin
    ticks <= ticks + 1;
    gray <= ticks ^ (ticks >> 1);
  end

  // ---- back under tck
  // The look that was taken, then filling, waiting, triggered, done as one bit each.
  reg [4:0] level = 0;
  always @(posedge clk) level <= {asked_3[2], 4'b1000 >> (state - 3'd1)};
  reg [4:0] level_1 = 0, level_2 = 0;
  reg [TICKS-1:0] gray_1 = 0, gray_2 = 0;
  always @(posedge tck) begin
    level_1 <= level;
    level_2 <= level_1;
    gray_1 <= gray;
    gray_2 <= gray_1;
  end

  reg [31:0] answer;
  integer m;
  always @* begin
    case (bus_reg)
      8'd0: answer = 32'h52430004;
      8'd1: answer = {WORD_BITS, SAMPLE_BITS};
      8'd2: answer = {4'd0, LOG_SEGMENTS, QUALIFIES, STAGES, COMPARATORS, DEPTH};
      8'd3: answer = {request[2], level_2};
      8'd4: answer = gray_2;
      8'd5: answer = {segment_held, 6'd0, stage_held, 3'd0, 5'd0 | hits_held};
      8'd6: answer = left_held;
      default: answer = 0;
    endcase
    for (m = 0; m < C; m = m + 1) if (bus_reg == 32 + m) answer = seen_held[24*m +: 24];
  end
  assign bus_rdata = selected ? answer : 32'd0;

  // ---- read-out: one bit a tck; the next sample is fetched while the last one leaves
  reg [LOG_DEPTH-1:0] read_at = 0;
  reg [B-1:0] fetched = 0, leaving = 0;
  reg [15:0] bit_count = 0;
  always @(posedge tck) begin
    fetched <= buffer[read_at];
    if (selected && stream_load) begin
      // A divided buffer is read as it lies: its triggers are marked.
      read_at <= G != 0 ? offset : write_at + offset;
      leaving <= fetched;
      bit_count <= 0;
    end else if (selected && stream_next) begin
      if (bit_count == 0) read_at <= read_at + 1;
      if (bit_count == B - 1) begin
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
