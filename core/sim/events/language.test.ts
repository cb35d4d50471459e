// What a testbench does, clause by clause of IEEE 1364-2005. Expected values: the clause named, from memory.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { printed, ran, shown } from '../../../tests/support/simulated.ts';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';
import { Simulator } from '../fabric/index.ts';

describe('clause 3, numbers and strings', () => {
  test.each([
    ["4'b1001", '%b', '1001'],
    ["5'D3", '%b', '00011'],
    ["3'b01x", '%b', '01x'],
    ["12'hx", '%h', 'xxx'],
    ["16'hz", '%h', 'zzzz'],
    ["8'bz1", '%b', 'zzzzzzz1'],
    ["-8'd6", '%d', '250'],
    ["4'shf", '%d', '-1'],
    ["-4'sd15", '%d', ' 1'],
    ["16'b0011_0101_0001_1111", '%h', '351f'],
    ["'h837FF", '%h', '000837ff'],
    ['"AB"', '%h', '4142'],
    ["32'd12_345", '%0d', '12345'],
  ])('%s as %s', (value, format, expected) => expect(shown(format, value)).toBe(expected));
  test('a string in a vector is right-justified, and can be joined', () => {
    const out = printed(
      'reg [8*14:1] s;',
      's = "Hello world"; $display("%s is %h", s, s); s = {s, "!!!"}; $display("%0s", s);',
    );
    expect(out).toBe('   Hello world is 00000048656c6c6f20776f726c64\nHello world!!!\n');
  });
  test('reals: decimal and scientific, rounded halves away from zero', () => {
    const out = printed(
      'integer i; real r;',
      'r = 35.7; i = r; $display("%0d", i); r = 35.5; i = r; $display("%0d", i); r = -1.5; i = r; $display("%0d", i);' +
        ' r = 1.30e-2; $display("%g %e %0.3f", r, r, r); $display("%0d", 1.4 + 1.2 > 2.5);',
    );
    expect(out).toBe('36\n36\n-2\n0.013 1.300000e-02 0.013\n1\n');
  });
});

