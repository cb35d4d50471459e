// Lockhouse: controller of a canal lock with one chamber between an upper and a lower pond.
//
//   button 0   a boat waits in the upper pond        switch 0   fast water: the sluices go all the way up
//   button 1   a boat waits in the lower pond        switch 1   show the number of passages instead of the level
//   button 3   reset                                 switch 3   hold: no new passage begins
//
// On the serial line, 115 200 bit/s 8N1, it tells of each passage and takes commands: s state, h hold, g go.
module lockhouse (
  input        clk,        // 12 MHz
  input  [3:0] button,
  input  [3:0] switch,
  input        clk10,      // 10 MHz, the converter's
  output       sck,
  output       cs_n,
  output       mosi,
  input        miso,
  output       motor_sluice_upper,
  output       motor_sluice_lower,
  output       motor_gate_upper,
  output       motor_gate_lower,
  output       motor_wide, // sluices all the way up
  input        rx,         // serial line, from the desk
  output       tx,         // and to it
  output [7:0] lamp,
  output [7:0] segment,
  output [3:0] common
);
  localparam TOP_LEVEL = 12'd400;   // chamber full, in centimetres

  wire rst_n = ~button[3];

  // A free-running counter: its bit n blinks at 12 MHz / 2^(n+1).
  reg [23:0] beat = 0;
  always @(posedge clk) beat <= beat + 1'b1;

  wire        water_tick;
  wire        call_upper, call_lower;
  wire        sluice_upper, sluice_lower, gate_upper, gate_lower;
  wire [11:0] level;                // follows the chamber, smoothed for the display
  wire [11:0] chamber_level, pond_level;
  wire [11:0] level_diff = pond_level - chamber_level;
  wire        rising;
  wire [2:0]  state;
  wire [15:0] passages;
  wire [7:0]  level_trim;           // nothing drives it: a lever may correct the gauge by hand

  wire        held;                 // by a command

  wire [11:0] level_shown = level + level_trim;

  tick #(.PERIOD(60_000), .FAST_PERIOD(6_000)) u_tick (
    .clk(clk), .rst_n(rst_n), .fast(switch[0]), .tick(water_tick)
  );

  debounce #(.BITS(14)) u_upper (.clk(clk), .rst_n(rst_n), .noisy(button[0]), .pressed(call_upper));
  debounce #(.BITS(14)) u_lower (.clk(clk), .rst_n(rst_n), .noisy(button[1]), .pressed(call_lower));

  sequencer u_sequencer (
    .clk(clk), .rst_n(rst_n), .tick(water_tick), .hold(switch[3] | held),
    .call_upper(call_upper), .call_lower(call_lower), .look(&beat[9:0]), .level(chamber_level), .diff(level_diff),
    .sluice_upper(sluice_upper), .sluice_lower(sluice_lower),
    .gate_upper(gate_upper), .gate_lower(gate_lower),
    .state(state), .passages(passages)
  );

  wire [7:0] data;
  wire       low, channel, sent;
  converter u_converter (
    .clk(clk10), .sck(sck), .cs_n(cs_n), .mosi(mosi), .miso(miso),
    .data(data), .low(low), .channel(channel), .sent(sent)
  );
  levels u_levels (
    .clk(clk), .data(data), .low(low), .channel(channel), .sent(sent),
    .chamber(chamber_level), .pond(pond_level)
  );

  chamber #(.FULL(TOP_LEVEL)) u_chamber (
    .clk(clk), .rst_n(rst_n), .tick(water_tick),
    .fill(chamber_level > level), .drain(chamber_level < level), .level(level), .rising(rising)
  );

  reporter u_reporter (
    .clk(clk), .rst_n(rst_n), .rx(rx), .tx(tx), .level(chamber_level), .passages(passages), .held(held)
  );

  display u_display (
    .clk(clk), .rst_n(rst_n),
    .value(switch[1] ? passages : {4'd0, level_shown}), .point(rising),
    .segment(segment), .common(common)
  );

  assign motor_sluice_upper = sluice_upper;
  assign motor_sluice_lower = sluice_lower;
  assign motor_gate_upper = gate_upper;
  assign motor_gate_lower = gate_lower;
  assign motor_wide = switch[0];
  assign lamp = {beat[22], beat[23], state, gate_lower, gate_upper, sluice_upper | sluice_lower};
endmodule
