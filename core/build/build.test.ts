import { digestInputs, printOf } from '../../tests/support/digests.ts';
import { describe, expect, test } from 'vitest';
import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { readBitstream } from '../families/index.ts';
import { PieceMemory } from '../mapping/index.ts';
import { emptyPlan, type ProbePlan } from '../probes/index.ts';
import { ProblemError } from '../result.ts';
import {
  build,
  compareBuilds,
  editsBetween,
  fingerprintOf,
  type Project,
  readProject,
  writeProjectFile,
} from './index.ts';

const project = (text: string, pins: string, part = 'CV25'): Project => ({
  file: { format: 'nimble-project', version: 3, grade: 2, accepted: [], name: 't', part, pins: 'pins.csv', clocks: {} },
  files: [
    { name: 't.v', text },
    { name: 'pins.csv', text: pins },
  ],
});
const codes = (text: string, pins: string, part?: string) =>
  build({ project: project(text, pins, part), plan: emptyPlan }).messages.map((m) => `${m.code}@${m.file}:${m.line}`);
const WIRE = 'module t(input a, output [1:0] y);\n  assign y = {a, ~a};\nendmodule\n';

describe('a build', () => {
  test('of the demo has a bitstream whose fingerprint is the build’s, and says where every signal comes from', () => {
    const result = build({ project: demoProject(), plan: demoPlan() });
    const read = readBitstream(result.bitstream ?? new Uint8Array(0));
    expect(read.ok && read.value).toMatchObject({ part: 'CV25', top: 'lockhouse', fingerprint: result.fingerprint });
    expect(result.probes?.fingerprint).toBe(result.fingerprint);
    expect(result.clocks).toEqual(['clk', 'clk10']);
    expect(result.signals.find((s) => s.name === 'lockhouse.u_sequencer.patience')).toMatchObject({
      width: 9,
      domain: 'clk',
      kind: 'reg',
      free: false,
      file: 'rtl/sequencer.v',
      line: expect.any(Number),
    });
    expect(result.signals.find((s) => s.name === 'lockhouse.level_trim')?.free).toBe(true);
    expect(result.hierarchy?.children.map((child) => child.module).sort()).toEqual([
      'chamber',
      'converter',
      'debounce',
      'debounce',
      'display',
      'levels',
      'reporter',
      'sequencer',
      'tick',
    ]);
  });

  test('with probes takes more cells than without: the cores count', () => {
    const [plain, probed] = [emptyPlan, demoPlan()].map((plan) => build({ project: demoProject(), plan }).resources);
    expect(probed?.registers).toBeGreaterThan((plain?.registers ?? 0) + 300);
    // 1024 samples of 20 bits in RAMs of 4096 bits
    expect((probed?.blockRams ?? 0) - (plain?.blockRams ?? 0)).toBe(Math.ceil((1024 * 20) / 4096));
  });

  test('has another fingerprint when a source, the plan or the part changes, the same one otherwise', () => {
    const base = build({ project: project(WIRE, ''), plan: emptyPlan }).fingerprint;
    expect(build({ project: project(WIRE, ''), plan: emptyPlan }).fingerprint).toBe(base);
    expect(build({ project: project(`${WIRE}\n`, ''), plan: emptyPlan }).fingerprint).not.toBe(base);
    expect(build({ project: project(WIRE, '', 'CV10'), plan: emptyPlan }).fingerprint).not.toBe(base);
    expect(
      build({
        project: project(WIRE, ''),
        plan: { recorders: [], panels: [{ name: 'p', clock: 't.a', levers: [], gauges: ['t.y'] }] },
      }).fingerprint,
    ).not.toBe(base);
  });

  test('does not change with what a store keeps beside name and text', () => {
    const made = project(WIRE, '');
    const stored = { ...made, files: made.files.map((file) => ({ ...file, changed: '2026-01-01' })) };
    expect(build({ project: stored, plan: emptyPlan }).fingerprint).toBe(
      build({ project: made, plan: emptyPlan }).fingerprint,
    );
  });

  test('does not depend on the order of keys', () =>
    expect(fingerprintOf({ a: 1, b: [2, { c: 3, d: 4 }] })).toBe(fingerprintOf({ b: [2, { d: 4, c: 3 }], a: 1 })));

  test('of a state machine that is mapped with other states runs with those of the source, and records them', () => {
    const text = `module t(input clk, input a, output y); reg [3:0] s = 9; assign y = s == 5;
      always @(posedge clk) case (s) 9: if (a) s <= 4; 4: s <= 12; 12: s <= 1; 1: if (a) s <= 7; 7: s <= 5; 5: s <= 2;
        2: if (~a) s <= 9; default: s <= 9; endcase endmodule\n`;
    const recorder = { name: 'r', clock: 't.clk', depth: 64, signals: ['t.s'], comparators: 1, stages: 1 };
    const plain = build({ project: project(text, ''), plan: emptyPlan });
    expect(plain.machines?.map(({ name, states, mappedBits }) => [name, states, mappedBits])).toEqual([['t.s', 7, 3]]);
    const probed = build({
      project: project(text, ''),
      plan: { recorders: [recorder], panels: [] },
    });
    const [core] = probed.probes?.cores ?? [];
    expect(core?.kind === 'recorder' && core.signals.map(({ name, width }) => [name, width])).toEqual([['t.s', 4]]);
    // What is recorded is the word that the source has, so it is there, whatever else is.
    const read = readBitstream(probed.bitstream ?? new Uint8Array(0));
    expect(read.ok && read.value.top).toBe('t');
  });

  test('names signals of a plan that are gone', () => {
    const plan = { recorders: [{ name: 'r', clock: 't.a', depth: 16, signals: ['t.y', 't.old.name'] }], panels: [] };
    const result = build({ project: project(WIRE, ''), plan });
    expect(result.bitstream).toBeNull();
    expect(result.messages.find((m) => m.code === 'signal-gone')?.message).toContain('t.old.name');
  });

  test('can be cancelled', () => {
    expect(() =>
      build({ project: demoProject(), plan: emptyPlan }, { report: () => {}, cancelled: () => true }),
    ).toThrow(ProblemError);
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
    const large =
      'module t(input clk, input [15:0] a, input [31:0] d, output reg [31:0] q); reg [31:0] mem [0:65535]; ' +
      'always @(posedge clk) begin mem[a] <= d; q <= mem[a]; end endmodule';
    expect(codes(large, '')).toContain('does-not-fit@nimble.json:1');
  });

  test('of loops and clocks made by logic', () => {
    expect(codes('module t(output y); wire p; assign p = ~p; assign y = p; endmodule', '')).toContain('loop@t.v:1');
    expect(
      codes(
        'module t(input clk, output reg q); reg half; always @(posedge clk) half <= ~half; always @(posedge ' +
          'half) q <= ~q; endmodule',
        '',
      ),
    ).toContain('derived-clock@t.v:1');
  });

  test('of what does not fit, with the instances that take most', () => {
    const large =
      'module k(input clk, input [63:0] a, output reg [63:0] q); always @(posedge clk) q <= q * a + 1; endmodule ' +
      'module t(input clk, input [63:0] a, output [63:0] y); k big(clk, a, y); endmodule';
    const { messages } = build({ project: project(large, '', 'CV10'), plan: emptyPlan });
    expect(messages.find((m) => m.code === 'does-not-fit')?.message).toMatch(
      /LUTs; a CV10 has 1000\. To cut: t\.big takes \d+/,
    );
  });
});

