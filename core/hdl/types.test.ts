import { describe, expect, test } from 'vitest';
import { run as runVerilog } from '../../tests/support/fabric.ts';
import { elaborate } from './index.ts';

/** SystemVerilog throughout, but where older sources are meant. */
const run = (text: string) => runVerilog(text, 'wasm', 'test.sv');

const complaints = (text: string): string[] => elaborate([{ name: 'test.sv', text }]).messages.list.map((m) => m.code);
const valueFrom = (text: string, inputs: Readonly<Record<string, bigint>> = {}): bigint => {
  const sim = run(text);
  for (const [name, value] of Object.entries(inputs)) sim.setInput(name, value);
  return sim.getOutput('y');
};

// Expected values: IEEE 1800 clauses on packed types, from memory.
describe('packed structures', () => {
  const text = `
    typedef struct packed { logic [3:0] kind; logic [1:0][7:0] body; logic last; } frame_t;
    module m(input frame_t f, output [20:0] y, output [3:0] k, output [7:0] upper, output last);
      frame_t g;
      always_comb begin g = f; g.body[0] = f.body[1]; g.last = ~f.last; end
      assign y = g; assign k = f.kind; assign upper = f.body[1]; assign last = f.last;
    endmodule`;
  test('the first field lies uppermost, packed arrays inside from the left', () => {
    const sim = run(text);
    sim.setInput('f', (0xan << 17n) | (0x12n << 9n) | (0x34n << 1n) | 1n);
    expect(sim.getOutput('k')).toBe(0xan);
    expect(sim.getOutput('upper')).toBe(0x12n);
    expect(sim.getOutput('last')).toBe(1n);
    expect(sim.getOutput('y')).toBe((0xan << 17n) | (0x12n << 9n) | (0x12n << 1n));
  });
  test('patterns fill them by order, by name and by default', () => {
    const make = (pattern: string) =>
      `typedef struct packed { logic [3:0] a; logic [3:0] b; } t; module m(output t y); assign y = ${pattern}; ` +
      'endmodule';
    expect(valueFrom(make("'{4'd1, 4'd2}"))).toBe(0x12n);
    expect(valueFrom(make("'{b: 4'd7, a: 4'd3}"))).toBe(0x37n);
    expect(valueFrom(make("'{a: 4'd9, default: '1}"))).toBe(0x9fn);
    expect(complaints(make("'{4'd1}"))).toEqual(['pattern']);
    expect(complaints(make("'{c: 4'd1, default: 0}"))).toEqual(['no-field']);
  });
  test('a field that is not there is named with those that are', () => {
    const { messages } = elaborate([
      {
        name: 't.sv',
        text: 'module m(output y); struct packed { logic a; logic b; } s; assign s = 0; assign y = s.c; endmodule',
      },
    ]);
    expect(messages.list[0]).toMatchObject({ code: 'no-field', message: expect.stringContaining('a, b') });
  });
});

describe('enums', () => {
  const text = `
    package p; typedef enum logic [1:0] { IDLE, FILL = 2, DRAIN } state_t; localparam int STEP = 3; function automatic int twice(input int x); return 2 * x; endfunction endpackage
    module m import p::*; (input clk, input go, output [1:0] y, output [7:0] z);
      state_t state = IDLE;
      always_ff @(posedge clk) unique case (state) IDLE: if (go) state <= FILL; FILL: state <= DRAIN; DRAIN: state <= IDLE; endcase
      assign y = state; assign z = p::twice(STEP);
    endmodule`;
  test('names count on from the last value and work through an import', () => {
    const sim = run(text);
    const clk = sim.domain('clk');
    sim.setInput('go', 1n);
    const seen = [0, 1, 2, 3].map(() => {
      const now = sim.getOutput('y');
      sim.step(clk);
      return now;
    });
    expect(seen).toEqual([0n, 2n, 3n, 0n]);
    expect(sim.getOutput('z')).toBe(6n);
  });
  test('their names are kept for whoever shows the value', () => {
    const { netlist } = elaborate([{ name: 't.sv', text }]);
    expect(netlist?.signals.find((s) => s.name === 'm.state')?.names).toEqual([
      { value: '0', name: 'IDLE' },
      { value: '2', name: 'FILL' },
      { value: '3', name: 'DRAIN' },
    ]);
  });
  test('parameters that label the cases of a state register are its names too, a lone constant is none', () => {
    const { netlist } = elaborate([
      {
        name: 't.sv',
        text: `module m(input clk, output reg [1:0] s, output reg t);
      localparam A = 2'd0, B = 2'd1; localparam LIMIT = 1;
      always @(posedge clk) begin case (s) A: s <= B; B: s <= A; default: s <= A; endcase case (t) LIMIT: t <= 0; default: t <= 1; endcase end endmodule`,
      },
    ]);
    expect(netlist?.signals.find((s) => s.name === 'm.s')?.names).toEqual([
      { value: '0', name: 'A' },
      { value: '1', name: 'B' },
    ]);
    expect(netlist?.signals.find((s) => s.name === 'm.t')?.names).toEqual([]);
  });
  test('a value too large or given twice is refused', () => {
    expect(complaints('module m(output y); typedef enum logic { A, B, C } t; assign y = A; endmodule')).toContain(
      'enum-value',
    );
    expect(
      complaints('module m(output y); typedef enum logic [1:0] { A, B = 0 } t; assign y = A; endmodule'),
    ).toContain('enum-value');
  });
});

