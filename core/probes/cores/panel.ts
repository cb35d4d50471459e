/** The panel: levers into the design, gauges out of it. */
export const panelVerilog = `
// Levers take effect together on one edge of clk; gauges are taken together on one edge of clk.
module nimble_panel #(
  parameter CORE = 1, parameter LEVERS = 1, parameter ENABLES = 1, parameter GAUGES = 1,
  parameter LEVER_WORDS = 1, parameter ENABLE_WORDS = 1, parameter AT = 1, parameter PULSE = 0, parameter LATCH = 0,
  parameter WORDS = 1, parameter [16*WORDS-1:0] FROM = 0, parameter [16*WORDS-1:0] WIDE = 1
) (
  input                    clk,
  input      [GAUGES-1:0]  gauge,
  output reg [LEVERS-1:0]  lever,
  output reg [ENABLES-1:0] enable,
  input                    tck,
  input      [3:0]         bus_core,
  input      [7:0]         bus_reg,
  input      [4:0]         bus_bit,
  input      [31:0]        bus_wdata,
  input                    bus_write,
  input                    bus_hold,
  input                    stream_load,
  input                    stream_next,
  output                   bus_rbit,
  output                   stream_bit
);
  // ---- under tck: what the levers shall be
  reg [32*LEVER_WORDS-1:0] lever_next = 0;
  reg [32*ENABLE_WORDS-1:0] enable_next = 0;
  // Toggles that ask: set the levers, take the gauges, set the levers for so many cycles.
  reg [2:0] request = 0;
  reg [15:0] count_next = 0;
  wire selected = bus_core == CORE;
  always @(posedge tck)
    if (selected && bus_write)
      case (bus_reg[1:0])
        2'd0: lever_next <= {bus_wdata, lever_next} >> 32;
        2'd1: enable_next <= {bus_wdata, enable_next} >> 32;
        2'd2: count_next <= bus_wdata[15:0];
        2'd3: request <= request ^ bus_wdata[2:0];
        default: ;
      endcase

  // ---- under clk: two flip-flops against metastability, a third to see the change
  reg [2:0] asked_1 = 0, asked_2 = 0, asked_3 = 0;
  wire [2:0] asked = asked_2 ^ asked_3;
  reg [GAUGES-1:0] taken = 0;
  wire pulses, ends;
  wire [LEVERS-1:0] lever_back;
  wire [ENABLES-1:0] enable_back;
  initial begin lever = 0; enable = 0; end
  always @(posedge clk) begin
    asked_1 <= request;
    asked_2 <= asked_1;
    asked_3 <= asked_2;
    if (asked[0] || pulses) begin
      lever <= lever_next[LEVERS-1:0];
      enable <= enable_next[ENABLES-1:0];
    end else if (ends) begin
      lever <= lever_back;
      enable <= enable_back;
    end
    if (asked[1]) taken <= gauge;
  end

  // ---- a pulse: what the levers were before comes back behind so many cycles
  generate
    if (PULSE) begin : pulse
      reg [LEVERS-1:0] lever_was = 0;
      reg [ENABLES-1:0] enable_was = 0;
      reg [15:0] left = 0;
      assign pulses = asked[2];
      assign ends = left == 1;
      assign lever_back = lever_was;
      assign enable_back = enable_was;
      always @(posedge clk) begin
        // Of pulses that follow each other at once, what was before the first one.
        if (pulses && left == 0) begin
          lever_was <= lever;
          enable_was <= enable;
        end
        if (pulses) left <= count_next;
        else if (asked[0]) left <= 0;
        else if (left != 0) left <= left - 1;
      end
    end else begin : steady
      assign pulses = 0;
      assign ends = 0;
      assign lever_back = lever;
      assign enable_back = enable;
    end
  endgenerate

  // ---- what rose and what fell since the gauges were taken last, and at how many edges each gauge was another one, up
  // to 255; taken together with them
  localparam ACTIVITY = LATCH ? 2*GAUGES + 8*WORDS : 0;
  wire [2*GAUGES+8*WORDS-1:0] activity;
  genvar g;
  generate
    if (LATCH) begin : latched
      reg [GAUGES-1:0] before = 0;
      reg seen = 0;
      reg [2*GAUGES-1:0] since = 0, told = 0;
      wire [2*GAUGES-1:0] now = {~gauge & before, gauge & ~before};
      wire [8*WORDS-1:0] counts_told;
      assign activity = {counts_told, told};
      for (g = 0; g < WORDS; g = g + 1) begin : words
        localparam LO = FROM[16*g +: 16], W = WIDE[16*g +: 16];
        wire differs = seen && gauge[LO +: W] != before[LO +: W];
        reg [7:0] count = 0, count_told = 0;
        assign counts_told[8*g +: 8] = count_told;
        always @(posedge clk) begin
          if (asked[1]) count <= differs;
          else if (differs && count != 255) count <= count + 1;
          if (asked[1]) count_told <= count;
        end
      end
      always @(posedge clk) begin
        before <= gauge;
        // Before the first edge there was no level to come from.
        seen <= 1;
        since <= (asked[1] ? 0 : since) | (seen ? now : 0);
        if (asked[1]) told <= since;
      end
    end else begin : unlatched
      assign activity = 0;
    end
  endgenerate

  // ---- back under tck: the requests, come home, say that they were carried out
  reg [2:0] home_1 = 0, home_2 = 0, home = 0;
  always @(posedge tck) begin
    home_1 <= asked_3;
    home_2 <= home_1;
    if (bus_hold) home <= home_2;
  end
  // Register 0 what it is, 3 bit 1 levers, bit 0 gauges.
  wire [31:0] kind = 32'h504E0001;
  wire [1:0] homes = {home[0] == request[0] && home[2] == request[2], home[1] == request[1]};
  assign bus_rbit = selected && (bus_reg[1:0] == 0 ? kind[bus_bit] : bus_bit < 2 && homes[bus_bit[0]]);

  // ---- read-out: gauges, levers, enables, then what rose, what fell and how often. All of it rests meanwhile, so bits
  // are picked where they are.
  wire [3*GAUGES+8*WORDS+LEVERS+ENABLES-1:0] every = {activity, enable, lever, taken};
  wire [GAUGES+ACTIVITY+LEVERS+ENABLES-1:0] all = every[GAUGES+ACTIVITY+LEVERS+ENABLES-1:0];
  reg [AT-1:0] at = 0;
  always @(posedge tck)
    if (stream_load) at <= 0;
    else if (stream_next) at <= at + 1'b1;
  assign stream_bit = selected && all[at];
endmodule
`;