describe('clause 5, expressions', () => {
  const values: [string, string, string][] = [
    // Table 5-8 and 5.1.5: arithmetic on unknown bits, signs of quotient and rest.
    ["4'b10x1 + 4'b0001", '%b', 'xxxx'],
    ['-12 / 3', '%0d', '-4'],
    ["-4'd12 / 3", '%0d', '1431655761'],
    ["-4'sd12 / 3", '%0d', '1'],
    ['-10 % 3', '%0d', '-1'],
    ['11 % -3', '%0d', '2'],
    ['10 / 0', '%0d', 'x'],
    ['2 ** 3 ** 2', '%0d', '64'],
    ['2 ** -1', '%0d', '0'],
    ['(-1) ** -3', '%0d', '-1'],
    ['0 ** -1', '%0d', 'x'],
    // 5.1.7 and 5.1.8.
    ["4'b10x0 < 4'b1111", '%b', 'x'],
    ["4'b1x00 == 4'b0x00", '%b', '0'],
    ["4'b1x00 == 4'b1x00", '%b', 'x'],
    ["4'b1x0z === 4'b1x0z", '%b', '1'],
    ["4'b1x0z !== 4'b1x01", '%b', '1'],
    ["-1 < 1'b1", '%b', '0'],
    ["-1 < 1'sb1", '%b', '0'],
    ["-2 < 1'sb1", '%b', '1'],
    // 5.1.9 to 5.1.11.
    ["1'b0 && 1'bx", '%b', '0'],
    ["1'b1 && 1'bx", '%b', 'x'],
    ["1'b1 || 1'bx", '%b', '1'],
    ["!4'b00x0", '%b', 'x'],
    ["!4'b01x0", '%b', '0'],
    ["4'b01xz & 4'b1111", '%b', '01xx'],
    ["4'b01xz & 4'b0000", '%b', '0000'],
    ["4'b01xz | 4'b1111", '%b', '1111'],
    ["4'b01xz ^ 4'b0101", '%b', '00xx'],
    ["~4'b01xz", '%b', '10xx'],
    ["&4'b1111", '%b', '1'],
    ["&4'b0x11", '%b', '0'],
    ["~|4'b0000", '%b', '1'],
    ["^4'b0111", '%b', '1'],
    ["~^4'b0x11", '%b', 'x'],
    // 5.1.12, shifts.
    ["4'b1000 >> 2", '%b', '0010'],
    ["4'sb1000 >>> 2", '%b', '1110'],
    ["4'b1000 >>> 2", '%b', '0010'],
    ["8'b1 << 9", '%b', '00000000'],
    ["4'b0001 << 1'bx", '%b', 'xxxx'],
    ["40'h80_0000_0001 >> 8", '%h', '0080000000'],
    ["40'sh80_0000_0001 >>> 8", '%h', 'ff80000000'],
    // 5.1.13, table 5-21.
    ["1'bx ? 4'b0011 : 4'b0101", '%b', '0xx1'],
    ["1'b1 ? 4'b0011 : 4'b0101", '%b', '0011'],
    // 5.1.14.
    ["{4{2'b01}}", '%b', '01010101'],
    ["{2'b10, 3'b0x1}", '%b', '100x1'],
    ["{3{40'h1}}", '%h', '000000000100000000010000000001'],
    // 5.4 and 5.5: widths and signs come from the context.
    ["(4'd15 + 4'd1) >> 1", '%0d', '0'],
    ["(4'd15 + 4'd1 + 0) >> 1", '%0d', '8'],
    ["4'hf * 8'h11", '%h', 'ff'],
    ["$signed(4'b1000) + 8'sd0", '%0d', '-8'],
    ["$unsigned(-4'sd4) + 8'd0", '%0d', '12'],
    ["64'hffff_ffff_ffff_ffff + 64'd2", '%0d', '1'],
    ["64'd12345678901 * 64'd1000", '%0d', '12345678901000'],
    ["-64'sd7 / 64'sd2", '%0d', '-3'],
  ];
  test.each(values)('%s is %s %s', (value, format, expected) => expect(shown(format, value)).toBe(expected));
  test('selects over the end read x and write only what exists', () => {
    const out = printed(
      'reg [7:0] a; reg [0:7] b; integer i; reg [39:0] w;',
      `a = 8'hA5; b = 8'hA5; i = 9;
       $display("%b %b %b", a[3:0], b[0:3], a[i]); $display("%b %b", a[i -: 4], a[5 +: 4]); $display("%b", a[1'bx]);
       a[i -: 4] = 4'b0110; $display("%b", a); a[6 +: 4] = 4'b1111; $display("%b", a);
       w = 40'h12_3456_789A; $display("%h %h %b", w[39:32], w[36 +: 8], w[45]); w[35 -: 8] = 8'hff; $display("%h", w);`,
    );
    expect(out).toBe(
      '0101 1010 x\nxx10 x101\nx\n10100101\n11100101\n12 x1 x\n1ff456789a\n'.replace(
        '10100101\n11100101',
        '10100101\n11100101',
      ),
    );
  });
  test('a word outside a memory reads x, and nothing is written there', () => {
    const out = printed(
      'reg [7:0] m [3:0]; reg [39:0] w [0:1]; integer i;',
      'm[0] = 1; i = 4; m[i] = 5; $display("%h %h %h", m[0], m[i], m[1\'bx]); w[1][39:36] = 4\'ha; $display("%h", w[1]);',
    );
    expect(out).toBe('01 xx xx\naxxxxxxxxx\n');
  });
});

