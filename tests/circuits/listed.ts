// Small circuits whose size in four-input tables is well known, with the count by hand and its reasoning.

/** A circuit as people write it. `byHand` counts four-input tables; a carry bit is its table. */
export interface Circuit {
  readonly name: string;
  readonly text: string;
  readonly byHand: number;
  /** The most that is accepted. */
  readonly most: number;
  /** How the count by hand comes about. */
  readonly why: string;
}

const SEGMENTS = `function [6:0] segments(input [3:0] d);
  case (d)
    4'd0: segments = 7'b0111111; 4'd1: segments = 7'b0000110; 4'd2: segments = 7'b1011011;
    4'd3: segments = 7'b1001111; 4'd4: segments = 7'b1100110; 4'd5: segments = 7'b1101101;
    4'd6: segments = 7'b1111101; 4'd7: segments = 7'b0000111; 4'd8: segments = 7'b1111111;
    4'd9: segments = 7'b1101111; default: segments = 7'b0;
  endcase
endfunction`;

/** Two digits of `b`, seven bits. */
const DABBLE = `integer i;
  always @* begin
    ones = 0; tens = 0;
    for (i = 6; i >= 0; i = i - 1) begin
      if (ones >= 5) ones = ones + 3;
      if (tens >= 5) tens = tens + 3;
      tens = {tens[2:0], ones[3]};
      ones = {ones[2:0], b[i]};
    end
  end`;

/** Those whose reach is laid down. */
export const LISTED: readonly Circuit[] = [
  {
    name: 'seven-segment decoder',
    text: `module m(input [3:0] d, output [6:0] s); ${SEGMENTS} assign s = segments(d); endmodule`,
    byHand: 7,
    most: 7,
    why: 'seven functions of four inputs',
  },
  {
    name: 'add 3 if over 4',
    text: 'module m(input [3:0] x, output reg [3:0] y); always @* begin y = x; if (y >= 5) y = y + 3; end endmodule',
    byHand: 4,
    most: 4,
    why: 'four functions of four inputs',
  },
  {
    name: '7-bit double dabble',
    text: `module m(input [6:0] b, output reg [3:0] ones, output reg [3:0] tens);
  ${DABBLE}
endmodule`,
    byHand: 20,
    most: 20,
    why: 'five cells of four tables: four of the ones, one of the tens; the lowest bit passes through',
  },
  {
    name: 'parity of 16 bits',
    text: 'module m(input [15:0] a, output p); assign p = ^a; endmodule',
    byHand: 5,
    most: 5,
    why: 'four tables of four, one over them',
  },
  {
    name: '16-bit equality',
    text: 'module m(input [15:0] a, b, output e); assign e = a == b; endmodule',
    byHand: 11,
    most: 11,
    why: 'eight tables for two bits each, 2 + 1 over them',
  },
  {
    name: '16-bit equality with a constant',
    text: "module m(input [15:0] a, output e); assign e = a == 16'h3c5a; endmodule",
    byHand: 5,
    most: 5,
    why: 'four tables of four, one over them',
  },
  {
    name: '16:1 multiplexer',
    text: 'module m(input [15:0] a, input [3:0] s, output y); assign y = a[s]; endmodule',
    byHand: 10,
    most: 10,
    why: 'five multiplexers of four, two tables each: the first chooses of two or hands on s0, the second of all',
  },
  {
    name: '8-bit rotate',
    text: 'module m(input [7:0] a, input [2:0] n, output [7:0] y); assign y = (a << n) | (a >> (8 - n)); endmodule',
    byHand: 24,
    most: 24,
    why: 'three rows of eight choices',
  },
  {
    name: 'priority encoder of 8',
    text: `module m(input [7:0] a, output reg [2:0] y, output reg valid);
  integer i;
  always @* begin
    y = 0; valid = 0;
    for (i = 0; i < 8; i = i + 1) if (a[i]) begin y = i; valid = 1; end
  end
endmodule`,
    byHand: 6,
    most: 6,
    why: 'y2, a3 or a2, y1 of these with a7 and a6, two tables for y0, valid of y2, a3 or a2, a1, a0',
  },
  {
    name: '32-bit counter wrapping at a constant',
    text: `module m(input clk, output reg [31:0] q, output tick);
  assign tick = q == 49999999;
  initial q = 0;
  always @(posedge clk) if (tick) q <= 0; else q <= q + 1;
endmodule`,
    byHand: 43,
    most: 44,
    why: '32 of the chain, 8 + 2 + 1 of the comparison; the wrap is the flip-flops’ own reset',
  },
  {
    name: '16-bit adder',
    text: 'module m(input [15:0] a, b, output [15:0] s); assign s = a + b; endmodule',
    byHand: 16,
    most: 16,
    why: 'a table a bit',
  },
  {
    name: '4×4 multiplier',
    text: 'module m(input [3:0] a, b, output [7:0] p); assign p = a * b; endmodule',
    byHand: 22,
    most: 22,
    why: 'p0, two rows of four chain bits that multiply and add, the first row over three products: 4 + 3 × 5 and three products',
  },
  {
    name: 'population count of 8',
    text: `module m(input [7:0] a, output reg [3:0] n);
  integer i;
  always @* begin n = 0; for (i = 0; i < 8; i = i + 1) n = n + a[i]; end
endmodule`,
    byHand: 14,
    most: 14,
    why: 'four full adders and three half adders, two tables each',
  },
  {
    name: 'Gray to binary, 8 bits',
    text: `module m(input [7:0] g, output reg [7:0] b);
  integer i;
  always @* begin b[7] = g[7]; for (i = 6; i >= 0; i = i - 1) b[i] = b[i + 1] ^ g[i]; end
endmodule`,
    byHand: 7,
    most: 7,
    why: 'a table a bit but the highest',
  },
  {
    name: '8-bit signed limiter',
    text: `module m(input signed [11:0] x, output reg signed [7:0] y);
  always @* if (x > 127) y = 127; else if (x < -128) y = -128; else y = x[7:0];
endmodule`,
    byHand: 10,
    most: 12,
    why: 'whether five upper bits are alike: 2; seven choices by it of a bit or the turned sign; the sign is itself',
  },
];

const digits = (unit: string, wrap: number) => `
  reg [6:0] ${unit} = 0;
  always @(posedge clk) if (${unit}_up) ${unit} <= ${unit} == ${wrap} ? 0 : ${unit} + 1;`;

/** Hours to 99, minutes and seconds to 59, on six digits. */
export const CLOCK = `module bcd(input clk, input [6:0] b, output reg [13:0] s);
  reg [3:0] ones, tens, o, t;
  ${SEGMENTS}
  ${DABBLE}
  always @(posedge clk) begin o <= ones; t <= tens; s <= {segments(t), segments(o)}; end
endmodule
module m(input clk, output [41:0] digits);
  reg [31:0] count = 0;
  wire second_up = count == 11999999;
  wire minute_up = second_up && second == 59;
  wire hour_up = minute_up && minute == 59;
  always @(posedge clk) if (second_up) count <= 0; else count <= count + 1;
  ${digits('second', 59)}
  ${digits('minute', 59)}
  ${digits('hour', 99)}
  bcd h(clk, hour, digits[41:28]), mi(clk, minute, digits[27:14]), se(clk, second, digits[13:0]);
endmodule`;
