// SHA-256 behind a word-wide door: sixteen words make a block (FIPS 180-4).
module sha256_words (
  input          clk,
  input          rst,
  input          load,
  input  [31:0]  word,
  input          start,
  output [255:0] digest,
  output         done
);
  reg [511:0] block;
  always @(posedge clk)
    if (rst) block <= 512'd0;
    else if (load) block <= {block[479:0], word};
  sha256 u_core (.clk(clk), .rst(rst), .start(start), .block(block), .digest(digest), .done(done));
endmodule