describe('arrays', () => {
  test('several packed dimensions, indexed with a signal on both sides', () => {
    const sim = run(`module m(input clk, input [1:0] i, input [7:0] d, output [7:0] q, output [31:0] y);
      logic [3:0][7:0] r; always_ff @(posedge clk) r[i] <= d; assign q = r[i]; assign y = r; endmodule`);
    const clk = sim.domain('clk');
    for (const i of [0n, 1n, 2n, 3n]) {
      sim.setInput('i', i);
      sim.setInput('d', 0x10n + i);
      sim.step(clk);
    }
    expect(sim.getOutput('y')).toBe(0x13121110n);
    sim.setInput('i', 2n);
    expect(sim.getOutput('q')).toBe(0x12n);
  });
  test('an array of nets is driven element by element', () => {
    expect(
      valueFrom(
        `module m(input [7:0] a, output [7:0] y); wire [7:0] stage [0:3]; assign stage[0] = a;
      genvar i; generate for (i = 1; i < 4; i = i + 1) begin : g assign stage[i] = stage[i-1] + 8'd1; end endgenerate assign y = stage[3]; endmodule`,
        { a: 5n },
      ),
    ).toBe(8n);
  });
  test('a register file cleared by a loop in its reset', () => {
    const sim =
      run(`module m(input clk, rst, input [1:0] a, input [3:0] d, output [3:0] y); reg [3:0] f [0:3]; integer i;
      always @(posedge clk or posedge rst) if (rst) for (i = 0; i < 4; i = i + 1) f[i] <= i; else f[a] <= d; assign y = f[a]; endmodule`);
    sim.setInput('rst', 1n);
    sim.setInput('a', 3n);
    expect(sim.getOutput('y')).toBe(3n);
    sim.setInput('rst', 0n);
    sim.setInput('d', 9n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('y')).toBe(9n);
  });
  test('a memory of two ranges, and one written byte by byte, stay memories', () => {
    const text = `module m(input clk, input [1:0] r, input c, input [1:0] we, input [15:0] d, output [15:0] y); reg [15:0] t [0:3][0:1]; integer i;
      always @(posedge clk) for (i = 0; i < 2; i = i + 1) if (we[i]) t[r][c][8*i +: 8] <= d[8*i +: 8]; assign y = t[r][c]; endmodule`;
    expect(elaborate([{ name: 't.sv', text }]).netlist?.memories).toHaveLength(1);
    const sim = run(text);
    const write = (r: bigint, c: bigint, we: bigint, d: bigint) => {
      for (const [name, value] of Object.entries({ r, c, we, d })) sim.setInput(name, value);
      sim.step(sim.domain('clk'));
    };
    write(2n, 1n, 3n, 0xabcdn);
    write(2n, 1n, 1n, 0x1122n);
    expect(sim.getOutput('y')).toBe(0xab22n);
    write(2n, 0n, 2n, 0x7788n);
    expect(sim.getOutput('y')).toBe(0x7700n);
  });
  test('copied whole only to one of the same size', () => {
    expect(
      valueFrom(
        "module m(output [7:0] y); logic [7:0] a [2], b [2]; always_comb begin a = '{8'd3, 8'd4}; b = a; end " +
          'assign y = b[1]; endmodule',
      ),
    ).toBe(4n);
    expect(
      complaints(
        'module m(output [7:0] y); wire [7:0] a [0:1]; wire [7:0] b [0:2]; assign a[0] = 0; assign a[1] = 0; ' +
          'assign b = a; assign y = b[0]; endmodule',
      ),
    ).toContain('whole-array');
  });
});

