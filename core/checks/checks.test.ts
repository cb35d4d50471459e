import { describe, expect, test } from 'vitest';
import { elaborate, type Message } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { checkNetlist, explain } from './index.ts';

function check(text: string): readonly Message[] {
  const { netlist, messages } = elaborate([{ name: 't.v', text }]);
  if (!netlist) return messages.list;
  const { netlist: small, loops } = optimise(netlist);
  checkNetlist(netlist, small, loops, messages);
  return messages.list;
}
const codes = (text: string) => check(text).map((m) => `${m.code}:${m.line}`);

describe('crossings between clocks', () => {
  const between = (body: string) =>
    'module m(input c1, c2, rst, input [3:0] d, input en, output reg [3:0] y, output reg z);\nreg [3:0] a; ' +
    `always @(posedge c1) a <= d;\n${body}\nendmodule`;
  test('two registers in a row are a synchroniser, written as two registers or as one word', () => {
    expect(codes(between('reg s, t; always @(posedge c2) begin s <= a[0]; t <= s; z <= t; end'))).toContain(
      'crossing-synchronised:3',
    );
    expect(codes(between('reg [1:0] s; always @(posedge c2) begin s <= {s[0], a[0]}; z <= s[1]; end'))).toContain(
      'crossing-synchronised:3',
    );
  });
  test('one register alone, or two that both take the signal, are none', () => {
    expect(codes(between('reg s; always @(posedge c2) begin s <= a[0]; z <= s & d[1]; end'))).toContain(
      'crossing-unsynchronised:3',
    );
    expect(codes(between('reg s; always @(posedge c2) begin s <= a[0]; z <= s; y[0] <= s; end'))).toContain(
      'crossing-unsynchronised:3',
    );
  });
  test('a word that crosses bit by bit, even through two registers', () => {
    const found = check(between('reg [3:0] s; always @(posedge c2) begin s <= a; y <= s; end'));
    const bus = found.find((m) => m.code === 'crossing-bus');
    expect(bus).toMatchObject({ severity: 'serious', line: 3, message: expect.stringContaining('4 bits') });
    expect(bus?.trail?.map((stop) => stop.name)).toEqual(['m.a (clock c1)', 'm.s (clock c2)']);
  });
  test('logic on the way, an enable of the own clock, a foreign enable, a foreign reset', () => {
    expect(codes(between('always @(posedge c2) z <= a[0] & a[1];'))).toContain('crossing-logic:1');
    expect(codes(between('reg e; always @(posedge c2) begin e <= en; if (e) y <= a; end'))).toContain(
      'crossing-qualified:1',
    );
    expect(codes(between('always @(posedge c2) if (a[0]) y <= d;'))).toContain('crossing-logic:1');
    expect(
      codes(
        between(
          'reg r; always @(posedge c1) r <= rst; always @(posedge c2 or posedge r) if (r) z <= 0; else z <= d[0];',
        ),
      ),
    ).toContain('crossing-reset:1');
  });
  test('one clock alone has none', () => {
    expect(
      codes('module m(input c, d, output reg q); reg a; always @(posedge c) begin a <= d; q <= a; end endmodule'),
    ).toEqual([]);
  });
});

describe('clocks', () => {
  test('divided, gated and read as data', () => {
    expect(
      codes(
        'module m(input c, output reg q);\nreg h; always @(posedge c) h <= ~h; always @(posedge h) q <= ~q; endmodule',
      ),
    ).toEqual(['derived-clock:2']);
    expect(
      codes(
        'module m(input c, en, output reg q, z);\nwire g = c & en; always @(posedge g) q <= ~q; always @(posedge ' +
          'c) z <= en; endmodule',
      ),
    ).toContain('gated-clock:2');
    expect(
      codes('module m(input c, d, output reg q, output y); always @(posedge c) q <= d; assign y = c & d; endmodule'),
    ).toEqual(['clock-as-data:1']);
  });
});