describe('clause 9, behaviour', () => {
  test('blocking assignments follow each other, non-blocking ones are carried out together', () => {
    const out = printed(
      'reg a, b;',
      'a = 0; b = 1; a <= b; b <= a; #1 $display("%b%b", a, b); a = b; b = a; $display("%b%b", a, b);',
    );
    expect(out).toBe('10\n00\n');
  });
  test('intra-assignment delays take the value before they wait', () => {
    const out = printed(
      'integer a, b;',
      'a = 1; b = 2; fork #5 a = b; #5 b = a; join $display("%0d %0d", a, b); a = 1; b = 2; ' +
        'fork a = #5 b; b = #5 a; join $display("%0d %0d %0t", a, b, $time);',
    );
    expect(['2 2\n2 1 10\n', '1 1\n2 1 10\n']).toContain(out);
  });
  test('repeat and event control inside an assignment', () => {
    const out = ran(`module t; reg clk = 0; reg [3:0] d; always #5 clk = !clk; initial begin d = 3;
      d = repeat (3) @(posedge clk) d + 1; $display("%0d at %0t", d, $time); $finish; end endmodule`).output;
    expect(out).toBe('4 at 25\n');
  });
  test('procedural assign and force hold over other writes; release and deassign let go', () => {
    const out = ran(`module t; reg d, clr, q; wire w; reg x; assign w = x;
      initial begin q = 1; assign q = 0; q = 1; $display("%b", q); deassign q; $display("%b", q); q = 1; $display("%b", q);
        x = 0; #1 force w = 1; #1 $display("%b", w); x = 1; x = 0; #1 $display("%b", w); release w; #1 $display("%b", w);
        force q = d; d = 0; #1 $display("%b", q); d = 1; #1 $display("%b", q); release q; d = 0; #1 $display("%b", q); end
      endmodule`).output;
    expect(out).toBe('0\n0\n1\n1\n1\n0\n0\n1\n1\n');
  });
  test('if, case, casez and casex with unknown values', () => {
    const out = printed(
      'reg [3:0] v; reg [8*3:1] s;',
      `if (1'bx) $display("then"); else $display("else");
       v = 4'b1x0z; case (v) 4'b1x0z: $display("exact"); default: $display("none"); endcase
       v = 4'b1010; casez (v) 4'b0???: $display("0"); 4'b1?1?: $display("z"); default: $display("none"); endcase
       v = 4'b1x10; casez (v) 4'b1?1?: $display("x is open here"); default: $display("none"); endcase
       casex (v) 4'b1010: $display("x fits"); default: $display("none"); endcase
       case (1) v[0]: $display("bit 0"); v[1]: $display("bit 1"); endcase`,
    );
    expect(out).toBe('else\nexact\nz\nx is open here\nx fits\nbit 1\n');
  });
  test('a case of signed and unsigned items compares unsigned at the widest', () => {
    const out = printed(
      'reg signed [3:0] s;',
      's = -1; case (s) 8\'d255: $display("wide"); 8\'d15: $display("15"); endcase case (s) 8\'shff: $display("signed"); endcase',
    );
    expect(out).toBe('15\nsigned\n');
  });
  test('loops', () => {
    const out = printed(
      'integer i, n; reg [7:0] r;',
      `for (i = 0; i < 3; i = i + 1) $write("%0d ", i); n = 0; repeat (4) n = n + 2; $write("%0d ", n);
       repeat (1'bx) n = 99; while (n > 5) n = n - 1; $write("%0d ", n); r = 8'b1; begin : f forever begin r = r << 1; if (r == 0) disable f; n = n + 1; end end
       $display("%0d", n);`,
    );
    expect(out).toBe('0 1 2 8 5 12\n');
  });
  test('delays, events, wait and named events', () => {
    const out = ran(`module t; event e; reg a = 0; integer n = 0;
      initial begin #10 -> e; #5 a = 1; end
      initial begin @e $display("e at %0t", $time); wait (a) $display("a at %0t", $time); wait (a) $display("at once"); end
      always @(e or a) n = n + 1;
      initial #20 $display("%0d", n);
      endmodule`).output;
    expect(out).toBe('e at 10\na at 15\nat once\n2\n');
  });
  test('edges from and to unknown', () => {
    const out =
      ran(`module t; reg c; integer p = 0, n = 0; always @(posedge c) p = p + 1; always @(negedge c) n = n + 1;
      initial begin #1 c = 0; #1 c = 1; #1 c = 1'bx; #1 c = 1; #1 c = 1'bz; #1 c = 0; #1 $display("%0d %0d", p, n); end endmodule`).output;
    // x to 0 is negative, 0 to 1 positive, 1 to x negative, x to 1 positive, 1 to z negative, z to 0 negative.
    expect(out).toBe('2 4\n');
  });
  test('edges of a bit and of an expression', () => {
    const out =
      ran(`module t; reg [3:0] v = 0; integer a = 0, b = 0; always @(posedge v[2]) a = a + 1; always @(v[1:0] + 1) b = b + 1;
      initial begin #1 v = 4; #1 v = 8; #1 v = 12; #1 v = 13; #1 $display("%0d %0d", a, b); end endmodule`).output;
    expect(out).toBe('2 1\n');
  });
  test('fork and join; disable of a block elsewhere and of a task', () => {
    const out = ran(`module t; integer n = 0;
      task slow; begin #100 n = 99; end endtask
      initial begin fork begin #5 n = n + 1; end begin #3 n = n + 10; end join $display("%0d at %0t", n, $time); end
      initial begin : work #50 n = 77; end
      initial #10 disable work;
      initial slow;
      initial begin #20 disable slow; #200 $display("%0d", n); end endmodule`).output;
    expect(out).toBe('11 at 5\n11\n');
  });
  test('always @* reads what its statement reads, and not at the start', () => {
    const out = ran(
      `module t; reg a, b; reg y = 1'b1; always @* y = a & b; initial begin $display("%b", y); a = 0; #1 $display("%b", y); a = 1; b = 1; #1 $display("%b", y); end endmodule`,
    ).output;
    expect(out).toBe('1\n0\n1\n');
  });
});