describe('clocks', () => {
  const board = {
    name: 'b.board.json',
    text: JSON.stringify({
      format: 'nimble-board',
      version: 1,
      name: 'b',
      part: 'CV25',
      oscillators: [{ net: 'X1', pin: 'P1', hertz: 12e6 }],
    }),
  };
  const counter =
    'module t(input clk, output [1:0] y); reg [23:0] c = 0; always @(posedge clk) c <= c + 1; assign y = {c[23], ' +
    '~c[20]}; endmodule';
  const withBoard = (clocks: Record<string, number>): Project => {
    const made = project(counter, 'port,pin\nclk,P1\ny[0],P3\ny[1],P4\n');
    return { file: { ...made.file, board: board.name, clocks }, files: [...made.files, board] };
  };
  test('one without a frequency is a serious message, with that of its oscillator as the answer', () => {
    const { messages, fingerprint } = build({ project: withBoard({}), plan: emptyPlan });
    expect(messages).toMatchObject([
      {
        code: 'clock-unconstrained',
        severity: 'serious',
        file: 'pins.csv',
        line: 2,
        fix: { kind: 'constrain-clock', clock: 'clk', hertz: 12e6 },
      },
    ]);
    const constrained = build({ project: withBoard({ clk: 12e6 }), plan: emptyPlan });
    expect(constrained.messages).toEqual([]);
    expect(constrained.fingerprint).toBe(fingerprint);
  });
  test('without a description of the board the answer is left to who knows the bench', () => {
    const made = project(counter, 'port,pin\nclk,P1\ny[0],P3\ny[1],P4\n');
    expect(build({ project: made, plan: emptyPlan }).messages).toMatchObject([
      { code: 'clock-unconstrained', fix: { kind: 'find-clock', clock: 'clk' } },
    ]);
  });
  test('a frequency that is not the oscillator’s, and one that the logic cannot reach', () => {
    expect(build({ project: withBoard({ clk: 20e6 }), plan: emptyPlan }).messages.map((m) => m.code)).toEqual([
      'clock-differs',
    ]);
    expect(build({ project: withBoard({ clk: 900e6 }), plan: emptyPlan }).messages.map((m) => m.code)).toContain(
      'clock-too-fast',
    );
  });
  test('a counter bit on an output blinks with f / 2^(n+1)', () => {
    // Common practice; 12 MHz / 2^24 is 0.715 Hz.
    const { lampRates } = build({ project: withBoard({ clk: 12e6 }), plan: emptyPlan });
    expect(lampRates.map(({ port, bit, n, hertz }) => ({ port, bit, n, hertz }))).toEqual([
      { port: 'y', bit: 0, n: 20, hertz: 12e6 / 2 ** 21 },
      { port: 'y', bit: 1, n: 23, hertz: 12e6 / 2 ** 24 },
    ]);
  });
});

