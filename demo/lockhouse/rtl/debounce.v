// Brings a button to this clock, waits until it has been quiet for 2^BITS clocks, gives one pulse for each press.
module debounce #(parameter BITS = 14) (
  input      clk,
  input      rst_n,
  input      noisy,
  output reg pressed
);
  reg [1:0]      sync;
  reg            steady;
  reg [BITS-1:0] quiet;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      sync <= 2'b00;
      steady <= 1'b0;
      quiet <= 0;
      pressed <= 1'b0;
    end else begin
      sync <= {sync[0], noisy};
      pressed <= 1'b0;
      if (sync[1] == steady) quiet <= 0;
      else begin
        quiet <= quiet + 1'b1;
        if (&quiet) begin
          steady <= sync[1];
          pressed <= sync[1];
        end
      end
    end
endmodule
