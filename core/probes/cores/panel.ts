/** The panel: levers into the design, gauges out of it. */
export const panelVerilog = `
// Levers take effect together on one edge of clk; gauges are taken together on one edge of clk.
module nimble_panel #(
  parameter CORE = 1, parameter LEVERS = 1, parameter ENABLES = 1, parameter GAUGES = 1,
  parameter LEVER_WORDS = 1, parameter ENABLE_WORDS = 1
) (
  input                    clk,
  input      [GAUGES-1:0]  gauge,
  output reg [LEVERS-1:0]  lever,
  output reg [ENABLES-1:0] enable,
  input                    tck,
  input      [3:0]         bus_core,
  input      [7:0]         bus_reg,
  input      [31:0]        bus_wdata,
  input                    bus_write,
  input                    stream_load,
  input                    stream_next,
  output     [31:0]        bus_rdata,
  output                   stream_bit
);
  // ---- under tck: what the levers shall be
  reg [32*LEVER_WORDS-1:0] lever_next = 0;
  reg [32*ENABLE_WORDS-1:0] enable_next = 0;
  // Toggles that ask: set the levers, take the gauges.
  reg [1:0] request = 0;
  wire selected = bus_core == CORE;
  always @(posedge tck)
    if (selected && bus_write)
      case (bus_reg)
        8'd8: lever_next <= {bus_wdata, lever_next} >> 32;
        8'd9: enable_next <= {bus_wdata, enable_next} >> 32;
        8'd11: request <= request ^ bus_wdata[1:0];
        default: ;
      endcase

  // ---- under clk: two flip-flops against metastability, a third to see the change
  reg [1:0] asked_1 = 0, asked_2 = 0, asked_3 = 0;
  wire [1:0] asked = asked_2 ^ asked_3;
  reg [GAUGES-1:0] taken = 0;
  initial begin lever = 0; enable = 0; end
  always @(posedge clk) begin
    asked_1 <= request;
    asked_2 <= asked_1;
    asked_3 <= asked_2;
    if (asked[0]) begin
      lever <= lever_next[LEVERS-1:0];
      enable <= enable_next[ENABLES-1:0];
    end
    if (asked[1]) taken <= gauge;
  end

  // ---- back under tck: the requests, come home, say that they were carried out
  reg [1:0] home_1 = 0, home_2 = 0;
  always @(posedge tck) begin
    home_1 <= asked_3;
    home_2 <= home_1;
  end
  reg [31:0] answer;
  always @*
    case (bus_reg)
      8'd0: answer = 32'h504E0001;
      8'd1: answer = LEVERS;
      8'd2: answer = GAUGES;
      // Bit 1 levers, bit 0 gauges.
      8'd3: answer = {home_2[0] == request[0], home_2[1] == request[1]};
      default: answer = 0;
    endcase
  assign bus_rdata = selected ? answer : 32'd0;

  // ---- read-out: gauges, then levers, then enables. All of them rest meanwhile, so bits are picked where they are.
  wire [GAUGES+LEVERS+ENABLES-1:0] all = {enable, lever, taken};
  reg [13:0] at = 0;
  reg leaving = 0;
  always @(posedge tck)
    if (selected && (stream_load || stream_next)) begin
      leaving <= all >> (stream_load ? 14'd0 : at);
      at <= stream_load ? 14'd1 : at + 1'b1;
    end
  assign stream_bit = selected && leaving;
endmodule
`;
