// Sends boats through the lock and checks the gates. Stands in for the water, the level converter and the people at the
// buttons; dividers are small, so that a passage takes milliseconds.
//   nimble sim demo/lockhouse --testbench lockhouse_tb
`timescale 1ns/1ps
module lockhouse_tb;
  // Clocks of a bit on the serial line: a fast one, so that a message is over soon.
  localparam LINE_CLOCKS = 8;

  reg        clk = 0, clk10 = 0;
  reg  [3:0] button = 4'b1000, switch = 4'b0001;
  wire       sck, cs_n, mosi;
  reg        miso = 0;
  wire       sluice_upper, sluice_lower, gate_upper, gate_lower, wide;
  wire [7:0] lamp, segment;
  wire [3:0] common;
  reg        rx = 1;
  wire       tx;

  lockhouse dut (
    .clk(clk), .button(button), .switch(switch), .clk10(clk10),
    .sck(sck), .cs_n(cs_n), .mosi(mosi), .miso(miso),
    .motor_sluice_upper(sluice_upper), .motor_sluice_lower(sluice_lower),
    .motor_gate_upper(gate_upper), .motor_gate_lower(gate_lower), .motor_wide(wide), .rx(rx), .tx(tx),
    .lamp(lamp), .segment(segment), .common(common)
  );
  defparam dut.u_tick.PERIOD = 600, dut.u_tick.FAST_PERIOD = 60;
  defparam dut.u_upper.BITS = 6, dut.u_lower.BITS = 6;
  defparam dut.u_reporter.CLOCKS = LINE_CLOCKS;
  // Nothing drives the trim inside; here it is held at none.
  initial force dut.level_trim = 8'd0;

  always #41.667 clk = ~clk;     // 12 MHz
  always #50 clk10 = ~clk10;     // 10 MHz

  // The water: 5 cm every 50 us through an open sluice.
  localparam integer POND = 400, STEP = 5;
  integer chamber = 180;
  reg     leaks = 0;
  always #50_000 begin
    if (sluice_upper === 1'b1) chamber = chamber + STEP > POND ? POND : chamber + STEP;
    if (sluice_lower === 1'b1) chamber = chamber < STEP ? 0 : chamber - STEP;
    // A gate in the wall that does not close: +leak
    if (leaks && chamber >= STEP && !sluice_upper) chamber = chamber - STEP;
  end

  // The converter: four zeros, then twelve bits of the channel that is asked for, highest first.
  reg [15:0] word = 0;
  integer    bits = 0;
  always @(negedge cs_n) begin
    bits = 0;
    word = 0;
    miso = 0;
  end
  always @(posedge sck) begin
    if (bits == 0) word = mosi ? POND : chamber;
    bits = bits + 1;
  end
  always @(negedge sck) if (bits < 16) miso = word[15 - bits];

  // What must never be: both gates open, or a gate open while the water stands wrong.
  integer faults = 0, opened = 0;
  task fault(input [8*60:1] what);
    begin
      faults = faults + 1;
      $error("%0s at a level of %0d cm", what, chamber);
    end
  endtask
  always @(posedge gate_upper) begin
    opened = opened + 1;
    $display("%t  upper gate opens at %0d cm", $realtime, chamber);
    if (chamber < POND - 10) fault("the upper gate opened too early");
  end
  always @(posedge gate_lower) begin
    opened = opened + 1;
    $display("%t  lower gate opens at %0d cm", $realtime, chamber);
    if (chamber > 10) fault("the lower gate opened too early");
  end
  // While a gate is open the water has to stand; said once for each opening.
  reg told = 0;
  always @(posedge gate_upper) told = 0;
  always @(chamber)
    if (gate_upper === 1'b1 && chamber < POND - 20 && !told) begin
      told = 1;
      fault("the water fell behind the open upper gate");
    end
  always @(gate_upper or gate_lower)
    if (gate_upper === 1'b1 && gate_lower === 1'b1) fault("both gates are open");

  // The desk at the other end of the serial line: prints what comes, a line at a time, and sends commands.
  localparam real BIT = 83.334 * LINE_CLOCKS;
  reg [8*32:1] heard = 0;
  reg [7:0]    byte_in;
  integer      k;
  always @(negedge tx) begin
    #(BIT / 2);
    if (tx === 1'b0) begin
      for (k = 0; k < 8; k = k + 1) #(BIT) byte_in[k] = tx;
      #(BIT) if (tx !== 1'b1) $error("a byte on the serial line has no stop bit");
      if (byte_in == 8'h0a) begin
        $display("%t  says: %0s", $realtime, heard);
        heard = 0;
      end else if (byte_in != 8'h0d) heard = {heard[8*31:1], byte_in};
    end
  end
  task say(input [7:0] letter);
    integer bit_out;
    begin
      rx = 0;
      for (bit_out = 0; bit_out < 8; bit_out = bit_out + 1) #(BIT) rx = letter[bit_out];
      #(BIT) rx = 1;
      #(40 * BIT);
    end
  endtask

  task press(input integer which);
    begin
      button[which] = 1;
      #40_000 button[which] = 0;
    end
  endtask

  integer boats = 2;
  initial begin
    $timeformat(-6, 1, " us", 12);
    if ($value$plusargs("boats=%d", boats)) $display("%0d boats", boats);
    if ($test$plusargs("leak")) leaks = 1;
    #1_000 button[3] = 0;
    #2_000_000 say("s");
    #2_000_000;
    while (boats > 0) begin
      $display("%t  a boat calls from %0s", $realtime, boats % 2 ? "below" : "above");
      press(boats % 2 ? 1 : 0);
      boats = boats - 1;
      wait (dut.state != 0);
      wait (dut.state == 0);
      $display("%t  it has passed; %0d so far", $realtime, dut.passages);
    end
    // The last passage is told of.
    #200_000;
    $display("%0d gates opened, %0d passages, %0d faults", opened, dut.passages, faults);
    $finish;
  end
endmodule