describe('builds beside each other', () => {
  test('a message accepted with a reason stays so until its line changes', () => {
    const made = project(
      'module t(input a, output y);\n  wire spare = a;\n  assign y = a;\nendmodule\n',
      'port,pin\na,P3\ny,P4\n',
    );
    const [message] = build({ project: made, plan: emptyPlan }).messages;
    const accepted = [
      { code: 'unused', file: 't.v', message: message?.message ?? '', line: 'wire spare = a;', reason: 'for later' },
    ];
    const at = (text: string) =>
      build({
        project: { file: { ...made.file, accepted }, files: [{ name: 't.v', text }, ...made.files.slice(1)] },
        plan: emptyPlan,
      }).messages.map((m) => m.accepted);
    expect(at('// moved down\nmodule t(input a, output y);\n  wire spare = a;\n  assign y = a;\nendmodule\n')).toEqual([
      'for later',
    ]);
    expect(at('module t(input a, output y);\n  wire spare = !a;\n  assign y = a;\nendmodule\n')).toEqual([null]);
  });
  test('compared: figures, messages new and gone', () => {
    const [first, second] = ['wire spare = a; assign y = a;', 'assign y = ~a;'].map((body) =>
      build({ project: project(`module t(input a, output y); ${body} endmodule`, 'a,P3\ny,P4\n'), plan: emptyPlan }),
    );
    if (!first || !second) throw new Error('no builds');
    const { gone, appeared, figures } = compareBuilds(first, second);
    expect([gone.map((m) => m.code), appeared]).toEqual([['unused'], []]);
    expect(figures.find((f) => f.name === 'LUTs')).toMatchObject({ before: 0 });
  });
  test('an edit is named, and what it makes stale', () => {
    const files = (text: string, clocks: Record<string, number>) => [
      { name: 't.v', text },
      { name: 'nimble.json', text: writeProjectFile({ ...project('', '').file, clocks }) },
    ];
    const base = digestInputs(files('a', {}), emptyPlan);
    expect(editsBetween(base, digestInputs(files('b', {}), emptyPlan))).toEqual([
      { what: 't.v', change: 'changed', touches: 'everything' },
    ]);
    expect(editsBetween(base, digestInputs(files('a', { clk: 1 }), emptyPlan))).toEqual([
      { what: 'clocks', change: 'changed', touches: 'timing' },
    ]);
    expect(editsBetween(base, digestInputs([...files('a', {}), { name: 'u.v', text: '' }], emptyPlan))).toEqual([
      { what: 'u.v', change: 'added', touches: 'everything' },
    ]);
  });
  test('a plan after another one: the design is not read again, and the bytes are those of a build by itself', () => {
    const memory = { sources: new Map(), pieces: new PieceMemory() };
    const base = project(
      `module t(input clk, input [3:0] a, output reg [7:0] y);
        wire [7:0] more = y + a;
        always @(posedge clk) y <= more;
      endmodule`,
      '',
    );
    const slower = { ...base, file: { ...base.file, clocks: { clk: 1_000_000 } } };
    const panel: ProbePlan = {
      recorders: [],
      panels: [{ name: 'p', clock: 't.clk', gauges: ['t.y'], levers: ['t.more'] }],
    };
    for (const inputs of [
      { project: base, plan: panel },
      { project: base, plan: emptyPlan },
      { project: slower, plan: panel },
      { project: base, plan: panel },
    ]) {
      const [kept, fresh] = [build(inputs, undefined, memory), build(inputs)];
      expect(printOf(kept.bitstream)).toBe(printOf(fresh.bitstream));
      expect(kept.messages).toEqual(fresh.messages);
      expect(kept.signals).toEqual(fresh.signals);
      expect(kept.lampRates).toEqual(fresh.lampRates);
      expect(kept.probes).toEqual(fresh.probes);
    }
  });
  test('parameters and the top module are part of what the design is', () => {
    const memory = { sources: new Map(), pieces: new PieceMemory() };
    const text =
      'module t #(parameter W = 4)(input [7:0] a, output [W-1:0] y); assign y = ~a; endmodule\n' +
      'module u(input [7:0] a, output [2:0] y); assign y = a; endmodule\n';
    const made = project(text, '');
    const width = (file: object) =>
      build({ project: { ...made, file: { ...made.file, ...file } }, plan: emptyPlan }, undefined, memory).signals.find(
        ({ name }) => name.endsWith('.y'),
      )?.width;
    const asked = [{ top: 't' }, { top: 'u' }, { top: 't', parameters: { W: '2' } }, { top: 't' }];
    expect(asked.map(width)).toEqual([4, 3, 2, 4]);
  });
  test('the frequency that is wanted of a clock is compared only where it is another one', () => {
    const of = (clk: number) => {
      const made = project('module t(input clk, input a, output reg y); always @(posedge clk) y <= a; endmodule', '');
      return build({ project: { ...made, file: { ...made.file, clocks: { clk } } }, plan: emptyPlan });
    };
    const figures = (x: number, y: number) => compareBuilds(of(x), of(y)).figures.map(({ name }) => name);
    expect(figures(1e6, 1e6)).not.toContain('frequency wanted of clk');
    expect(figures(1e6, 2e6)).toContain('frequency wanted of clk');
  });
  test('what an earlier build read and mapped is used again, with the same bytes', () => {
    const memory = { sources: new Map(), pieces: new PieceMemory() };
    const inputs = { project: demoProject(), plan: emptyPlan };
    const first = build(inputs, undefined, memory);
    const again = build(inputs, undefined, memory);
    expect(again.reuse).toEqual({
      files: first.reuse.files,
      filesKnown: first.reuse.files,
      pieces: first.reuse.pieces,
      piecesKnown: first.reuse.pieces,
    });
    expect(printOf(again.bitstream)).toBe(printOf(first.bitstream));
    const edited = {
      ...inputs.project,
      files: inputs.project.files.map((f) =>
        f.name === 'rtl/chamber.v' ? { ...f, text: f.text.replace("level + 1'b1", "level + 2'd2") } : f,
      ),
    };
    const third = build({ ...inputs, project: edited }, undefined, memory);
    expect(third.reuse.filesKnown).toBe(third.reuse.files - 1);
    expect(third.reuse.piecesKnown).toBeGreaterThan(0);
    expect(printOf(third.bitstream)).toBe(printOf(build({ ...inputs, project: edited }).bitstream));
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
    expect(codeOf('{"format":"nimble-project","version":9}')).toMatch(/version/);
    expect(codeOf('{"format":"nimble-project","version":1,"name":"x","part":"CV10"}')).toBe('good');
  });
});

