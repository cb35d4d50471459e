// Names of registers as the sources gave them, whatever became of the words.
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../../tests/support/mapped-equals.ts';
import { blast } from '../blast.ts';
import { ClockNames, WordNames } from './names.ts';

/** Names of the registers of a mapped design, whole and by their highest bits. */
function registers(text: string) {
  const { source } = blast(netlistOf(text));
  const words = new WordNames(source);
  return source.registers
    .map(({ node }) => ({
      name: words.of(node),
      top: words.bit(node, (source.nodes[node]?.width ?? 1) - 1),
      all: [...words.all(node)].sort(),
    }))
    .sort((x, y) => (x.name < y.name ? -1 : 1));
}

describe('names of words', () => {
  test('one that was made narrower keeps its name, without bits that are not there', () => {
    expect(
      registers(
        'module m(input clk, output [31:0] y); reg [31:0] n = 0; always @(posedge clk) n <= n == 11 ? 0 : n + 1; assign y = n; endmodule',
      ),
    ).toEqual([{ name: 'm.n', top: 'm.n[3]', all: ['m.n', 'm.y'] }]);
  });
  test('parts of a register that was taken apart lie where they lay', () => {
    const [low, high] = registers(
      'module m(input clk, input [3:0] a, output [7:0] y); function [3:0] f(input [3:0] v); case (v) 1: f = 9; 2: f = 4; 7: f = 1; default: ' +
        'f = 0; endcase endfunction reg [3:0] x, z; reg [7:0] s; always @(posedge clk) begin x <= a; z <= x + a; s <= {f(z), f(x)}; end ' +
        'assign y = s; endmodule',
    ).filter(({ name }) => name.startsWith('m.s') || name.startsWith('m.y'));
    // As one word, or as two halves: each bit has the number that it has in the sources.
    expect(high?.top ?? low?.top).toMatch(/^m\.[sy]\[7\]$/);
    if (high) expect(low?.top).toMatch(/^m\.[sy]\[3\]$/);
  });
  test('the name in the instance that the logic is written in comes before that of a port above it', () => {
    const [one] = registers(
      'module c(input clk, d, output reg kept); always @(posedge clk) kept <= d; endmodule ' +
        'module m(input clk, d, output y); c u(clk, d, y); endmodule',
    );
    expect(one?.name).toBe('m.u.kept');
    expect(one?.all).toEqual(['m.u.kept', 'm.y']);
  });
  test('logic without a name is said to be in its instance; clocks are named by their ports or what carries them', () => {
    const { source } = blast(
      netlistOf(
        'module m(input clk, output y); reg [3:0] t = 0; wire slow = t[3]; reg q = 0; always @(posedge clk) t <= t + 1; always @(posedge slow) q <= ~q; ' +
          'assign y = q; endmodule',
      ),
    );
    const unnamed = source.nodes.findIndex((node) => node.op === 'add');
    expect(new WordNames(source).of(unnamed)).toBe('logic in m');
    expect(new ClockNames(source).all()).toEqual(['clk', 'm.slow']);
  });
});