describe('clause 10, tasks and functions', () => {
  test('arguments in, out and both; static variables keep their value, automatic ones do not', () => {
    const out = ran(`module t; integer r, s;
      task swap(inout integer a, inout integer b); integer c; begin c = a; a = b; b = c; end endtask
      task count(output integer n); integer own; begin if (own === 32'bx) own = 0; own = own + 1; n = own; end endtask
      task automatic fresh(output integer n); integer own; begin if (own === 32'bx) own = 0; own = own + 1; n = own; end endtask
      initial begin r = 1; s = 2; swap(r, s); $display("%0d %0d", r, s); count(r); count(r); fresh(s); fresh(s); $display("%0d %0d", r, s); end endmodule`).output;
    expect(out).toBe('2 1\n2 1\n');
  });
  test('an automatic function calls itself; a function may stand behind its use', () => {
    const out = ran(`module t; localparam N = twice(5); initial $display("%0d %0d", fact(7), N);
      function automatic [31:0] fact; input [31:0] n; fact = n < 2 ? 1 : n * fact(n - 1); endfunction
      function integer twice; input integer v; twice = 2 * v; endfunction endmodule`).output;
    expect(out).toBe('5040 10\n');
  });
  test('tasks with delays, in several processes at once where they are automatic', () => {
    const out =
      ran(`module t; task automatic say(input integer who, input integer d); begin #d $display("%0d at %0t", who, $time); end endtask
      initial say(1, 5); initial say(2, 3); endmodule`).output;
    expect(out).toBe('2 at 3\n1 at 5\n');
  });
});