describe('leaving early', () => {
  test('return, break and continue follow only the paths that reach them', () => {
    const text = `module m(input [7:0] a, output [3:0] y, output [3:0] z);
      function automatic [3:0] first(input [7:0] v); for (int i = 0; i < 8; i++) if (v[i]) return i; return 4'd8; endfunction
      function automatic [3:0] counted(input [7:0] v); counted = 0; for (int i = 0; i < 8; i++) begin if (i == 6) break; if (!v[i]) continue; counted++; end endfunction
      assign y = first(a); assign z = counted(a); endmodule`;
    const sim = run(text);
    for (const a of [0n, 1n, 0b1010_0000n, 0b0001_1100n, 255n]) {
      sim.setInput('a', a);
      const bits = [...Array(8).keys()].filter((i) => (a >> BigInt(i)) & 1n);
      expect(sim.getOutput('y')).toBe(BigInt(bits[0] ?? 8));
      expect(sim.getOutput('z')).toBe(BigInt(bits.filter((i) => i < 6).length));
    }
  });
});

describe('disable', () => {
  test('leaves a block or a task around by name. Source: IEEE 1364-2005, clause 10.2', () => {
    const text = `module m(input [7:0] a, output reg [3:0] y, output reg [3:0] z);
      task settle(input stop, output reg [3:0] r); begin r = 1; if (stop) disable settle; r = 2; end endtask
      integer i, j;
      always @* begin y = 8; begin : search for (i = 0; i < 8; i = i + 1) if (a[i]) begin y = i; disable search; end y = 9; end if (y == 3) y = 10; settle(a[0], z); end endmodule`;
    const sim = run(text);
    for (const a of [0n, 1n, 0b1010_0000n, 0b0001_1000n, 255n]) {
      sim.setInput('a', a);
      const first = [...Array(8).keys()].find((i) => (a >> BigInt(i)) & 1n) ?? 9;
      expect(sim.getOutput('y')).toBe(BigInt(first === 3 ? 10 : first));
      expect(sim.getOutput('z')).toBe((a & 1n) === 1n ? 1n : 2n);
    }
  });
  test('of a block that is not around is refused with a way round', () =>
    expect(
      complaints(
        'module m(input a, output reg y); always @* begin y = 0; begin : one y = a; end disable one; end endmodule',
      ),
    ).toContain('leave'));
  test('a break outside a loop is refused', () =>
    expect(complaints('module m(input a, output reg y); always @* begin y = a; break; end endmodule')).toContain(
      'leave',
    ));
});

describe('casts and queries', () => {
  test('sizes, signs and types', () => {
    expect(valueFrom("module m(input signed [3:0] a, output [7:0] y); assign y = 8'(a); endmodule", { a: 0xen })).toBe(
      0xfen,
    );
    expect(
      valueFrom("module m(input [3:0] a, output [7:0] y); assign y = 8'(signed'(a)); endmodule", { a: 0xen }),
    ).toBe(0xfen);
    expect(
      valueFrom("typedef logic [2:0] t; module m(input [7:0] a, output [7:0] y); assign y = t'(a); endmodule", {
        a: 0xffn,
      }),
    ).toBe(7n);
    expect(
      valueFrom(
        'module m(output [7:0] y); typedef struct packed { logic [2:0] a; logic [6:0] b; } t; logic [2:0][3:0] ' +
          'v; assign v = 0; assign y = $bits(t) + $size(v) + $high(v[0]); endmodule',
      ),
    ).toBe(10n + 3n + 3n);
    expect(
      valueFrom('module m(input [7:0] a, output [3:0] y); assign y = $countones(a); endmodule', { a: 0xb5n }),
    ).toBe(5n);
    expect(
      valueFrom(
        "module m(input [7:0] a, output y); assign y = a inside {8'd3, [8'd10:8'd20], 8'b1111_????}; endmodule",
        { a: 0xf2n },
      ),
    ).toBe(1n);
  });
});

