import { describe, expect, test } from 'vitest';
import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { readBitstream } from '../fabric/index.ts';
import { Messages } from '../hdl/index.ts';
import { emptyPlan } from '../probes/index.ts';
import { ProblemError } from '../result.ts';
import { build, fingerprintOf, parsePins, type Project, readProject, writePins } from './index.ts';

const project = (text: string, pins: string, part = 'CV25'): Project => ({
  file: { format: 'nimble-project', version: 1, name: 't', part, pins: 'pins.csv', clocks: {} },
  files: [{ name: 't.v', text }, { name: 'pins.csv', text: pins }],
});
const codes = (text: string, pins: string, part?: string) => build({ project: project(text, pins, part), plan: emptyPlan }).messages.map((m) => `${m.code}@${m.file}:${m.line}`);
const WIRE = 'module t(input a, output [1:0] y);\n  assign y = {a, ~a};\nendmodule\n';

describe('a build', () => {
  test('of the demo has a bitstream whose fingerprint is the build’s, and says where every signal comes from', () => {
    const result = build({ project: demoProject(), plan: demoPlan() });
    const read = readBitstream(result.bitstream ?? new Uint8Array(0));
    expect(read.ok && read.value).toMatchObject({ part: 'CV25', top: 'lockhouse', fingerprint: result.fingerprint });
    expect(result.probes?.fingerprint).toBe(result.fingerprint);
    expect(result.clocks).toEqual(['clk']);
    expect(result.signals.find((s) => s.name === 'lockhouse.u_sequencer.patience')).toMatchObject({ width: 9, domain: 'clk', kind: 'reg', free: false, file: 'rtl/sequencer.v', line: expect.any(Number) });
    expect(result.signals.find((s) => s.name === 'lockhouse.level_trim')?.free).toBe(true);
    expect(result.hierarchy?.children.map((child) => child.module).sort()).toEqual(['chamber', 'debounce', 'debounce', 'display', 'sequencer', 'tick']);
  });

  test('with probes takes more cells than without: the cores count', () => {
    const [plain, probed] = [emptyPlan, demoPlan()].map((plan) => build({ project: demoProject(), plan }).resources);
    expect(probed?.registers).toBeGreaterThan((plain?.registers ?? 0) + 300);
    // 1024 samples of 33 bits in RAMs of 4096 bits
    expect((probed?.blockRams ?? 0) - (plain?.blockRams ?? 0)).toBe(Math.ceil((1024 * 33) / 4096));
  });

  test('has another fingerprint when a source, the plan or the part changes, the same one otherwise', () => {
    const base = build({ project: project(WIRE, ''), plan: emptyPlan }).fingerprint;
    expect(build({ project: project(WIRE, ''), plan: emptyPlan }).fingerprint).toBe(base);
    expect(build({ project: project(`${WIRE}\n`, ''), plan: emptyPlan }).fingerprint).not.toBe(base);
    expect(build({ project: project(WIRE, '', 'CV10'), plan: emptyPlan }).fingerprint).not.toBe(base);
    expect(build({ project: project(WIRE, ''), plan: { recorders: [], panels: [{ name: 'p', clock: 't.a', levers: [], gauges: ['t.y'] }] } }).fingerprint).not.toBe(base);
  });

  test('does not depend on the order of keys', () => expect(fingerprintOf({ a: 1, b: [2, { c: 3, d: 4 }] })).toBe(fingerprintOf({ b: [2, { d: 4, c: 3 }], a: 1 })));

  test('names signals of a plan that are gone', () => {
    const plan = { recorders: [{ name: 'r', clock: 't.a', depth: 16, signals: ['t.y', 't.old.name'] }], panels: [] };
    const result = build({ project: project(WIRE, ''), plan });
    expect(result.bitstream).toBeNull();
    expect(result.messages.find((m) => m.code === 'signal-gone')?.message).toContain('t.old.name');
  });

  test('can be cancelled', () => {
    expect(() => build({ project: demoProject(), plan: emptyPlan }, { report: () => {}, cancelled: () => true })).toThrow(ProblemError);
  });
});

describe('a build complains', () => {
  test('of pins: unknown, used twice, on bits that are not there, of ports that are gone or on no pin', () => {
    expect(codes(WIRE, 'port,pin\na,P1\ny[0],P2\ny[1],P3\n')).toEqual([]);
    expect(codes(WIRE, 'port,pin\na,P1\ny[0],P1\ny[1],P3\n')).toContain('pin-twice@pins.csv:3');
    expect(codes(WIRE, 'port,pin\na,P21\n')).toContain('pin-unknown@pins.csv:2');
    expect(codes(WIRE, 'a,P1\ny[7],P2\n')).toContain('pin-port@pins.csv:2');
    expect(codes(WIRE, 'a,P1\nold,P2\n')).toContain('pin-port@pins.csv:2');
    expect(codes(WIRE, 'a,P1\ny[0],P2\n')).toEqual(['unplaced-port@t.v:1']);
  });

  test('of a part that does not exist, or is too small', () => {
    expect(codes(WIRE, '', 'CV99')).toContain('unknown-part@nimble.json:1');
    const large = 'module t(input clk, input [15:0] a, input [31:0] d, output reg [31:0] q); reg [31:0] mem [0:65535]; always @(posedge clk) begin mem[a] <= d; q <= mem[a]; end endmodule';
    expect(codes(large, '')).toContain('does-not-fit@nimble.json:1');
  });

  test('of loops, clocks made by logic and wide divisions', () => {
    expect(codes('module t(output y); wire p; assign p = ~p; assign y = p; endmodule', '')).toContain('loop@t.v:1');
    expect(codes('module t(input clk, output reg q); reg half; always @(posedge clk) half <= ~half; always @(posedge half) q <= ~q; endmodule', '')).toContain('derived-clock@t.v:1');
    expect(codes('module t(input [39:0] a, input [39:0] b, output [39:0] y); assign y = a / b; endmodule', '')).toContain('wide-division@t.v:1');
  });
});

describe('project files', () => {
  test('nimble.json is checked, and what is wrong is named', () => {
    const codeOf = (text: string | null) => {
      const read = readProject(text === null ? [] : [{ name: 'nimble.json', text }]);
      return read.ok ? 'good' : read.error.message;
    };
    expect(codeOf(null)).toMatch(/no nimble\.json/);
    expect(codeOf('{')).toMatch(/no JSON/);
    expect(codeOf('{"format":"nimble-project","version":2}')).toMatch(/version/);
    expect(codeOf('{"format":"nimble-project","version":1,"name":"x","part":"CV10"}')).toBe('good');
  });

  test('pin tables are read as they are written', () => {
    const messages = new Messages();
    const text = writePins([{ name: 'clk', pin: 'P1' }, { name: 'lamp[3]', pin: 'P2' }]);
    expect(parsePins('pins.csv', text, messages)).toEqual([{ port: 'clk', bit: 0, pin: 'P1', line: 2 }, { port: 'lamp', bit: 3, pin: 'P2', line: 3 }]);
    parsePins('pins.csv', 'port,pin\r\nno comma\r\n9x,P1\r\n', messages);
    expect(messages.list.map((m) => m.line)).toEqual([2, 3]);
  });
});