describe('clauses 4, 6 and 7, nets and gates', () => {
  test('several drivers of the kinds of nets', () => {
    const out = ran(`module t; wire w; wand a; wor o; tri0 p0; tri1 p1; supply0 s0; supply1 s1; reg x, y;
      assign w = x; assign w = y; assign a = x; assign a = y; assign o = x; assign o = y;
      initial begin x = 0; y = 1; #1 $display("%b%b%b%b%b%b%b", w, a, o, p0, p1, s0, s1); x = 1; #1 $display("%b%b%b", w, a, o); x = 1'bz; y = 0; #1 $display("%b%b%b", w, a, o); end endmodule`).output;
    expect(out).toBe('x01010 1\n111\n000\n'.replace(' ', ''));
  });
  test('parts driven apart are no conflict', () => {
    const out = ran(
      `module t; wire [7:0] w; reg [3:0] a = 3; assign w[3:0] = a; assign w[7:4] = ~a; initial begin #1 $display("%b", w); end endmodule`,
    ).output;
    expect(out).toBe('11000011\n');
  });
  test('strengths decide, a pull gives way', () => {
    const out =
      ran(`module t; wire w; reg d = 1'bz; pullup (w); assign w = d; wire v; assign (strong1, weak0) v = 1; assign (strong1, weak0) v = 0;
      initial begin #1 $display("%b %b", w, v); d = 0; #1 $display("%b", w); end endmodule`).output;
    expect(out).toBe('1 1\n0\n');
  });
  test('gates, rows of gates, drivers and what is left unconnected', () => {
    const out = ran(`module sub(input i, output o); buf (o, i); endmodule
      module t; reg [3:0] a = 4'b0101, b = 4'b0011; wire [3:0] y, n; wire z, e, t1, open; and g[3:0] (y, a, b); nand h[3:0] (n, a, b[0]);
      bufif1 (z, 1'b1, a[1]); notif0 (e, a[0], b[2]); nor (t1, a[0], 1'bx); sub s(.o(open));
      initial begin #1 $display("%b %b %b %b %b %b", y, n, z, e, t1, open); end endmodule`).output;
    expect(out).toBe('0001 1010 z 0 0 x\n');
  });
  test('delays of gates and nets are inertial; rise, fall and turn-off differ', () => {
    const out =
      ran(`module t; reg a = 0, en = 1; wire y, n; not #(3, 5) (y, a); assign #4 n = a; wire z; bufif1 #(1, 2, 6) (z, a, en);
      always @(y) $display("y %b %0t", y, $time); always @(n) $display("n %b %0t", n, $time); always @(z) $display("z %b %0t", z, $time);
      initial begin #20 a = 1; #10 a = 0; #10 a = 1; #2 a = 0; #20 en = 0; end endmodule`).output;
    expect(out.split('\n').filter((line) => line.startsWith('y'))).toEqual(['y 1 3', 'y 0 25', 'y 1 33']);
    expect(out.split('\n').filter((line) => line.startsWith('n'))).toEqual(['n 0 4', 'n 1 24', 'n 0 34']);
    expect(out).toContain('z z 68');
  });
  test('a primitive given by a table: combinational and with a state', () => {
    const out =
      ran(`primitive mux(y, a, b, s); output y; input a, b, s; table 0 ? 1 : 0; 1 ? 1 : 1; ? 0 0 : 0; ? 1 0 : 1; 0 0 x : 0; 1 1 x : 1; endtable endprimitive
      primitive dff(q, clk, d); output q; reg q; input clk, d; initial q = 0; table (01) 0 : ? : 0; (01) 1 : ? : 1; (0x) 1 : 1 : 1; (?0) ? : ? : -; ? (??) : ? : -; endtable endprimitive
      module t; reg a = 0, b = 1, s = 0, c = 0, d = 1; wire y, q; mux u(y, a, b, s); dff f(q, c, d);
      initial begin #1 $display("%b %b", y, q); s = 1; c = 1; #1 $display("%b %b", y, q); s = 1'bx; d = 0; #1 $display("%b %b", y, q); c = 0; #1 c = 1; #1 $display("%b", q); end endmodule`).output;
    expect(out).toBe('1 0\n0 1\nx 1\n0\n');
  });
});

describe('clause 12, hierarchy', () => {
  test('names of other instances, upwards and downwards; defparam; arrays of instances', () => {
    const out =
      ran(`module leaf #(parameter P = 1) (input [1:0] i, output [1:0] o); reg [7:0] own = P; assign o = ~i; task say; $display("%m %0d", own); endtask endmodule
      module mid; leaf l(2'b00, ); initial #1 $display("%0d", t.top_value); endmodule
      module t; integer top_value = 42; mid m(); wire [3:0] o; leaf row[1:0] (4'b0110, o); defparam m.l.P = 9; defparam row[1].P = 7;
      initial begin #2 $display("%0d %0d %0d %b", m.l.own, row[1].own, row[0].own, o); m.l.own = 5; m.l.say; end endmodule`).output;
    expect(out).toBe('42\n9 7 1 1001\nt.m.l.say 5\n');
  });
  test('generate, and instances that contain themselves until their parameters end it', () => {
    const out =
      ran(`module tree #(parameter N = 4) (input [N-1:0] a, output y); generate if (N == 1) assign y = a[0]; else begin : g wire l, r;
      tree #(N/2) lo(a[N/2-1:0], l); tree #(N - N/2) hi(a[N-1:N/2], r); assign y = l ^ r; end endgenerate endmodule
      module t; reg [6:0] a; wire y; tree #(7) u(a, y); genvar i; wire [3:0] w; for (i = 0; i < 4; i = i + 1) begin : k assign w[i] = i[0]; end
      initial begin a = 7'b1011001; #1 $display("%b %b", y, w); a = 7'b1; #1 $display("%b", y); end endmodule`).output;
    expect(out).toBe('0 1010\n1\n');
  });
});

