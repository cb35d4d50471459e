/** The stepper: lets the edges of a clock through to a design, none, all, or so many. */
export const stepperVerilog = `
// Registers and memories of a clock take part in its edges while go is 1; those of falling edges follow it in go_late.
module nimble_stepper #(
  parameter CORE = 1, parameter W = 2, parameter C = 0, parameter HELD = 0
) (
  input             clk,
  input  [W-1:0]    probe,
  output reg        go,
  output reg        go_late,
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
  output            stream_bit
);
  localparam N = C > 0 ? C : 1;
  localparam P = (W + 1) / 2;
  localparam PARTS = (P + 31) / 32;
  // Until a condition holds there is a step in so many clocks: what it has changed is compared before the next one.
  localparam LAST = PARTS + 2;
  localparam [1:0] RUN = 1, UNTIL = 3;

  // ---- under tck: what is asked for; bit 1 of the way says that steps are counted
  reg [31:0] count_next = 0;
  reg [1:0] way_next = HELD ? 0 : RUN;
  reg request = 0;
  reg [2*P-1:0] row = 0;
  reg [N-1:0] chosen = 0, carry = 0, turned = 0;
  wire [2*P-1:0] next_row = {bus_wdata, row} >> 32;
  wire written = bus_core == CORE && bus_write;
  wire to_comparators = written && bus_reg[2:0] == 2;
  always @(posedge tck)
    if (written)
      case (bus_reg[2:0])
        3'd0: count_next <= bus_wdata;
        3'd1: {turned, carry, chosen} <= bus_wdata[3*N-1:0];
        3'd2: row <= next_row;
        3'd3: begin
          way_next <= bus_wdata[2:1];
          request <= request ^ bus_wdata[0];
        end
        default: ;
      endcase

  // ---- under clk: two flip-flops against metastability, a third to see the change
  reg asked_1 = 0, asked_2 = 0, asked_3 = 0;
  wire asked = asked_2 ^ asked_3;
  reg running = !HELD, busy = 0, until = 0;
  reg [31:0] left = 0;
  reg [3:0] beat = 0;
  wire holds;
  wire due = busy && (!until || beat == LAST);
  wire moves = running || (due && !(until && holds));
  initial begin go = !HELD; go_late = !HELD; end
  always @(posedge clk) begin
    asked_1 <= request;
    asked_2 <= asked_1;
    asked_3 <= asked_2;
    go <= moves;
    go_late <= go;
    beat <= busy && beat != LAST ? beat + 1 : 0;
    if (asked) begin
      running <= way_next == RUN;
      busy <= way_next[1] && count_next != 0;
      until <= way_next == UNTIL;
    end else if (due && ((until && holds) || left == 1)) busy <= 0;
    // What is left of the last steps stays to be read where they are broken off.
    if (asked && way_next[1]) left <= count_next;
    else if (moves) left <= left - 1;
  end

  // ---- the condition, of the state as it stands; what it was before the last step, for what changes
  generate
    if (C > 0) begin : condition
      reg [W-1:0] before = 0;
      wire [2*P-1:0] probe_pairs = probe, before_pairs = before;
      wire [C-1:0] hits;
      genvar g;
      for (g = 0; g < C; g = g + 1) begin : comparators
        nimble_comparator #(.P(P), .PARTS(PARTS)) one (
          .clk(clk), .probe(probe_pairs), .last(before_pairs), .tck(tck),
          .write(to_comparators && (C == 1 || chosen[g])), .at(bus_reg[7:4]), .row(next_row),
          .carry(carry[g]), .turned(turned[g]), .hit(hits[g])
        );
      end
      reg holds_of [0:(1 << C) - 1];
      wire to_table = written && bus_reg[2:0] == 5;
      always @(posedge tck) if (to_table) holds_of[bus_wdata[C-1:0]] <= bus_wdata[8];
      assign holds = holds_of[hits];
      always @(posedge clk) if (go) before <= probe;
    end
    else begin : none
      assign holds = 0;
    end
  endgenerate

  // ---- back under tck, held while it is read: whether it was heard, runs, steps, whether the condition holds
  reg [3:0] level = 0, level_1 = 0, level_2 = 0, levels = 0;
  always @(posedge clk) level <= {holds, busy || (!running && (go || go_late)), running, asked_3};
  always @(posedge tck) begin
    level_1 <= level;
    level_2 <= level_1;
    if (bus_hold) levels <= level_2;
  end
  // 0 what it is, 1 how it stands, 2 steps left, which rest once it does.
  wire [127:0] registers = {32'd0, left, 27'd0, request, levels, 32'h53540001};
  assign bus_rbit = bus_core == CORE && registers[{bus_reg[1:0], bus_bit}];
  assign stream_bit = 0;
endmodule
`;
