// AES-128 encryption, a round a clock cycle, the S-box computed in its field. FIPS 197.
module aes128 (
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
  function automatic [7:0] sbox (input [7:0] x);
    reg [7:0] x2, x3, x12, x15, x240, v;
    begin
      x2   = mul(x, x);
      x3   = mul(x2, x);
      x12  = mul(mul(x3, x3), mul(x3, x3));
      x15  = mul(x12, x3);
      x240 = mul(x15, x15);
      x240 = mul(x240, x240);
      x240 = mul(x240, x240);
      x240 = mul(x240, x240);
      v    = mul(mul(x240, x12), x2);
      sbox = v ^ {v[6:0], v[7]} ^ {v[5:0], v[7:6]} ^ {v[4:0], v[7:5]} ^ {v[3:0], v[7:4]} ^ 8'h63;
    end
  endfunction

  reg [127:0] state, round_key;
  reg [3:0]   round = 4'd0;
  reg [7:0]   rcon;

  wire [127:0] sub, shifted, mixed;
  genvar c, r;
  generate
    for (c = 0; c < 4; c = c + 1) begin : column
      for (r = 0; r < 4; r = r + 1) begin : row
        // byte r of column c is byte 4c + r from the left
        assign sub[8 * (15 - (4 * c + r)) +: 8] = sbox(state[8 * (15 - (4 * c + r)) +: 8]);
        assign shifted[8 * (15 - (4 * c + r)) +: 8] = sub[8 * (15 - (4 * ((c + r) % 4) + r)) +: 8];
        assign mixed[8 * (15 - (4 * c + r)) +: 8] =
          mul(8'd2, shifted[8 * (15 - (4 * c + r)) +: 8]) ^
          mul(8'd3, shifted[8 * (15 - (4 * c + (r + 1) % 4)) +: 8]) ^
          shifted[8 * (15 - (4 * c + (r + 2) % 4)) +: 8] ^
          shifted[8 * (15 - (4 * c + (r + 3) % 4)) +: 8];
      end
    end
  endgenerate

  wire [31:0] turned = {sbox(round_key[23:16]) ^ rcon, sbox(round_key[15:8]), sbox(round_key[7:0]), sbox(round_key[31:24])};
  wire [31:0] k0 = round_key[127:96] ^ turned;
  wire [31:0] k1 = round_key[95:64] ^ k0;
  wire [31:0] k2 = round_key[63:32] ^ k1;
  wire [127:0] next_key = {k0, k1, k2, round_key[31:0] ^ k2};

  always @(posedge clk) begin
    done <= 1'b0;
    if (start) begin
      state     <= plain ^ key;
      round_key <= key;
      rcon      <= 8'h01;
      round     <= 4'd1;
    end else if (round != 4'd0) begin
      round_key <= next_key;
      rcon      <= mul(rcon, 8'd2);
      state     <= (round == 4'd10 ? shifted : mixed) ^ next_key;
      round     <= round == 4'd10 ? 4'd0 : round + 4'd1;
      if (round == 4'd10) begin
        cipher <= shifted ^ next_key;
        done   <= 1'b1;
      end
    end
  end
endmodule
