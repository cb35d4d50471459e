// Four digits, one lit at a time, each for 2^12 clocks: the value in decimal.
module display (
  input             clk,
  input             rst_n,
  input      [15:0] value,
  input             point,     // lights the point of the last digit
  output reg [7:0]  segment,
  output reg [3:0]  common
);
  reg [13:0] slot;
  reg [3:0]  digit;

  // Eyes are slow: the display takes a step every 16th clock.
  wire step = slot[3:0] == 4'd0;

  // Decimal digits by counting down: one subtraction a step, started anew when the display comes round.
  reg [15:0] rest;
  reg [3:0]  thousands, hundreds, tens;
  reg [15:0] shown;
  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      rest <= 16'd0;
      {thousands, hundreds, tens} <= 12'd0;
      shown <= 16'd0;
    end else if (step) begin
      if (slot == 14'd0) begin
        shown <= {thousands, hundreds, tens, rest[3:0]};
        rest <= value;
        {thousands, hundreds, tens} <= 12'd0;
      end else if (rest >= 16'd1000) begin
        rest <= rest - 16'd1000;
        thousands <= thousands + 1'b1;
      end else if (rest >= 16'd100) begin
        rest <= rest - 16'd100;
        hundreds <= hundreds + 1'b1;
      end else if (rest >= 16'd10) begin
        rest <= rest - 16'd10;
        tens <= tens + 1'b1;
      end
    end

  function [6:0] glyph(input [3:0] d);
    case (d)
      4'd0: glyph = 7'h3f;
      4'd1: glyph = 7'h06;
      4'd2: glyph = 7'h5b;
      4'd3: glyph = 7'h4f;
      4'd4: glyph = 7'h66;
      4'd5: glyph = 7'h6d;
      4'd6: glyph = 7'h7d;
      4'd7: glyph = 7'h07;
      4'd8: glyph = 7'h7f;
      4'd9: glyph = 7'h6f;
      default: glyph = 7'h40;
    endcase
  endfunction

  always @*
    case (slot[13:12])
      2'd0: digit = shown[3:0];
      2'd1: digit = shown[7:4];
      2'd2: digit = shown[11:8];
      default: digit = shown[15:12];
    endcase

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      slot <= 14'd0;
      segment <= 8'd0;
      common <= 4'd0;
    end else begin
      slot <= slot + 1'b1;
      if (step) begin
        segment <= {point && slot[13:12] == 2'd0, glyph(digit)};
        common <= 4'b0001 << slot[13:12];
      end
    end
endmodule