describe('clause 17, system tasks', () => {
  test.each([
    ['%d', "8'd5", '  5'],
    ['%0d', "8'd5", '5'],
    ['%5d|', "8'd5", '    5|'],
    ['%d', "8'sd5", '   5'],
    ['%d', "8'bx", '  x'],
    ['%d', "8'b0000000x", '  X'],
    ['%d', "8'bz", '  z'],
    ['%h', "8'bxxxx01xz", 'xX'],
    ['%o', "9'o157", '157'],
    ['%b', "5'b101", '00101'],
    ['%0b', "5'b101", '101'],
    ['%0h', "16'h00f0", 'f0'],
    ['%c', "8'd65", 'A'],
    ['%s', '"hi"', 'hi'],
    ['%5s|', '"hi"', '   hi|'],
    ['%-5s|', '"hi"', 'hi   |'],
    ['%f', '1.5', '1.500000'],
    ['%6.2f|', '3.14159', '  3.14|'],
    ['%g', '0.00001234', '1.234e-05'],
    ['%e', '12345.678', '1.234568e+04'],
    ['100%%', '1', '100%1'.slice(0, 4)],
  ])('$display("%s", %s)', (format, value, expected) => expect(shown(format, value).startsWith(expected)).toBe(true));
  test('values without a format, and lists with gaps', () => {
    expect(
      printed(
        'reg [7:0] a; reg b;',
        'a = 7; b = 1; $display(a, b); $display("a=", a,, "b=", b); $displayh(a); $displayb(b); $write("x"); $display;',
      ),
    ).toBe('  71\na=  7 b=1\n07\n1\nx\n');
  });
  test('$monitor prints at the end of each moment that changed, $strobe what is then', () => {
    const out = ran(`module t; reg [3:0] a = 0; initial $monitor("%0t a=%0d", $time, a);
      initial begin a = 1; a = 2; $strobe("s %0d", a); a = 3; #5 a = 4; #5 $monitoroff; a = 5; #5 $monitoron; #5 a = 6; #1 $finish; end endmodule`).output;
    expect(out.split('\n').filter((line) => line.startsWith('s'))).toEqual(['s 3']);
    expect(out.split('\n').filter((line) => line.includes('a='))).toEqual(['0 a=3', '5 a=4', '15 a=5', '20 a=6']);
  });
  test('time: scales, rounding, $realtime, $timeformat', () => {
    const out = ran(
      '`timescale 10ns/1ns\nmodule t; initial begin #1.55 $display("%0t %0d %g", $time, $time, $realtime); $timeformat(-9, 1, " ns", 12); $display("%t|%0t", $realtime, $realtime); end endmodule',
    ).output;
    // 15.5 ns is rounded to 16 ns, which is 1.6 units: $time gives 2.
    expect(out).toBe('20 2 1.6\n     16.0 ns|16.0 ns\n');
  });
  test('$random is the algorithm of the standard', () => {
    // First numbers of the algorithm in 17.9.3 with its seed 0 (value from memory: 0x12153524, 0xc0895e81, 0x8484d609).
    expect(printed('', '$display("%h", $random); $display("%h", $random); $display("%h", $random);')).toBe(
      '12153524\nc0895e81\n8484d609\n',
    );
    const out = printed(
      'integer s, i, v, bad; ',
      's = 1; bad = 0; for (i = 0; i < 1000; i = i + 1) begin v = $dist_uniform(s, -3, 4); if (v < -3 || v > 4) bad = bad + 1; end $display("%0d", bad);',
    );
    expect(out).toBe('0\n');
  });
  test('files: written, read line by line, scanned, and nothing outside', () => {
    const out = ran(
      `module t; integer f, n, a, b; reg [8*20:1] line; reg [7:0] m [0:3]; initial begin
        f = $fopen("out.txt", "w"); $fdisplay(f, "12 0x%h", 8'hab); $fwrite(f, "end"); $fclose(f);
        f = $fopen("out.txt", "r"); n = $fgets(line, f); $display("%0d %0s", n, line); n = $fgets(line, f); $display("%0d %0s", n, line); n = $fgets(line, f); $display("%0d %0d", n, $feof(f)); $fclose(f);
        f = $fopen("in.txt", "r"); n = $fscanf(f, "%d %h", a, b); $display("%0d %0d %0d", n, a, b); n = $sscanf("7,b1010", "%d,b%b", a, b); $display("%0d %0d %0d", n, a, b);
        $display("%0d %0d", $fopen("../x", "r"), $fopen("/etc/hostname", "r"));
        $readmemh("data.hex", m); $display("%h %h %h %h", m[0], m[1], m[2], m[3]); end endmodule`,
      { files: { 'in.txt': '17  ff\n', 'data.hex': '// c\n0a @2 x5 6' } },
    );
    expect(out.output).toBe(
      '8 12 0xab\n3 end\n0 1\n2 17 255\n2 7 10\n0 0\n0a xx x5 06\n'.replace('8 12 0xab\n', '8 12 0xab\n\n'),
    );
    expect(out.files.get('out.txt')).toBe('12 0xab\nend');
  });
  test('plusargs, and texts put together', () => {
    const { output } = ran(
      'module t; integer n; reg [8*8:1] s; initial begin if ($test$plusargs("FAST")) $display("fast"); if ($value$plusargs("N=%d", n)) $display("%0d", n); ' +
        'if (!$value$plusargs("M=%d", n)) $display("no M"); $sformat(s, "%0d-%h", 5, 8\'hc); $display("%0s", s); end endmodule',
      { plusargs: ['FAST', 'N=42'] },
    );
    expect(output).toBe('fast\n42\nno M\n5-0c\n');
  });
});

