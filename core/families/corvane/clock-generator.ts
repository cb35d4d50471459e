import type { ClockGenerator } from '../cells.ts';

const MODULE = 'corvane_clock_generator';
const LOCK_CYCLES = 64;

/** Of a clock generator. docs/silicon.md, section 10 */
const BEHAVIOUR = `// How the clock generator behaves, for simulation. In hardware it is a cell of the part.
\`timescale 1ps / 1ps
module ${MODULE} #(
  parameter MULTIPLY = 1,
  parameter DIVIDE = 1,
  parameter DIVIDE_A = 1,
  parameter DIVIDE_B = 0,
  parameter DIVIDE_C = 0
) (
  input clock_in,
  output reg clock_a,
  output reg clock_b,
  output reg clock_c,
  output reg locked
);
  integer seen;
  real first, last, cycle, start;

  initial begin
    {clock_a, clock_b, clock_c, locked} = 4'b0;
    seen = 0;
  end

  always @(posedge clock_in) begin
    // A clock that stood still, or runs otherwise than before, is looked at anew.
    if (locked ? $realtime - last < 0.9 * cycle || $realtime - last > 1.1 * cycle
               : seen > 1 && $realtime - last > 2.0 * (last - first) / (seen - 1)) begin
      locked = 0;
      seen = 0;
    end
    if (seen == 0) first = $realtime;
    last = $realtime;
    if (!locked) begin
      seen = seen + 1;
      if (seen > ${LOCK_CYCLES} * DIVIDE) begin
        cycle = (last - first) / (seen - 1);
        start = last;
        locked = 1;
      end
    end
  end

  always @(posedge locked) begin
    while (locked) begin
      #(DIVIDE * cycle);
      if (locked && $realtime - last > 1.5 * DIVIDE * cycle) begin
        locked = 0;
        seen = 0;
      end
    end
  end
${['a', 'b', 'c']
  .map(
    (output) => `
  always @(posedge locked) begin : run_${output}
    integer halves;
    halves = 0;
    while (locked && DIVIDE_${output.toUpperCase()} > 0) begin
      clock_${output} = halves % 2 == 0;
      halves = halves + 1;
      // From the beginning, so that what is rounded does not add up.
      #(start + halves * (cycle * DIVIDE * DIVIDE_${output.toUpperCase()} / (2.0 * MULTIPLY)) - $realtime);
    end
    clock_${output} = 0;
  end
`,
  )
  .join('')}endmodule
`;

/** docs/silicon.md, section 10 */
export const CLOCK_GENERATOR: ClockGenerator = {
  module: MODULE,
  behaviour: { name: `${MODULE}.v`, text: BEHAVIOUR },
  input: 'clock_in',
  outputs: ['clock_a', 'clock_b', 'clock_c'],
  locked: 'locked',
  parameters: { multiply: 'MULTIPLY', divide: 'DIVIDE', outputs: ['DIVIDE_A', 'DIVIDE_B', 'DIVIDE_C'] },
  limits: {
    multiply: { least: 2, most: 128 },
    divide: { least: 1, most: 32 },
    divideOutput: { least: 2, most: 128 },
    input: { least: 1e6, most: 200e6 },
    compared: { least: 1e6, most: 50e6 },
    inner: { least: 320e6, most: 800e6 },
  },
};
