import { describe, expect, test } from 'vitest';
import { elaborate } from './index.ts';

const SETTINGS = { file: 'nimble.json', line: 1, column: 1 };
const leaf = { name: 'rtl/leaf.v', text: 'module leaf(input a, output y); assign y = ~a; endmodule' };
const one = { name: 'rtl/one.v', text: 'module one(input a, output y); leaf u(.a(a), .y(y)); endmodule' };
const two = { name: 'rtl/two.v', text: 'module two(input a, output y); leaf u(.a(a), .y(y)); endmodule' };
const beside = [
  { name: 'io.vectors.csv', text: 'a,y\n0,1\n' },
  { name: 'pins.csv', text: 'a,P1\n' },
];

describe('the top module', () => {
  test('that is missing is told at the setting that names it, with those to choose from', () => {
    const { messages, modules } = elaborate([...beside, leaf, one, two], { top: 'gone', topFrom: SETTINGS });
    const message = messages.list.find(({ code }) => code === 'no-top');
    expect(message).toMatchObject({
      file: 'nimble.json',
      severity: 'error',
      fix: { kind: 'choose-top', tops: ['one', 'two'] },
    });
    expect(modules).toEqual(['leaf', 'one', 'two']);
  });

  test('that nobody named is asked for where several could be it', () => {
    const { messages } = elaborate([...beside, leaf, one, two]);
    expect(messages.list.find(({ code }) => code === 'several-tops')).toMatchObject({
      file: 'rtl/two.v',
      fix: { kind: 'choose-top', tops: ['one', 'two'] },
    });
  });

  test('is never looked for in tables of pins or vectors', () => {
    const { messages } = elaborate([...beside, { name: 'rtl/empty.v', text: '// nothing yet\n' }]);
    expect(messages.list.find(({ code }) => code === 'no-top')).toMatchObject({
      file: 'rtl/empty.v',
      message: 'There is no module in the sources.',
    });
  });

  test('does not reach every module: which nobody uses is said at its own line', () => {
    const { netlist, messages } = elaborate(
      [
        ...beside,
        leaf,
        one,
        {
          name: 'rtl/old.v',
          text:
            '// kept\nmodule old(input a, output y);\nolder u(a, y);\nendmodule\nmodule older(input a, output y); ' +
            'assign y = a; endmodule\n',
        },
      ],
      { top: 'one', topFrom: SETTINGS },
    );
    expect(netlist).not.toBeNull();
    expect(
      messages.list
        .filter(({ code }) => code === 'module-unused')
        .map(({ file, line, severity }) => [file, line, severity]),
    ).toEqual([
      ['rtl/old.v', 2, 'info'],
      ['rtl/old.v', 5, 'info'],
    ]);
  });

  test('reaches modules inside generate blocks', () => {
    const { messages } = elaborate([
      leaf,
      {
        name: 'g.v',
        text:
          'module g(input [1:0] a, output [1:0] y); genvar i; generate for (i = 0; i < 2; i = i + 1) begin : each ' +
          'if (i == 1) leaf u(.a(a[i]), .y(y[i])); else assign y[i] = a[i]; end endgenerate endmodule',
      },
    ]);
    expect(messages.list.map(({ code }) => code)).not.toContain('module-unused');
  });
});