describe('the timing table of a project', () => {
  const COUNTER =
    'module t(input clk, input go, output reg y); reg [7:0] n; always @(posedge clk) begin n <= n + go; y <= &n; end endmodule';
  const withTable = (table: string | null): Project => {
    const plain = project(COUNTER, 'clk,P1\ngo,P5\ny,P26\n');
    return {
      file: { ...plain.file, clocks: { clk: 400e6 } },
      files: table === null ? plain.files : [...plain.files, { name: 'timing.csv', text: table }],
    };
  };
  const built = (table: string | null) => build({ project: withTable(table), plan: emptyPlan });
  const said = (table: string) =>
    built(table)
      .messages.filter(({ file }) => file === 'timing.csv')
      .map(({ code, line, severity }) => `${severity} ${code}:${line}`);

  test('decides what is too slow, and no bitstream depends on it', () => {
    const [plain, ruled] = [built(null), built('multicycle,n,*,3\n')];
    expect(plain.messages.map(({ code }) => code)).toContain('clock-too-fast');
    expect(ruled.messages.map(({ code }) => code)).not.toContain('clock-too-fast');
    expect(printOf(ruled.bitstream)).toBe(printOf(plain.bitstream));
    expect(ruled.fingerprint).toBe(plain.fingerprint);
  });
  test('says of each line what is wrong with it: not understood, about nothing, too slow on the board', () => {
    expect(
      said(
        'kind,from,to,value\nsoon,n,y,\nfalse path,nobody,y,\ninput delay,clk,go,2 ns\noutput delay,y,clk,1 ns\ninput delay,other,go,1 ns\n',
      ),
    ).toEqual([
      'serious timing-table:2',
      'warning timing-clock:6',
      'warning timing-unused:3',
      'warning timing-unused:6',
      'serious port-too-slow:4',
      'serious port-too-slow:5',
    ]);
  });
  test('a change of it touches timing alone', () => {
    const files = (table: string) => [
      { name: 'nimble.json', text: writeProjectFile(withTable(null).file) },
      { name: 't.v', text: COUNTER },
      { name: 'timing.csv', text: table },
    ];
    const digests = (table: string) => digestInputs(files(table), emptyPlan);
    expect(editsBetween(digests('multicycle,n,y,2'), digests('multicycle,n,y,3'))).toEqual([
      { what: 'timing.csv', change: 'changed', touches: 'timing' },
    ]);
  });
});

describe('builds compared', () => {
  test('by instance: which grew, by how much, the largest change first', () => {
    const design = (width: number, second: string) =>
      `module c #(parameter W = 4)(input clk, output [W-1:0] q); reg [W-1:0] n; always @(posedge clk) n <= n + 1; assign q = n; endmodule
       module t(input clk, output y, z); wire [${width - 1}:0] q; wire [3:0] p; c #(.W(${width})) grows(clk, q); c ${second}(clk, p); assign y = ^q; assign z = ^p; endmodule`;
    const of = (text: string) => build({ project: project(text, 'clk,P1\ny,P26\nz,P27\n'), plan: emptyPlan });
    const { instances } = compareBuilds(of(design(8, 'stays')), of(design(24, 'stays')));
    expect(instances.map(({ path }) => path)).not.toContain('t.stays');
    expect(instances.find(({ path }) => path === 't.grows')?.registers).toEqual([8, 24]);
    const renamed = compareBuilds(of(design(8, 'old')), of(design(8, 'fresh'))).instances;
    expect(renamed.map(({ path, registers }) => [path, registers]).sort()).toEqual([
      ['t.fresh', [null, 4]],
      ['t.old', [4, null]],
    ]);
  });
});
