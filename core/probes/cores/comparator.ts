/** The comparator: whether a word, or what became of it, is as wanted; what recorders and steppers look with. */
export const comparatorVerilog = `
// Each two bits of the sample, with the same of the sample before, look up two bits that are added along the pairs, the
// lowest first: the carry out of the highest is the answer. 0 and whether they are as wanted, with a carry in, give whether
// all are; whether they are below, and whether they are not above, without one, give whether the whole is below.
// A wide sample is added in parts, each one clock behind the part below: the answer comes so much later.
module nimble_comparator #(parameter P = 2, parameter PARTS = 1) (
  input             clk,
  input  [2*P-1:0]  probe,
  input  [2*P-1:0]  last,
  input             tck,
  input             write,
  input  [3:0]      at,
  input  [2*P-1:0]  row,
  input             carry,
  input             turned,
  output reg        hit
);
  localparam H = (P + PARTS - 1) / PARTS;
  // Above the highest pair the carry is passed on.
  wire [PARTS*H-1:0] a, b;
  wire [PARTS:0] carries;
  genvar g;
  generate
    for (g = 0; g < PARTS*H; g = g + 1) begin : pairs
      if (g < P) begin : one
        reg [1:0] looked_up [0:15];
        always @(posedge tck) if (write) looked_up[at] <= row[2*g +: 2];
        assign {b[g], a[g]} = looked_up[{last[2*g +: 2], probe[2*g +: 2]}];
      end
      else begin : none
        assign {b[g], a[g]} = 2'b10;
      end
    end
    for (g = 0; g < PARTS; g = g + 1) begin : parts
      wire [2*H-1:0] now = {b[H*g +: H], a[H*g +: H]};
      wire [2*H-1:0] then;
      if (g == 0) begin : lowest assign then = now; end
      else begin : later
        reg [2*H*g-1:0] line = 0;
        wire [2*H*(g + 1)-1:0] moved = {line, now};
        always @(posedge clk) line <= moved[2*H*g-1:0];
        assign then = line[2*H*(g - 1) +: 2*H];
      end
      wire [H:0] sum = {1'b0, then[0 +: H]} + {1'b0, then[H +: H]} + carries[g];
      if (g == PARTS - 1) begin : top assign carries[PARTS] = sum[H]; end
      else begin : on
        reg passed = 0;
        always @(posedge clk) passed <= sum[H];
        assign carries[g + 1] = passed;
      end
    end
  endgenerate
  assign carries[0] = carry;
  initial hit = 0;
  always @(posedge clk) hit <= carries[PARTS] ^ turned;
endmodule
`;
