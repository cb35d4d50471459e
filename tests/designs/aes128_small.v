// AES-128 encryption with four S-boxes: five clock cycles a round, one for the key and one for each column. FIPS 197.
module aes128_small (
  input              clk,
  input              start,
  input  [127:0]     key,
  input  [127:0]     plain,
  output reg [127:0] cipher,
  output reg         done = 1'b0
);
  // FIPS 197, 4.2: multiplication modulo x^8 + x^4 + x^3 + x + 1
  function automatic [7:0] mul (input [7:0] x, input [7:0] y);
    reg [7:0] p;
    integer   i;
    begin
      mul = 8'd0;
      p = x;
      for (i = 0; i < 8; i = i + 1) begin
        if (y[i]) mul = mul ^ p;
        p = {p[6:0], 1'b0} ^ (p[7] ? 8'h1b : 8'h00);
      end
    end
  endfunction

  // 5.1.1: the inverse is the 254th power, then the affine transformation
  function automatic [7:0] affine (input [7:0] x);
    reg [7:0] v, power;
    integer   i;
    begin
      v = 8'd1;
      power = x;
      for (i = 1; i < 8; i = i + 1) begin
        power = mul(power, power);
        v = mul(v, power);
      end
      affine = v ^ {v[6:0], v[7]} ^ {v[5:0], v[7:6]} ^ {v[4:0], v[7:5]} ^ {v[3:0], v[7:4]} ^ 8'h63;
    end
  endfunction

  reg [7:0] box [0:255];
  integer n;
  initial for (n = 0; n < 256; n = n + 1) box[n] = affine(n);

  reg [127:0] state, round_key;
  reg [95:0]  fresh;              // columns of the next state, as far as they are there
  reg [3:0]   round = 4'd0;
  reg [2:0]   step = 3'd0;
  reg [7:0]   rcon;

  // Byte r of column c is byte 4c + r from the left; row r comes from r columns further on (5.1.2).
  function [7:0] at (input [127:0] word, input [1:0] c, input [1:0] r);
    at = word[8 * (15 - {c, r}) +: 8];
  endfunction
  wire [1:0] column = step[1:0] - 2'd1;
  wire       isKey = step == 3'd0;
  wire [7:0] in0 = isKey ? round_key[23:16] : at(state, column, 2'd0);
  wire [7:0] in1 = isKey ? round_key[15:8]  : at(state, column + 2'd1, 2'd1);
  wire [7:0] in2 = isKey ? round_key[7:0]   : at(state, column + 2'd2, 2'd2);
  wire [7:0] in3 = isKey ? round_key[31:24] : at(state, column + 2'd3, 2'd3);
  wire [7:0] s0 = box[in0], s1 = box[in1], s2 = box[in2], s3 = box[in3];

  // 5.1.3: twice a byte, and what a column becomes
  function [7:0] twice (input [7:0] x);
    twice = {x[6:0], 1'b0} ^ (x[7] ? 8'h1b : 8'h00);
  endfunction
  wire [31:0] mixed = {
    twice(s0) ^ twice(s1) ^ s1 ^ s2 ^ s3,
    s0 ^ twice(s1) ^ twice(s2) ^ s2 ^ s3,
    s0 ^ s1 ^ twice(s2) ^ twice(s3) ^ s3,
    twice(s0) ^ s0 ^ s1 ^ s2 ^ twice(s3)
  };
  wire [31:0] own = round_key[32 * (2'd3 - column) +: 32];
  wire [31:0] made = (round == 4'd10 ? {s0, s1, s2, s3} : mixed) ^ own;

  wire [31:0] k0 = round_key[127:96] ^ {s0 ^ rcon, s1, s2, s3};
  wire [31:0] k1 = round_key[95:64] ^ k0;
  wire [31:0] k2 = round_key[63:32] ^ k1;

  always @(posedge clk) begin
    done <= 1'b0;
    if (start) begin
      state     <= plain ^ key;
      round_key <= key;
      rcon      <= 8'h01;
      round     <= 4'd1;
      step      <= 3'd0;
    end else if (round != 4'd0) begin
      step <= step == 3'd4 ? 3'd0 : step + 3'd1;
      if (isKey) begin
        round_key <= {k0, k1, k2, round_key[31:0] ^ k2};
        rcon      <= twice(rcon);
      end else fresh <= {fresh[63:0], made};
      if (step == 3'd4) begin
        state <= {fresh, made};
        round <= round == 4'd10 ? 4'd0 : round + 4'd1;
        if (round == 4'd10) begin
          cipher <= {fresh, made};
          done   <= 1'b1;
        end
      end
    end
  end
endmodule
