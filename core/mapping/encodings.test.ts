// State machines take as little in whatever code they are written.
import { describe, expect, test } from 'vitest';
import { expectEqual, netlistOf } from '../../tests/support/mapped-equals.ts';
import { randomMachine } from '../../tests/support/random-machine.ts';
import { delaysOf, MEMORIES } from '../families/corvane/delays.ts';
import { map } from './map.ts';
import { countResources } from './resources.ts';
import { time } from './timing/index.ts';

const figuresOf = (text: string) => {
  const mapped = map(netlistOf(text), MEMORIES);
  return {
    luts: countResources(mapped).total.luts,
    highest: time(mapped, delaysOf(2), new Map()).clocks[0]?.highest ?? 0,
  };
};

describe('state machines', () => {
  // As they stand in the source: 26 tables and 159 MHz of twelve states counted, 70 and 120 with a bit each; 38 and 122,
  // 107 and 94 of the first sixteen; 48 and 99, 113 and 86 of the second.
  test.each([
    [8, 1, 16, 190e6],
    [12, 1, 19, 260e6],
    [16, 1, 30, 210e6],
    [16, 2, 33, 260e6],
  ])('of %i states (%i) take at most %i tables and run at %d Hz, counted, gray or a bit each', (...wanted) => {
    const [states, seed, most, least] = wanted;
    for (const codes of ['counted', 'gray', 'one-hot'] as const) {
      const { luts, highest } = figuresOf(randomMachine(states, codes, seed));
      expect(luts, codes).toBeLessThanOrEqual(most);
      expect(highest, codes).toBeGreaterThanOrEqual(least);
    }
  });

  test('are mapped to what their words compute, after their states were written anew', () => {
    for (const codes of ['counted', 'one-hot', 'scattered'] as const)
      expectEqual(netlistOf(randomMachine(9, codes, 5)), 60);
  });

  test('tell what was written anew; a bit that stands for a state is called by its value', () => {
    const mapped = map(netlistOf(randomMachine(12, 'gray', 1)), MEMORIES);
    expect(mapped.machines).toEqual([{ name: 'm.st', file: 't.v', line: 18, states: 12, bits: 4, mappedBits: 12 }]);
    const ends = time(mapped, delaysOf(2), new Map()).clocks[0]?.paths.map(({ to }) => to) ?? [];
    expect(ends[0]).toMatch(/^m\.st = \d+$/);
  });

  test('a rule of the timing table that names the register is about its new bits too', () => {
    const mapped = map(netlistOf(randomMachine(12, 'counted', 1)), MEMORIES);
    const rule = { kind: 'false path', from: 'st', to: 'st', cycles: 0, line: 1 } as const;
    const { clocks, rules } = time(mapped, delaysOf(2), new Map(), { ways: [rule], ports: [] });
    expect(rules?.[0]?.ways).toBeGreaterThan(0);
    expect(clocks[0]?.paths.filter(({ from, to }) => from.startsWith('m.st') && to.startsWith('m.st'))).toEqual([]);
    // What a way says of its ends is what a rule about it has to say.
    const [way] = time(mapped, delaysOf(2), new Map()).clocks[0]?.paths ?? [];
    expect(way?.from).toMatch(/^m\.st = /);
    expect(way?.ends).toEqual({ from: 'm.st', to: 'm.st' });
  });

  test('several in one design are written anew each for itself, in whatever instance', () => {
    const part = randomMachine(10, 'one-hot', 2).replace('module m(', 'module part(');
    const text = `${part}
      module m(input clk, rst, input [7:0] i, output [5:0] o, p, output [3:0] b);
        part u(clk, rst, i, o, b[0], b[1], ); part v(clk, rst, ~i, p, b[2], b[3], );
      endmodule`;
    const mapped = expectEqual(netlistOf(text), 40);
    expect(mapped.machines.map(({ name, states, bits }) => [name, states, bits]).sort()).toEqual([
      ['m.u.st', 10, 10],
      ['m.v.st', 10, 10],
    ]);
    const one = countResources(map(netlistOf(part.replace('module part(', 'module m(')), MEMORIES)).total.luts;
    expect(countResources(mapped).total.luts).toBeLessThanOrEqual(2 * one + 2);
  });

  test('whose state is wanted as it is keep it where that takes less', () => {
    const text = `module m(input clk, input [3:0] i, output reg [2:0] s); always @(posedge clk)
      case (s) 0: if (i[0]) s <= 1; 1: s <= 3; 3: s <= 2; 2: s <= 6; default: s <= 0; endcase endmodule`;
    const mapped = map(netlistOf(text), MEMORIES);
    expect(mapped.design.flipFlops.map(({ q }) => q.length)).toEqual([3]);
  });
});
