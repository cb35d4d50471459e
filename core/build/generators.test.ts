import { describe, expect, test } from 'vitest';
import { factorsFor } from '../clocking/index.ts';
import { partNamed } from '../families/index.ts';
import { emptyPlan } from '../probes/index.ts';
import { runVectors } from '../vectors/index.ts';
import { allCells } from '../families/index.ts';
import { build, frequenciesByName, generatorInstance, type Project, readPorts } from './index.ts';
import { PieceMemory } from '../mapping/index.ts';

interface Given {
  readonly settings?: string;
  readonly input?: string;
  readonly part?: string;
  readonly clocks?: Record<string, number>;
  readonly more?: string;
}

const GIVEN = '.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8), .DIVIDE_B(12)';

function project({
  settings = GIVEN,
  input = 'clk',
  part = 'CV25',
  clocks = { clk: 12e6 },
  more = '',
}: Given = {}): Project {
  const text = `module t(input clk, input stop, output reg [7:0] slow, output reg [3:0] own, output ok);
  wire fast, third;
  wire gated = clk & stop;
  corvane_clock_generator #(${settings}) u_made (.clock_in(${input}), .clock_a(fast), .clock_b(third), .clock_c(), .locked(ok));
  reg [7:0] count = 0;
  always @(posedge fast) count <= count + 1;
  always @(posedge third) slow <= count;
  always @(posedge clk) own <= count[7:4];
  ${more}
endmodule
`;
  return {
    file: { format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 't', part, pins: 'pins.csv', clocks },
    files: [{ name: 't.v', text }],
  };
}
const built = (given: Given = {}) => build({ project: project(given), plan: emptyPlan });
const told = (given: Given, code: string) =>
  built(given)
    .messages.filter((m) => m.code === code)
    .map(({ severity, line, message }) => [severity, line, message]);

describe('a clock generator in a design', () => {
  test('makes clocks whose frequencies follow, by every name that they have', () => {
    const result = built();
    expect(result.generators).toMatchObject([
      {
        path: 'u_made',
        input: 'clk',
        file: 't.v',
        line: 4,
        outputs: [{ clock: 'u_made.clock_a' }, { clock: 'u_made.clock_b' }],
      },
    ]);
    expect(result.clocks).toEqual(['clk', 'u_made.clock_a', 'u_made.clock_b']);
    expect(frequenciesByName(result, { clk: 12e6 })).toMatchObject({
      ...{ clk: 12e6, fast: 48e6, third: 32e6, 'u_made.clock_a': 48e6, 'u_made.clock_b': 32e6 },
    });
    expect(result.signals.find(({ name }) => name === 't.count')?.domain).toBe('u_made.clock_a');
    expect(result.signals.find(({ name }) => name === 't.u_made.locked')).toMatchObject({
      ...{ driver: { kind: 'cell', port: 'u_made.locked' }, file: 't.v', line: 4 },
    });
    expect(result.bitstream).not.toBeNull();
  });

  test('its clocks keep step: what goes between them is timed, and is no crossing', () => {
    const { timing, messages } = built();
    expect(messages.filter(({ code }) => code.startsWith('crossing'))).toEqual([]);
    expect(timing?.crossings).toEqual([]);
    const clocks = new Map(timing?.clocks.map((clock) => [clock.clock, clock]));
    expect(clocks.get('u_made.clock_a')).toMatchObject({ wanted: 48e6, made: { source: 'clk', times: 4, over: 1 } });
    // 48 to 32 MHz: they meet every 62.5 ns, and come as near as a third of 31.25 ns.
    const [path] = clocks.get('u_made.clock_b')?.paths ?? [];
    expect(path?.between?.from).toBe('u_made.clock_a');
    expect(path?.between?.time).toBeCloseTo(31.25 / 3, 9);
    expect(path?.slack).toBeCloseTo(31.25 / 3 - (path?.delay ?? 0), 9);
    // From a faster one to the one that it is made of there is one cycle of the faster one.
    expect(clocks.get('clk')?.paths[0]?.between?.time).toBeCloseTo(1e3 / 48, 9);
  });

  test('without a frequency of its source nothing is said of what it makes, and the source is asked for', () => {
    const { timing, messages } = built({ clocks: {} });
    expect(timing?.clocks.map(({ wanted }) => wanted)).toEqual([null, null, null]);
    expect(timing?.crossings).toEqual([]);
    expect(messages.filter(({ code }) => code === 'clock-unconstrained')).toHaveLength(1);
  });

  test.each<[string, Given, string]>([
    [
      'a factor',
      { settings: '.MULTIPLY(200), .DIVIDE(1), .DIVIDE_A(8)' },
      'MULTIPLY of "u_made" is 200; it may be 2 to 128.',
    ],
    [
      'a divider',
      { settings: '.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(1), .DIVIDE_B(12)' },
      'DIVIDE_A of "u_made" is 1; it may be 2 to 128, or 0 for an output at rest.',
    ],
    [
      'what runs inside',
      { settings: '.MULTIPLY(20), .DIVIDE(1), .DIVIDE_A(8), .DIVIDE_B(8)' },
      'would run at 240 MHz inside',
    ],
    ['what is compared', { settings: '.MULTIPLY(64), .DIVIDE(20), .DIVIDE_A(8)' }, 'compares at 0.6 MHz'],
    ['what comes in', { clocks: { clk: 32_768 } }, 'takes 0.032768 MHz; it can take 1 to 200 MHz'],
  ])('%s out of range is an error at the instance', (_, given, text) => {
    const found = told(given, 'generator-range');
    expect(found.map(([severity, line]) => [severity, line])[0]).toEqual(['error', 4]);
    expect(found.map(([, , message]) => message).join('\n')).toContain(text);
    expect(built(given).bitstream).toBeNull();
  });

  test('a clock through logic cannot be its own, nor one that another makes', () => {
    expect(told({ input: 'gated' }, 'generator-input')).toMatchObject([
      ['error', 4, expect.stringContaining('from a pin')],
    ]);
    const more = 'corvane_clock_generator #(.MULTIPLY(16), .DIVIDE_A(8)) again (.clock_in(fast));';
    expect(told({ more }, 'generator-input')).toMatchObject([['error', 9, expect.stringContaining('"again"')]]);
  });

  test('more than the part has do not fit; an output at rest that clocks something is serious', () => {
    const more = 'corvane_clock_generator #(.MULTIPLY(32), .DIVIDE_A(8)) again (.clock_in(clk));';
    expect(told({ more, part: 'CV10' }, 'clock-generators')).toEqual([
      ['error', 9, 'The design has 2 clock generators; a CV10 has 1.'],
    ]);
    expect(told({ more, part: 'CV25' }, 'clock-generators')).toEqual([]);
    expect(told({ settings: '.MULTIPLY(32), .DIVIDE_A(8)' }, 'generator-idle')).toEqual([
      ['serious', 4, 'clock_b of "u_made" clocks registers and rests: DIVIDE_B is 0.'],
    ]);
  });

  test('a module of that name among the sources is the one that is meant', () => {
    const made = project();
    const own =
      'module corvane_clock_generator #(parameter MULTIPLY = 1, DIVIDE = 1, DIVIDE_A = 1, DIVIDE_B = 1)(input clock_in, ' +
      'output clock_a, output clock_b, output clock_c, output locked); assign {clock_a, clock_b, clock_c} = {3{clock_in}}; ' +
      "assign locked = 1'b1; endmodule\n";
    const result = build({
      project: { ...made, files: [...made.files, { name: 'own.v', text: own }] },
      plan: emptyPlan,
    });
    expect(result.generators).toEqual([]);
    expect(result.clocks).toEqual(['clk']);
  });
});

