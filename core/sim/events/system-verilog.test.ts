// What testbenches and designs borrow from IEEE 1800. Expected values: the clause named, from memory.
import { describe, expect, test } from 'vitest';
import { printed, ran, shown } from '../../../tests/support/simulated.ts';

const sv = (text: string) => ran(text, { name: 'test.sv' });
const out = (declarations: string, statements: string) => printed(declarations, statements, 'test.sv');
const value = (format: string, expression: string, declarations = '') =>
  shown(format, expression, declarations, 'test.sv');

describe('words of the standard a file is written in', () => {
  test('in Verilog they are names, in SystemVerilog words', () => {
    const text =
      'module t; reg bit, logic, do, int, priority; initial begin bit = 1; do = bit; $display("%b", do); end endmodule';
    expect(ran(text).output).toBe('1\n');
    expect(() => ran(text, { name: 'test.sv' })).toThrow();
  });
  test('begin_keywords decides for the lines it holds', () => {
    const text =
      '`begin_keywords "1364-2005"\nmodule t; reg logic = 1; u x(); endmodule\n`end_keywords\nmodule u; logic [1:0] a = 2; initial #1 $display("%0d %b", a, t.logic); endmodule';
    expect(sv(text).output).toBe('2 1\n');
  });
  test('a word of the newer standard in an old file is told with the way round', () => {
    expect(() => ran('module t; logic a; endmodule')).toThrow(/logic/);
  });
});

describe('types', () => {
  test('two-state types begin at 0 and take x as 0', () => {
    expect(
      out(
        'bit b; int i; byte c; logic l;',
        'b = 1\'bx; $display("%b %0d %0d %b", b, i, c, l); c = 200; $display("%0d", c);',
      ),
    ).toBe('0 0 0 x\n-56\n');
  });
  test('enums: methods and printed names', () => {
    expect(
      out(
        'typedef enum logic [1:0] {RED, AMBER, GREEN} light_t; light_t l;',
        'l = RED; $display("%s %0d", l.name(), l.num()); l = l.next(); $display("%s", l.name()); l = l.next(2); $display("%s %s", l.name(), l.last().name());',
      ).replace(/ GREEN\n$/, ' GREEN\n'),
    ).toContain('RED 3\nAMBER\nRED');
  });
  test('packed structures and patterns', () => {
    expect(
      out(
        'typedef struct packed { logic [3:0] a; logic [7:0] b; } pair_t; pair_t p; logic [7:0] m [0:3];',
        "p = '{a: 4'h5, b: 8'hc3}; $display(\"%h %h\", p, p.b); p.a = 4'hf; $display(\"%h\", p); m = '{8'd1, 8'd2, 8'd3, 8'd4}; $display(\"%0d %0d\", m[0], m[3]); m = '{default: 8'd7}; $display(\"%0d\", m[2]);",
      ),
    ).toBe('5c3 c3\nfc3\n1 4\n7\n');
  });
  test('texts', () => {
    expect(
      out(
        'string s, u;',
        's = "lock"; u = {s, "house"}; $display("%s %0d %s", u, u.len(), u.substr(0, 3)); if (s == "lock") $display("same"); s = $sformatf("%0d-%s", 5, s); $display("%s", s.toupper());',
      ),
    ).toBe('lockhouse 9 lock\nsame\n5-LOCK\n');
  });
  test('casts and streams', () => {
    expect(value('%0d', "int'(3.7)")).toBe('4');
    expect(value('%b', "4'(8'hf5)")).toBe('0101');
    expect(value('%0d', "signed'(4'b1111)")).toBe('-1');
    expect(value('%h', "{<< 8 {32'h11223344}}")).toBe('44332211');
    expect(value('%b', "{<< {4'b0010}}")).toBe('0100');
    expect(value('%h', "{>> {16'habcd}}")).toBe('abcd');
    expect(value('%b', "8'hf2 inside {[8'h00:8'h0f], 8'hf2}")).toBe('1');
    expect(value('%b', "4'b1011 ==? 4'b1x11")).toBe('1');
  });
});

describe('statements', () => {
  test('loops: foreach, do while, break, continue, a counter of its own', () => {
    expect(
      out(
        'int m [0:3]; int n;',
        'foreach (m[i]) m[i] = i * i; n = 0; foreach (m[i]) n += m[i]; $display("%0d", n); n = 0; do n++; while (n < 5); for (int i = 0; i < 10; i++) begin if (i == 2) continue; if (i == 4) break; n += i; end $display("%0d", n);',
      ),
    ).toBe('14\n9\n');
  });
  test('return, void functions, default arguments, static and automatic', () => {
    const run =
      sv(`module t; function automatic int clip(int v, int most = 10); if (v > most) return most; return v; endfunction
      function void say(string s); $display("%s", s); endfunction
      initial begin $display("%0d %0d", clip(50), clip(50, 20)); say("said"); end endmodule`);
    expect(run.output).toBe('10 20\nsaid\n');
  });
  test('always_comb runs at the start; always_ff and always_latch', () => {
    const run =
      sv(`module t; logic clk = 0, en = 0, d = 1, q, l; logic y; always_comb y = ~1'b0; always_ff @(posedge clk) q <= d; always_latch if (en) l = d;
      initial begin #1 $display("%b %b %b", y, q, l); clk = 1; en = 1; #1 $display("%b %b", q, l); end endmodule`);
    expect(run.output).toBe('1 x x\n1 1\n');
  });
  test('fork join_any and join_none, wait fork, disable fork', () => {
    const run =
      sv(`module t; int n = 0; initial begin fork #5 n += 1; #10 n += 10; join_any $display("%0d %0t", n, $time); wait fork; $display("%0d %0t", n, $time);
      fork #5 n += 100; join_none $display("%0d %0t", n, $time); disable fork; #20 $display("%0d", n); end endmodule`);
    expect(run.output).toBe('1 5\n11 10\n11 10\n11\n');
  });
  test('assertions and severities are counted with their places', () => {
    const run = sv(`module t; int a = 3;
      initial begin
        assert (a == 3); assert (a == 4);
        assert (a > 5) else $error("a is %0d", a);
        $warning("careful"); $info("note");
        #5 assert (a < 0) $display("no"); else $display("else");
        $fatal(1, "end");
        $display("never");
      end endmodule`);
    expect(run.ending).toBe('fatal');
    expect(run.errors).toBe(3);
    expect(run.reports.map(({ severity, at, time }) => [severity, at.line, time])).toEqual([
      ['error', 3, 0],
      ['error', 4, 0],
      ['warning', 5, 0],
      ['info', 5, 0],
      ['fatal', 7, 5],
    ]);
    expect(run.output).toBe('else\n');
  });
  test('case inside, unique, packages, arrays as ports', () => {
    const run =
      sv(`package p; typedef logic [7:0] byte_t; function automatic byte_t twice(byte_t v); return v << 1; endfunction localparam int N = 3; endpackage
      module sum import p::*; (input byte_t v [0:2], output logic [9:0] s); always_comb begin s = 0; foreach (v[i]) s += v[i]; end endmodule
      module t; import p::*; byte_t v [0:2]; logic [9:0] s; sum u(.v(v), .s(s)); initial begin v = '{1, 2, 3}; #1 $display("%0d %0d %0d", s, twice(v[2]), p::N);
      case (v[1]) inside [0:1]: $display("low"); [2:5]: $display("middle"); default: $display("none"); endcase end endmodule`);
    expect(run.output).toBe('6 6 3\nmiddle\n');
  });
});
