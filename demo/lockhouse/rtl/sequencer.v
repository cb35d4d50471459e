// Takes boats through the lock: brings the water to the boat's side, opens the gate, lets it in, brings the water to the other side, lets
// it out. A gate opens only at equal levels, which are looked at now and then.
module sequencer (
  input             clk,
  input             rst_n,
  input             tick,
  input             hold,
  input             call_upper,
  input             call_lower,
  input             look,
  input      [11:0] level,       // of the chamber, in centimetres
  input signed [11:0] diff,      // how much higher the upper pond is
  output            sluice_upper,
  output            sluice_lower,
  output            gate_upper,
  output            gate_lower,
  output reg [2:0]  state,
  output reg [15:0] passages
);
  localparam [2:0] REST = 3'd0, RAISE = 3'd1, UPPER_OPEN = 3'd2, LOWER = 3'd3, LOWER_OPEN = 3'd4;

  reg       downward;      // the boat on its way travels from the upper to the lower pond
  reg       entered;       // it is inside the chamber
  reg       want_upper, want_lower;
  reg [8:0] patience;      // ticks a gate stays open

  localparam signed [11:0] NEAR = 12'sd4;

  reg full, empty;
  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      full <= 1'b0;
      empty <= 1'b0;
    end else if (look) begin
      full <= diff <= NEAR;
      empty <= level <= NEAR;
    end

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      state <= REST;
      passages <= 16'd0;
      downward <= 1'b0;
      entered <= 1'b0;
      want_upper <= 1'b0;
      want_lower <= 1'b0;
      patience <= 9'd0;
    end else begin
      if (call_upper) want_upper <= 1'b1;
      if (call_lower) want_lower <= 1'b1;
      case (state)
        REST:
          if (!hold && want_upper) begin
            want_upper <= 1'b0;
            downward <= 1'b1;
            entered <= 1'b0;
            state <= RAISE;
          end else if (!hold && want_lower) begin
            want_lower <= 1'b0;
            downward <= 1'b0;
            entered <= 1'b0;
            state <= LOWER;
          end
        RAISE:
          if (full) begin
            state <= UPPER_OPEN;
            patience <= 9'd200;
          end
        LOWER:
          if (empty) begin
            state <= LOWER_OPEN;
            patience <= 9'd200;
          end
        UPPER_OPEN, LOWER_OPEN:
          if (tick) begin
            patience <= patience - 1'b1;
            if (patience == 9'd0) begin
              if (entered) begin
                passages <= passages + 1'b1;
                state <= REST;
              end else begin
                entered <= 1'b1;
                state <= downward ? LOWER : RAISE;
              end
            end
          end
        default: state <= REST;
      endcase
    end

  assign sluice_upper = state == RAISE && !full;
  assign sluice_lower = state == LOWER && !empty;
  assign gate_upper = state == UPPER_OPEN;
  assign gate_lower = state == LOWER_OPEN;
endmodule