describe('the instance that is written', () => {
  const generator = partNamed('CV25')?.family.clockGenerator;
  if (!generator) throw new Error('no clock generator');

  test('makes in the design what was asked for, with names that were not there', () => {
    const [factors] = factorsFor(generator.limits, 12e6, [48e6, 30e6]);
    if (!factors) throw new Error('no factors');
    const text =
      'module t(input clk, output reg q);\n  wire clk_locked = 0;\n  always @(posedge clk) q <= ~q;\nendmodule\n';
    const made: Project = { ...project(), files: [{ name: 't.v', text }] };
    const { topBody, top } = readPorts(made, { sources: new Map(), pieces: new PieceMemory() });
    expect([top, topBody]).toEqual(['t', { file: 't.v', line: 1, column: 35 }]);
    const insert = generatorInstance({ generator, factors, input: 'clk', beside: text });
    expect(insert).toContain('clk_locked_2');
    const whole = `${text.slice(0, 34)}\n${insert}${text.slice(34)}`;
    const result = build({ project: { ...made, files: [{ name: 't.v', text: whole }] }, plan: emptyPlan });
    expect(result.messages.filter(({ severity }) => severity === 'error')).toEqual([]);
    const uses = result.generators?.flatMap(({ outputs }) => outputs.map(({ clock }) => clock)) ?? [];
    const rates = frequenciesByName(result, { clk: 12e6 });
    expect(uses.map((clock) => rates[clock])).toEqual([48e6, 30e6]);
  });
});

test('a table of vectors runs a design with a generator: it locks after 64 cycles', () => {
  const text = project().files[0]?.text ?? '';
  const table = { name: 't.csv', text: 'stop,cycles,=ok,=own\n0,64,0,0\n0,1,1,x\n0,16,1,4\n' };
  const run = runVectors([{ name: 't.v', text }], table, { cells: allCells() });
  if (!run.ok) throw new Error(run.error.message);
  expect(run.value.clock).toBe('clk');
  expect(run.value.failures).toEqual([]);
});
