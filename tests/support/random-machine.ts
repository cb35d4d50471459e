// State machines as people write them, in the codes that people choose.
import { type Chance, chanceFrom } from '../fuzz/index.ts';

export type Codes = 'counted' | 'gray' | 'one-hot' | 'scattered';

/**
 * A module `m` with a clock, a reset, eight inputs, outputs that follow from the state and some that follow from state
 * and inputs; `shown` puts the state itself on an output.
 */
export function randomMachine(states: number, codes: Codes, seed: number, shown = false): string {
  const chance = chanceFrom(seed);
  const bits = codes === 'one-hot' ? states : codes === 'scattered' ? 9 : Math.ceil(Math.log2(states));
  const code = codesOf(states, codes, chance).map((value) => `${bits}'d${value}`);
  const arms = code.map((at, i) => `      ${at}: ${wayFrom(i, code, chance)}`);
  const outputs = code.map((at) => `      ${at}: o = ${1 << chance.below(6)} | ${chance.below(2) << chance.below(6)};`);
  const asynchronous = chance.below(3) === 0;
  return `module m(input clk, rst, input [7:0] i, output reg [5:0] o, output busy, go, output [${bits - 1}:0] seen);
  reg [${bits - 1}:0] st = ${code[0]};
  always @(posedge clk${asynchronous ? ' or posedge rst' : ''})
    if (rst) st <= ${code[0]};
    else case (st)
${arms.join('\n')}
      default: st <= ${code[0]};
    endcase
  always @* begin
    o = 0;
    case (st)
${outputs.join('\n')}
      default: o = 0;
    endcase
  end
  assign busy = st != ${code[0]};
  assign go = st == ${code[1]} && i[3] || st == ${code[2]} && ^i;
  assign seen = ${shown ? 'st' : '0'};
endmodule`;
}

function codesOf(states: number, codes: Codes, chance: Chance): number[] {
  const each = Array.from({ length: states }, (_, i) => i);
  if (codes === 'counted') return each;
  if (codes === 'gray') return each.map((i) => i ^ (i >> 1));
  if (codes === 'one-hot') return each.map((i) => 2 ** i);
  const found = new Set<number>();
  while (found.size < states) found.add(chance.below(512));
  return [...found];
}

function wayFrom(from: number, code: readonly string[], chance: Chance): string {
  const next = code[(from + 1) % code.length];
  const bit = () => chance.below(8);
  if (chance.below(3) === 0) return `st <= ${next};`;
  const other = chance.below(2) === 0 ? `else if (i[${bit()}]) st <= ${chance.pick(code)};` : '';
  return `if (i[${bit()}]) st <= ${next}; ${other}`;
}
