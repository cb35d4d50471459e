// A case of constants as a look-up, against what the netlist says word by word.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../../hdl/index.ts';
import { item } from '../../lists.ts';
import { type Netlist, optimise } from '../../netlist/index.ts';
import { withLookUps } from './choices.ts';
import { Simulator } from './index.ts';

const netlistOf = (text: string): Netlist => {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 'm' });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return optimise(netlist).netlist;
};
const lookUps = (netlist: Netlist) => withLookUps(netlist).memories.length - netlist.memories.length;

interface Arm {
  readonly labels: readonly number[];
  readonly value: number;
}

const cased = (arms: readonly Arm[], rest: string | null) =>
  `module m(input [5:0] s, input [11:0] other, output reg [11:0] y);
  always @* case (s)
    ${arms.map(({ labels, value }) => `${labels.map((label) => `6'd${label}`).join(', ')}: y = 12'd${value};`).join('\n    ')}
    ${rest === null ? '' : `default: y = ${rest};`}
  endcase
endmodule`;

const arms = fc
  .uniqueArray(fc.integer({ min: 0, max: 63 }), { minLength: 6, maxLength: 64 })
  .chain((labels) =>
    fc
      .array(fc.integer({ min: 0, max: 4095 }), { minLength: labels.length, maxLength: labels.length })
      .map((values) => labels.map((label, i): Arm => ({ labels: [label], value: item(values, i) }))),
  );

describe('a row of choices between constants', () => {
  test('is one look-up, and gives what the case says for every value', () =>
    fc.assert(
      fc.property(arms, fc.integer({ min: 0, max: 4095 }), (list, rest) => {
        const netlist = netlistOf(cased(list, `12'd${rest}`));
        const simulator = new Simulator(netlist);
        for (let s = 0; s < 64; s++) {
          simulator.setInput('s', BigInt(s));
          const wanted = list.find(({ labels }) => labels.includes(s))?.value ?? rest;
          expect(simulator.getOutput('y')).toBe(BigInt(wanted));
        }
      }),
      { numRuns: 60 },
    ));

  test('several labels of one value, and the one that comes first where two say the same', () => {
    const list = Array.from({ length: 10 }, (_, i): Arm => ({ labels: [i, i + 20], value: 100 + i }));
    const netlist = netlistOf(cased([...list, { labels: [3, 50], value: 7 }], "12'd9"));
    expect(lookUps(netlist)).toBe(1);
    const simulator = new Simulator(netlist);
    const at = (s: number) => {
      simulator.setInput('s', BigInt(s));
      return Number(simulator.getOutput('y'));
    };
    expect([at(3), at(23), at(50), at(63), at(9), at(29)]).toEqual([103, 103, 7, 9, 109, 109]);
  });

  test('stays as it is where it is short, chooses between signals, or ends in one', () => {
    const list = (length: number) => Array.from({ length }, (_, i): Arm => ({ labels: [i], value: 100 + i }));
    expect(lookUps(netlistOf(cased(list(4), "12'd9")))).toBe(0);
    expect(lookUps(netlistOf(cased(list(12), 'other')))).toBe(0);
    expect(lookUps(netlistOf(cased(list(12), "12'd9")))).toBe(1);
    // With every value said nothing is left for the default.
    expect(lookUps(netlistOf(cased(list(64), 'other')))).toBe(1);
  });
});