describe('signals', () => {
  test('unused, removed with a fix that keeps, and stuck registers', () => {
    expect(codes('module m(input a, output y);\nwire u = ~a; assign y = a; endmodule')).toEqual(['unused:2']);
    const removed = check(
      'module m(input c, a, output y);\nreg u;\nreg v; always @(posedge c) begin u <= a; v <= u; end assign y = ' +
        'a; endmodule',
    );
    expect(removed.find((m) => m.line === 2)).toMatchObject({
      code: 'removed',
      fix: { kind: 'insert', insertions: [{ line: 2, insert: '(* keep *) ' }] },
    });
    expect(
      codes('module m(input c, output y);\nreg u = 0; always @(posedge c) u <= u & 1; assign y = u; endmodule'),
    ).toContain('never-changes:2');
  });
  test('keep protects a net, and it survives', () => {
    const text =
      'module m(input c, a, output y);\n(* keep *) reg u; always @(posedge c) u <= a; assign y = a; endmodule';
    expect(codes(text)).toEqual([]);
    const { netlist } = elaborate([{ name: 't.v', text }]);
    expect(netlist && optimise(netlist).netlist.signals.some((s) => s.name === 'm.u')).toBe(true);
  });
  test('is said once for a module, not for each of its instances, and not where one of them is read', () => {
    const inner = 'module i(input a, output y);\nwire u = ~a; assign y = a; endmodule\n';
    expect(codes(`${inner}module m(input a, output y, z); i p(a, y); i q(a, z); endmodule`)).toEqual(['unused:2']);
  });
});

describe('arms and loops', () => {
  test('a missing arm names its values and offers a default', () => {
    const [message] = check(
      'module m(input c, output reg [1:0] s);\nalways @(posedge c) case (s) 0: s <= 1; 1: s <= 2; 2: s <= 0; ' +
        'endcase endmodule',
    );
    expect(message).toMatchObject({
      code: 'case-open',
      severity: 'info',
      message: expect.stringContaining('No arm takes 3'),
      fix: { insertions: [{ insert: 'default: ;\n    ' }] },
    });
  });
  test('a loop of every bit of a word is told once, by the word; of one bit, by the bit', () => {
    const loops = (body: string) =>
      check(`module m(input [3:0] a, output [3:0] y); wire [3:0] q; assign y = q; ${body} endmodule`)
        .filter(({ code }) => code === 'loop')
        .map(({ message }) => message);
    expect(loops('assign q = a ^ (q + 1);')).toEqual([expect.stringMatching(/: m\.q > m\.q\./)]);
    expect(loops('assign q = {a[3], q[1] & a[2], ~q[2], a[0]};')).toEqual([
      expect.stringMatching(/m\.q\[1\] > m\.q\[2\]|m\.q\[2\] > m\.q\[1\]/),
    ]);
  });
  test('a loop is drawn with the place of each signal on it', () => {
    const [loop] = check(
      'module m(input a, output y);\nwire p, q;\nassign p = q & a;\nassign q = ~p;\nassign y = q; endmodule',
    );
    expect(loop).toMatchObject({ code: 'loop', severity: 'error' });
    expect(loop?.trail?.map((stop) => stop.name).sort()).toEqual(['m.p', 'm.q']);
  });
});

test('every message that is more than a syntax error has an explanation with something to do', () => {
  for (const code of [
    'latch',
    'several-drivers',
    'loop',
    'width-loss',
    'undriven',
    'unused',
    'clock-as-data',
    'derived-clock',
    'gated-clock',
    'case-open',
    'removed',
    'crossing-bus',
    'crossing-unsynchronised',
    'crossing-logic',
    'crossing-synchronised',
    'clock-unconstrained',
    'memory-order',
    'memory-clocks',
    'module-unused',
    'unplaced-clock',
    'several-tops',
    'no-top',
  ]) {
    expect(explain(code)?.why.length).toBeGreaterThan(40);
    expect(explain(code)?.next.length).toBeGreaterThan(0);
  }
});
