module top(input a, output y); wire p, q; assign p = q; assign q = p; assign y = p & a; endmodule