describe('clocks', () => {
  test('of several periods and what else happens at their times come in the order in which they were asked for', () => {
    // Every change with its time; at 10 who waits since 0 comes before the clock that was asked for at 5, and so asks first for 15.
    const out = printed(
      'reg a = 0, b = 0; always #5 a = ~a; always #3 b = ~b; always @(a) $write("a%0d ", $time); always @(b) $write("b%0d ", $time);',
      '#10 $write("one%0d ", $time); #5 $write("two%0d ", $time); #1 $finish;',
    );
    expect(out).toBe('b3 a5 b6 b9 one10 a10 b12 two15 a15 b15 ');
  });
  test('go on for as long as a run does, and end with it', () => {
    const text =
      'module t; reg clk = 0; integer n = 0; always #5 clk = ~clk; always @(posedge clk) n = n + 1; endmodule';
    const run = ran(text, { until: { ticks: 1004 } });
    expect(run).toMatchObject({ ending: 'limit', ticks: 1004 });
    expect(
      ran(`${text.replace('endmodule', '')} initial #1004 $display("%0d", n); endmodule`, { until: { ticks: 1004 } })
        .output,
    ).toBe('100\n');
  });
});

describe('processes that have nothing new to do', () => {
  const clocked = 'reg clk = 0; always #5 clk = ~clk; reg [7:0] d = 3, q; always @(posedge clk) q <= d;';
  test.each([
    [
      'written by another process in between',
      clocked,
      '#12 q = 9; $display("%0d", q); #10 $display("%0d", q);',
      '9\n3\n',
    ],
    [
      'forced and released',
      clocked,
      '#12 force q = 7; #10 $display("%0d", q); release q; $display("%0d", q); #10 $display("%0d", q);',
      '7\n7\n3\n',
    ],
    [
      'given its first value by an initial block',
      `${clocked} initial q = 200;`,
      '#1 $display("%0d", q); #6 $display("%0d", q); d = 4; #10 $display("%0d", q);',
      '200\n3\n4\n',
    ],
    [
      'written in parts by two of them',
      'reg clk = 0; always #5 clk = ~clk; reg [3:0] a = 1, b = 2; reg [7:0] q; always @(posedge clk) q[3:0] <= a; ' +
        'always @(posedge clk) q[7:4] <= b;',
      '#7 $display("%h", q); #20 a = 5; #10 $display("%h", q); b = 6; #10 $display("%h", q);',
      '21\n25\n65\n',
    ],
    [
      'given a default first',
      'reg clk = 0; always #5 clk = ~clk; reg go = 0; reg [3:0] q = 4; always @(posedge clk) begin q <= 0; if (go) q <= q; end',
      'go = 1; #30 $display("%0d", q); go = 0; #10 $display("%0d", q);',
      '4\n0\n',
    ],
    [
      'with a delay as well',
      'reg clk = 0; always #5 clk = ~clk; reg [3:0] q = 0; always @(posedge clk) q <= 1; initial #14 q <= #1 2;',
      '#16 $display("%0d", q); #10 $display("%0d", q);',
      '1\n1\n',
    ],
    [
      'a word of a memory',
      'reg clk = 0; always #5 clk = ~clk; reg [1:0] at = 1; reg [7:0] d = 8, m [0:3]; always @(posedge clk) m[at] <= d;',
      '#7 $display("%0d", m[1]); m[1] = 77; #10 $display("%0d", m[1]); at = 2; #10 $display("%0d %0d", m[1], m[2]);',
      '8\n8\n8 8\n',
    ],
    [
      'reset between edges',
      'reg clk = 0, rst_n = 1; always #5 clk = ~clk; reg [3:0] d = 6, q; ' +
        'always @(posedge clk or negedge rst_n) if (!rst_n) q <= 0; else q <= d;',
      '#7 $display("%0d", q); #1 rst_n = 0; #1 $display("%0d", q); rst_n = 1; #1 $display("%0d", q); #10 $display("%0d", q);',
      '6\n0\n0\n6\n',
    ],
    [
      'of what a function makes of other signals',
      'reg clk = 0; always #5 clk = ~clk; reg [3:0] d = 1, k = 1, q; function [3:0] f(input [3:0] x); f = x + k; endfunction ' +
        'always @(posedge clk) q <= f(d);',
      '#7 $display("%0d", q); k = 5; #10 $display("%0d", q);',
      '2\n6\n',
    ],
  ])('are right all the same: %s', (_, declared, body, expected) => {
    expect(printed(declared, `${body} $finish;`)).toBe(expected);
  });

  test('agree with what a fabric of the same design does, however seldom its inputs change', () => {
    const design =
      'module d(input clk, input [3:0] a, input en, output reg [7:0] s, output reg [3:0] l, output [7:0] m); ' +
      'reg [7:0] store [0:3]; assign m = store[l[1:0]]; initial begin s = 0; l = 0; end ' +
      'always @(posedge clk) if (en) s <= s + a; always @(posedge clk) l <= a; ' +
      'always @(posedge clk) if (en) store[a[1:0]] <= s; endmodule';
    const change = fc.record({ after: fc.integer({ min: 1, max: 6 }), a: fc.nat(15), en: fc.boolean() });
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 12 }), (changes) => {
        const { netlist } = elaborate([{ name: 'd.v', text: design }], { top: 'd' });
        if (!netlist) throw new Error('not read');
        const fabric = new Simulator(optimise(netlist).netlist, 'javascript');
        const lines: string[] = [];
        let body = '';
        for (const { after, a, en } of changes) {
          fabric.setInput('a', BigInt(a));
          fabric.setInput('en', en ? 1n : 0n);
          body += `a = ${a}; en = ${en ? 1 : 0}; repeat (${after}) @(posedge clk); #1 $display("%0d %0d", s, l); `;
          fabric.step(fabric.domain('clk'), after);
          lines.push(`${fabric.getOutput('s')} ${fabric.getOutput('l')}\n`);
        }
        const bench =
          `module bench; reg clk = 0, en; reg [3:0] a; wire [7:0] s, m; wire [3:0] l; always #5 clk = ~clk; ` +
          `d u(clk, a, en, s, l, m); initial begin ${body} $finish; end endmodule`;
        expect(ran(`${design}\n${bench}`, { top: 'bench' }).output).toBe(lines.join(''));
      }),
      { numRuns: 40 },
    );
  });
});

describe('how it ends', () => {
  test.each([
    ['module t; initial #5 $finish; endmodule', 'finish'],
    ['module t; initial #5 $stop; endmodule', 'stop'],
    ['module t; initial #5; endmodule', 'idle'],
    ['module t; reg c = 0; always #5 c = !c; endmodule', 'limit'],
    ['module t; initial forever begin end endmodule', 'loop'],
    ['module t; wire a; reg b; assign a = b === 1 ? ~a : 0; initial b = 1; endmodule', 'oscillation'],
    [
      'module t; function automatic integer f(input integer n); f = f(n); endfunction initial $display(f(1)); endmodule',
      'fault',
    ],
  ])('%s', (text, ending) => {
    const run = ran(text, { until: { seconds: 1e-6 } });
    expect(run.ending).toBe(ending);
    if (ending === 'oscillation') expect(run.told).toContain('t (test.v, line 1)');
  });
});
