package kinds;
  typedef enum logic [1:0] {IDLE, RUN = 2, DONE} state_t;
  typedef struct packed { logic [3:0] high; logic [3:0] low; } pair_t;
endpackage
module top import kinds::*; (input logic clk, input logic [7:0] d, output logic [7:0] y, output state_t s);
  pair_t held;
  state_t next;
  always_comb begin
    next = s;
    unique case (s)
      IDLE: if (d != '0) next = RUN;
      RUN: if (&held.low) next = DONE;
      default: next = IDLE;
    endcase
  end
  always_ff @(posedge clk) begin
    s <= next;
    held <= '{high: d[7:4], low: held.low + 4'd1};
  end
  for (genvar i = 0; i < 8; i++) begin : bits
    assign y[i] = held[7 - i] ^ d[i];
  end
endmodule
