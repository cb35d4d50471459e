// Tells over the serial line what happens, and takes commands of one letter: s state, h hold, g go.
module reporter #(
  parameter CLOCKS = 104
) (
  input             clk,
  input             rst_n,
  input             rx,
  output            tx,
  input      [11:0] level,
  input      [15:0] passages,
  output reg        held          // no new passage begins
);
  // Messages one behind the other. A zero ends one; a one stands for the number, in four digits.
  localparam LENGTH = 64;
  localparam [5:0] BANNER = 6'd0, PASSAGE = 6'd20, STATE = 6'd32, HOLD = 6'd45, GO = 6'd52, WHAT = 6'd57;
  localparam [8*LENGTH-1:0] TEXT = {
    "Lockhouse 7 ready", 24'h0d0a00,
    "passage ", 32'h010d0a00,
    "level ", 8'h01, " cm", 24'h0d0a00,
    "hold", 24'h0d0a00,
    "go", 24'h0d0a00,
    "?", 24'h0d0a00,
    24'd0
  };
  reg [7:0] text [0:LENGTH-1];
  integer i;
  initial for (i = 0; i < LENGTH; i = i + 1) text[i] = TEXT[8*(LENGTH-1-i) +: 8];

  wire [7:0] command;
  wire       got;
  serial_in #(.CLOCKS(CLOCKS)) u_in (.clk(clk), .rst_n(rst_n), .line(rx), .data(command), .got(got));

  reg  [5:0]  at;
  reg         talks, begun;
  reg         asked;              // a command came and was not answered yet
  reg  [7:0]  letter;
  reg  [15:0] told;               // passages that were told of
  reg  [15:0] number, digits;
  reg  [4:0]  steps;              // of turning the number into digits
  reg  [1:0]  place;
  wire        busy;
  wire [7:0]  char = text[at];
  wire        isNumber = char == 8'd1;
  wire        send = talks && steps == 5'd0 && !busy && char != 8'd0;

  serial_out #(.CLOCKS(CLOCKS)) u_out (
    .clk(clk), .rst_n(rst_n), .data(isNumber ? {4'h3, digits[15:12]} : char), .send(send), .busy(busy), .line(tx)
  );

  // A decimal digit of five and more carries when it is doubled.
  function [3:0] carried(input [3:0] digit);
    carried = digit >= 4'd5 ? digit + 4'd3 : digit;
  endfunction
  wire [15:0] ready = {carried(digits[15:12]), carried(digits[11:8]), carried(digits[7:4]), carried(digits[3:0])};

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      at <= BANNER;
      talks <= 1'b0;
      begun <= 1'b0;
      told <= 16'd0;
      number <= 16'd0;
      digits <= 16'd0;
      steps <= 5'd0;
      place <= 2'd0;
      held <= 1'b0;
      asked <= 1'b0;
      letter <= 8'd0;
    end else begin
      // Ends of lines ask nothing.
      if (got && command != 8'h0a && command != 8'h0d) begin
        asked <= 1'b1;
        letter <= command;
      end
      if (!talks) begin
        digits <= 16'd0;
        place <= 2'd0;
        if (!begun) begin
          begun <= 1'b1;
          talks <= 1'b1;
          at <= BANNER;
        end else if (asked) begin
          asked <= 1'b0;
          talks <= 1'b1;
          number <= {4'd0, level};
          steps <= 5'd16;
          case (letter)
            "s": at <= STATE;
            "h": at <= HOLD;
            "g": at <= GO;
            default: at <= WHAT;
          endcase
          if (letter == "h") held <= 1'b1;
          if (letter == "g") held <= 1'b0;
        end else if (told != passages) begin
          talks <= 1'b1;
          told <= passages;
          number <= passages;
          steps <= 5'd16;
          at <= PASSAGE;
        end
      end else if (steps != 5'd0) begin
        {digits, number} <= {ready[14:0], number, 1'b0};
        steps <= steps - 1'b1;
      end else if (char == 8'd0) talks <= busy;
      else if (send) begin
        if (isNumber) begin
          digits <= {digits[11:0], 4'd0};
          place <= place + 1'b1;
        end
        if (!isNumber || place == 2'd3) at <= at + 1'b1;
      end
    end
endmodule
