// Designs that talk, written for tests: a sender and a receiver of serial frames, of any number of clocks a bit.

/** Sends `data` when `go`; `busy` meanwhile. */
export const SENDER = `module sender #(parameter CLOCKS = 104, WIDTH = $clog2(CLOCKS)) (
  input clk, input [7:0] data, input go, output busy, output line
);
  reg [9:0] bits = 10'h3ff;
  reg [3:0] left = 0;
  reg [WIDTH-1:0] count = 0;
  assign busy = left != 0;
  assign line = bits[0];
  always @(posedge clk)
    if (!busy) begin
      if (go) begin bits <= {1'b1, data, 1'b0}; left <= 10; count <= CLOCKS - 1; end
    end else if (count != 0) count <= count - 1'b1;
    else begin bits <= {1'b1, bits[9:1]}; left <= left - 1'b1; count <= CLOCKS - 1; end
endmodule
`;

/** Gives each byte of a line for one clock with `got`. */
export const RECEIVER = `module receiver #(parameter CLOCKS = 104, WIDTH = $clog2(CLOCKS * 2)) (
  input clk, input line, output reg [7:0] data = 0, output reg got = 0
);
  reg [2:0] seen = 3'b111;
  reg [3:0] left = 0;
  reg [WIDTH-1:0] count = 0;
  always @(posedge clk) begin
    seen <= {seen[1:0], line};
    got <= 0;
    if (left == 0) begin
      if (seen[2] && !seen[1]) begin left <= 9; count <= CLOCKS * 3 / 2 - 2; end
    end else if (count != 0) count <= count - 1'b1;
    else begin
      count <= CLOCKS - 1;
      left <= left - 1'b1;
      if (left != 1) data <= {seen[1], data[7:1]}; else got <= seen[1];
    end
  end
endmodule
`;

/** Says a text once, from power-up on, and again whenever \`again\` is high; `hold` makes it wait between bytes. */
export const teller = (text: string): string => `module teller(
  input clk, input again, input hold, output line
);
  parameter CLOCKS = 104;
  localparam LENGTH = ${text.length};
  reg [$clog2(LENGTH+1)-1:0] at = 0;
  reg [7:0] text [0:LENGTH-1];
  initial begin
${[...text].map((char, i) => `    text[${i}] = 8'd${char.charCodeAt(0)};`).join('\n')}
  end
  wire busy;
  wire go = at != LENGTH && !busy && !hold;
  sender #(.CLOCKS(CLOCKS)) u_sender(.clk(clk), .data(text[at]), .go(go), .busy(busy), .line(line));
  always @(posedge clk) if (go) at <= at + 1'b1; else if (again && !busy && at == LENGTH) at <= 0;
endmodule
`;