describe('names of older sources', () => {
  test('words that only SystemVerilog reserves may name signals', () => {
    const sim = runVerilog(
      'module m(input bit, input [1:0] priority, output [2:0] y); reg [2:0] do; always @* begin do = {bit, ' +
        'priority}; end assign y = do; endmodule',
    );
    sim.setInput('bit', 1n);
    sim.setInput('priority', 2n);
    expect(sim.getOutput('y')).toBe(6n);
  });
  test('an undeclared net at a port is one bit wide and said so; default_nettype none refuses it', () => {
    const body =
      'module i(input a, output y); assign y = ~a; endmodule module m(input a, output y); i u(a, w); i v(w, y); ' +
      'endmodule';
    expect(complaints(body)).toEqual(['implicit-net']);
    expect(complaints(`\`default_nettype none\n${body}`)).toContain('undeclared');
  });
  test('gates, supplies and several sets and resets', () => {
    expect(
      valueFrom('module m(input a, b, output y); wire n; supply1 one; nand g (n, a, b, one); not (y, n); endmodule', {
        a: 1n,
        b: 1n,
      }),
    ).toBe(1n);
    const sim = run(
      'module m(input clk, rst, set, d, output reg y); always @(posedge clk or posedge rst or posedge set) if ' +
        '(rst) y <= 0; else if (set) y <= 1; else y <= d; endmodule',
    );
    const at = (rst: bigint, set: bigint) => {
      sim.setInput('rst', rst);
      sim.setInput('set', set);
      return sim.getOutput('y');
    };
    expect([at(0n, 1n), at(1n, 1n), at(1n, 0n), at(0n, 0n), at(0n, 1n)]).toEqual([1n, 0n, 0n, 0n, 1n]);
  });
});

describe('labels with open digits', () => {
  test('may be parameters', () => {
    const text =
      "module m(input [3:0] s, output reg [1:0] y); localparam [3:0] A = 4'b1??0, B = 4'b01zz; always @* casez " +
      '(s) A: y = 1; B: y = 2; default: y = 3; endcase endmodule';
    expect([0b1110n, 0b0111n, 0b1111n].map((s) => valueFrom(text, { s }))).toEqual([1n, 2n, 3n]);
  });
});

describe('generate blocks', () => {
  test('names inside them are reached from outside by index', () => {
    expect(
      valueFrom(
        'module m(input [3:0] a, output y); genvar i; for (i = 0; i < 4; i = i + 1) begin : bit_of wire x; if (i ' +
          '== 0) begin : first assign x = a[0]; end else begin : later assign x = bit_of[i-1].x ^ a[i]; end end ' +
          'assign y = bit_of[3].x; endmodule',
        { a: 0b0111n },
      ),
    ).toBe(1n);
  });
  test('unnamed blocks have scopes of their own', () => {
    expect(
      complaints(
        'module m(input a, output y, z); if (1) begin wire t; assign t = a; assign y = t; end if (1) begin wire ' +
          't; assign t = ~a; assign z = t; end endmodule',
      ),
    ).toEqual([]);
  });
});

describe('pins that float', () => {
  test('an inout is an input, an output and an enable', () => {
    const { netlist } = elaborate([
      {
        name: 't.sv',
        text:
          "module m(inout sda, input low, output seen); assign sda = low ? 1'b0 : 1'bz; assign seen = sda; " +
          'endmodule',
      },
    ]);
    expect(netlist?.inputs.map((p) => p.name).sort()).toEqual(['low', 'sda']);
    expect(netlist?.outputs.find((p) => p.name === 'sda')?.enable).toBeDefined();
  });
  test('z anywhere else is refused with a way round', () => {
    expect(
      complaints("module m(input a, b, output y); wire t; assign t = a ? b : 1'bz; assign y = t; endmodule"),
    ).toEqual(['tri-state']);
    expect(complaints('module i(inout p); endmodule module m(inout p); i u(.p(p)); endmodule')).toContain('not-taken');
  });
});

describe('derived clocks', () => {
  test('a ripple counter counts', () => {
    const sim = run(
      'module m(input clk, output reg [2:0] y = 0); always @(posedge clk) y[0] <= ~y[0]; always @(negedge y[0]) ' +
        'y[1] <= ~y[1]; always @(negedge y[1]) y[2] <= ~y[2]; endmodule',
    );
    const seen = Array.from({ length: 9 }, () => {
      const now = Number(sim.getOutput('y'));
      sim.step(sim.domain('clk'));
      return now;
    });
    expect(seen).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 0]);
  });
  test('a gated clock stands still while its gate is closed', () => {
    const sim = run(
      'module m(input clk, en, output reg [3:0] y = 0); wire g = clk & en; always @(posedge g) y <= y + 1; endmodule',
    );
    for (const en of [0n, 1n, 1n, 0n, 1n]) {
      sim.setInput('en', en);
      sim.step(sim.domain('clk'));
    }
    expect(sim.getOutput('y')).toBe(3n);
  });
});
