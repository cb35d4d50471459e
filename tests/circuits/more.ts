// More small circuits from what people write every day, each with its count by hand.
import type { Circuit } from './listed.ts';

const circuit = (name: string, byHand: number, why: string, text: string): Circuit => ({
  name,
  byHand,
  most: Math.floor(byHand * 1.3),
  why,
  text,
});

export const MORE: readonly Circuit[] = [
  circuit(
    '3:8 decoder with enable',
    8,
    'eight functions of four inputs',
    "module m(input [2:0] a, input en, output [7:0] y); assign y = en ? 8'd1 << a : 8'd0; endmodule",
  ),
  circuit(
    '4:1 multiplexer',
    2,
    'one table chooses of two or hands on the select bit, the second one of all',
    'module m(input [3:0] a, input [1:0] s, output y); assign y = a[s]; endmodule',
  ),
  circuit(
    '8:1 multiplexer',
    5,
    'two multiplexers of four, two tables each, and a choice of two',
    'module m(input [7:0] a, input [2:0] s, output reg y); always @* case (s) 0: y = a[0]; 1: y = a[1]; 2: y = a[2]; ' +
      '3: y = a[3]; 4: y = a[4]; 5: y = a[5]; 6: y = a[6]; default: y = a[7]; endcase endmodule',
  ),
  circuit(
    '8-bit comparison a < b',
    8,
    'a carry bit for each',
    'module m(input [7:0] a, b, output y); assign y = a < b; endmodule',
  ),
  circuit(
    '8-bit comparison a < 100',
    2,
    'the two lowest bits do not matter; six others in two tables',
    'module m(input [7:0] a, output y); assign y = a < 100; endmodule',
  ),
  circuit(
    'range check 20 to 200',
    4,
    'x5 to x2 for the lower bound; x3 and any of x2 to x0, then with x5, x4 for the upper one; both with x7, x6',
    'module m(input [7:0] x, output y); assign y = x >= 20 && x <= 200; endmodule',
  ),
  circuit(
    'absolute value, 8 bits',
    8,
    'a chain of the bits turned by the sign, plus the sign',
    'module m(input signed [7:0] a, output [7:0] y); assign y = a < 0 ? -a : a; endmodule',
  ),
  circuit(
    'add or subtract, 8 bits',
    8,
    'a carry bit for each: the operand is turned in it, the carry into it is the choice',
    'module m(input s, input [7:0] a, b, output [7:0] y); assign y = s ? a - b : a + b; endmodule',
  ),
  circuit(
    'smaller of two, 8 bits',
    16,
    'a comparison of eight carry bits, eight choices',
    'module m(input [7:0] a, b, output [7:0] y); assign y = a < b ? a : b; endmodule',
  ),
  circuit(
    'up and down counter, 8 bits',
    8,
    'a carry bit for each, its second operand the direction; the enable is the flip-flops’ own',
    'module m(input clk, en, up, output reg [7:0] q); initial q = 0; always @(posedge clk) if (en) if (up) q <= q + 1; ' +
      'else q <= q - 1; endmodule',
  ),
  circuit(
    'loadable counter, 8 bits',
    8,
    'a carry bit for each, the choice of what is loaded in it; no carry goes in while loading',
    'module m(input clk, load, input [7:0] d, output reg [7:0] q); initial q = 0; always @(posedge clk) if (load) ' +
      'q <= d; else q <= q + 1; endmodule',
  ),
  circuit(
    'shift register with load, 8 bits',
    8,
    'a choice of two a bit',
    'module m(input clk, load, in, input [7:0] d, output reg [7:0] q); always @(posedge clk) if (load) q <= d; else ' +
      'q <= {q[6:0], in}; endmodule',
  ),
  circuit(
    'pseudo-random sequence, 16 bits',
    1,
    'four taps, one table',
    'module m(input clk, output reg [15:0] q); initial q = 1; always @(posedge clk) q <= {q[14:0], q[15] ^ q[13] ^ ' +
      'q[12] ^ q[10]}; endmodule',
  ),
  circuit(
    'decimal digit counter with carry',
    5,
    'four functions of four inputs; the enable is the flip-flops’ own; the carry with the enable: the digit is 9 when q3 and q0',
    'module m(input clk, en, output reg [3:0] q, output c); initial q = 0; assign c = en && q == 9; always @(posedge ' +
      'clk) if (en) q <= q == 9 ? 0 : q + 1; endmodule',
  ),
  circuit(
    'CRC-8 of a bit at a time',
    3,
    'bits 0, 1 and 2: at most three signals each',
    'module m(input clk, in, output reg [7:0] q); initial q = 0; wire f = q[7] ^ in; always @(posedge clk) q <= ' +
      "{q[6:0], 1'b0} ^ (f ? 8'h07 : 8'h00); endmodule",
  ),
  circuit(
    'one-hot to binary, 8',
    3,
    'each bit is any of four',
    'module m(input [7:0] a, output reg [2:0] y); integer i; always @* begin y = 0; for (i = 0; i < 8; i = i + 1) if ' +
      '(a[i]) y = y | i; end endmodule',
  ),
  circuit(
    'lowest bit that is set, 8 bits',
    9,
    'y1 to y3 of at most four; none of a3 to a0; y4, y5 of it; none of it, a4, a5; y6, y7 of that',
    'module m(input [7:0] a, output [7:0] y); assign y = a & -a; endmodule',
  ),
  circuit(
    'decimal adder, one digit',
    8,
    'four carry bits; whether it is over nine; the three upper bits corrected by it',
    'module m(input [3:0] a, b, input cin, output [3:0] s, output c); wire [4:0] t = a + b + cin; wire [4:0] u = t + 6; ' +
      'assign c = t > 9; assign s = c ? u[3:0] : t[3:0]; endmodule',
  ),
  circuit(
    'Gray counter, 4 bits',
    4,
    'four functions of four inputs',
    'module m(input clk, output reg [3:0] g); initial g = 0; reg [3:0] b; always @* begin b = {g[3], g[3] ^ g[2], g[3] ' +
      '^ g[2] ^ g[1], ^g}; b = b + 1; end always @(posedge clk) g <= b ^ (b >> 1); endmodule',
  ),
  circuit(
    'thermometer to binary, 7',
    3,
    'y2 is t3; y1 a choice; y0 a multiplexer of four by them',
    'module m(input [6:0] t, output [2:0] y); assign y[2] = t[3]; assign y[1] = t[3] ? t[5] : t[1]; assign y[0] = t[3] ? ' +
      '(t[5] ? t[6] : t[4]) : (t[1] ? t[2] : t[0]); endmodule',
  ),
  circuit(
    'pulse width, 8 bits',
    16,
    'a counter and a comparison of eight carry bits each',
    'module m(input clk, input [7:0] d, output reg y); reg [7:0] q = 0; always @(posedge clk) begin q <= q + 1; y <= q < ' +
      'd; end endmodule',
  ),
  circuit(
    'majority of five',
    3,
    'of four inputs three cases are to be told apart: two tables, and one over them',
    'module m(input [4:0] a, output y); wire [2:0] n = a[0] + a[1] + a[2] + a[3] + a[4]; assign y = n > 2; endmodule',
  ),
  circuit(
    'saturating sum, 8 bits',
    16,
    'eight carry bits, eight tables that the carry out sets',
    'module m(input [7:0] a, b, output [7:0] y); wire [8:0] t = a + b; assign y = t > 255 ? 255 : t; endmodule',
  ),
  circuit(
    'times ten, 8 bits',
    8,
    'one sum of the word and four times the word: two bits pass, eight are added, the last is the carry',
    'module m(input [7:0] x, output [11:0] y); assign y = x * 10; endmodule',
  ),
  circuit(
    'square of 4 bits',
    6,
    'bit 0 is a wire, bit 1 is 0, six functions of four inputs',
    'module m(input [3:0] x, output [7:0] y); assign y = x * x; endmodule',
  ),
  circuit(
    'hexadecimal digit to ASCII',
    6,
    'four bits of the digit, whether it is a figure, whether it is a letter',
    'module m(input [3:0] d, output [6:0] y); assign y = d < 10 ? d + 48 : d + 55; endmodule',
  ),
  circuit(
    'shift to the left, 8 bits',
    23,
    'three rows of eight choices, the lowest of the first row taken into the second',
    'module m(input [7:0] a, input [2:0] n, output [7:0] y); assign y = a << n; endmodule',
  ),
  circuit(
    'two digits by division',
    20,
    'as the double dabble of seven bits',
    'module m(input [6:0] b, output [3:0] tens, ones); assign tens = b / 10; assign ones = b % 10; endmodule',
  ),
  circuit(
    'sequencer of four states',
    5,
    'two functions of two state bits and two inputs, three of the state bits alone',
    'module m(input clk, go, done, output [2:0] y); reg [1:0] s = 0; always @(posedge clk) case (s) 0: if (go) s <= 1; 1: ' +
      'if (done) s <= 2; 2: if (go) s <= 3; else if (done) s <= 0; default: if (!go) s <= 0; endcase assign y = {s == 3, ' +
      's == 1 || s == 2, s != 0}; endmodule',
  ),
  circuit(
    'button, debounced by 16 bits',
    22,
    'sixteen carry bits; whether all ones: five; whether the button differs is the counter’s own reset',
    'module m(input clk, in, output reg y); reg [15:0] n = 0; initial y = 0; always @(posedge clk) if (in == y) n <= 0; ' +
      "else begin n <= n + 1; if (n == 16'hffff) y <= in; end endmodule",
  ),
];
