import { printOf } from '../../tests/support/digests.ts';
// Projects as files: text as it comes from a desk, zip files out and in.
import { strToU8, unzipSync, zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { elaborate } from '../hdl/index.ts';
import { activePlan } from '../probes/index.ts';
import {
  applyInsertions,
  build,
  decodeText,
  nameTrouble,
  readArchive,
  readProject,
  readProjectFile,
  writeArchive,
  writeProjectFile,
} from './index.ts';

describe('text', () => {
  test('UTF-8 is taken with and without a mark, with any line ends', () => {
    expect(decodeText('a.v', strToU8('\uFEFFwire µ;\r\nreg x;\r'))).toEqual({
      ok: true,
      value: { text: 'wire µ;\nreg x;\n', remark: null },
    });
  });
  test.each<[string, number[], RegExp]>([
    ['Latin-1', [0x61, 0x0a, 0x62, 0xe4, 0x63], /a\.v, line 2: the byte 0xe4/],
    ['a cut sequence', [0x0a, 0x0a, 0xe2, 0x82], /line 3/],
    ['UTF-16', [0xff, 0xfe, 0x61, 0x00], /UTF-16/],
    ['binary', [0x61, 0x00, 0x62], /zero bytes/],
  ])('%s is refused with its place', (_, bytes, message) => {
    const read = decodeText('a.v', Uint8Array.from(bytes));
    expect(read.ok ? '' : read.error.message).toMatch(message);
  });
  const latin1 = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0));
  test('a Latin-1 byte in a comment of Verilog is read, with a remark that names its line', () => {
    const source =
      '// Schlüssel "offen\r\nmodule a(output y); // 5 µs, ± 2\n/* über\n alles */ assign y = 1;\nendmodule\n';
    const read = decodeText('rtl/a.v', latin1(source));
    expect(read).toEqual({
      ok: true,
      value: {
        text: source.replace('\r', ''),
        remark:
          'rtl/a.v, line 1: the byte 0xfc in a comment is not UTF-8 and was read as Latin-1, and so were 3 bytes ' +
          'in comments after it.',
      },
    });
    const archive = readArchive(zipSync({ 'rtl/a.v': latin1(source) }));
    expect(archive.ok && archive.value).toMatchObject({
      files: [{ name: 'rtl/a.v' }],
      remarks: [expect.stringContaining('line 1')],
    });
  });
  test('beside good UTF-8 in the same file', () => {
    const read = decodeText(
      'a.sv',
      Uint8Array.from([...strToU8('// 5 µs\n// 5 '), 0xb5, ...strToU8('s\nmodule a; endmodule\n')]),
    );
    expect(read.ok && read.value.text).toBe('// 5 µs\n// 5 µs\nmodule a; endmodule\n');
    expect(read.ok && read.value.remark).toMatch(/^a\.sv, line 2: the byte 0xb5 .* Latin-1\.$/);
  });
  test.each<[string, string, string]>([
    ['outside comments', 'a.v', 'module a; // fine: ä\nwire ü; endmodule'],
    ['in a string, where it would be a value', 'a.v', 'module a; initial $display("5 µs // no comment"); endmodule'],
    ['in a table', 'pins.csv', '# Prüfling\nclk,P1\n'],
  ])('a Latin-1 byte %s is refused', (_, name, source) => {
    expect(decodeText(name, latin1(source))).toMatchObject({ ok: false, error: { code: 'encoding' } });
  });
  test('a line of more than a million characters is no source', () => {
    const read = decodeText('a.v', new Uint8Array(1_000_002).fill(0x78));
    expect(read.ok ? '' : read.error.code).toBe('long-line');
  });
});

describe('zip files', () => {
  const project = demoProject();
  const files = [...project.files, { name: 'nimble.json', text: writeProjectFile(project.file) }];
  test('a project comes back as it went, with its plan, and builds to the same bytes', () => {
    const bytes = writeArchive({ files, shelf: [{ name: 'passage', inBuild: true, plan: demoPlan() }] });
    expect(
      writeArchive({ files: [...files].reverse(), shelf: [{ name: 'passage', inBuild: true, plan: demoPlan() }] }),
    ).toEqual(bytes);
    const back = readArchive(bytes);
    if (!back.ok) throw new Error(back.error.message);
    expect(back.value.shelf).toEqual([{ name: 'passage', inBuild: true, plan: demoPlan() }]);
    const opened = readProject(back.value.files);
    if (!opened.ok) throw new Error(opened.error.message);
    const sorted = { ...project, files: [...project.files].sort((a, b) => (a.name < b.name ? -1 : 1)) };
    const [here, there] = [
      build({ project: sorted, plan: demoPlan() }),
      build({
        project: { ...opened.value, files: [...opened.value.files].sort((a, b) => (a.name < b.name ? -1 : 1)) },
        plan: activePlan(back.value.shelf),
      }),
    ];
    expect(there.fingerprint).toBe(here.fingerprint);
    expect(printOf(there.bitstream)).toBe(printOf(here.bitstream));
  });
  test('a folder around everything is dropped, what is no source is left out', () => {
    const read = readArchive(
      zipSync({
        'x/nimble.json': strToU8(writeProjectFile(project.file)),
        'x/a.v': strToU8('module a; endmodule'),
        'x/photo.png': new Uint8Array(9),
      }),
    );
    expect(read.ok && read.value.files.map((f) => f.name).sort()).toEqual(['a.v', 'nimble.json']);
  });
  test('names that lead elsewhere, other encodings and damaged files are refused', () => {
    for (const name of ['../a.v', '/etc/a.v', 'a/../../b.v', 'C:\\a.v']) expect(nameTrouble(name)).not.toBeNull();
    expect(readArchive(zipSync({ '../a.v': strToU8('x') })).ok).toBe(false);
    expect(readArchive(zipSync({ 'a.v': Uint8Array.from([0xff, 0x41]) })).ok).toBe(false);
    expect(readArchive(strToU8('no zip')).ok).toBe(false);
    // A directory of 2^32 entries, as the records of large files say it (PKWARE, .ZIP specification, 4.3.14 to 4.3.16).
    const huge = new DataView(new ArrayBuffer(98));
    huge.setUint32(0, 0x06064b50, true);
    for (const at of [24, 32]) huge.setBigUint64(at, 0xffffffffn, true);
    huge.setUint32(56, 0x07064b50, true);
    huge.setUint32(76, 0x06054b50, true);
    for (const at of [84, 86]) huge.setUint16(at, 0xffff, true);
    for (const at of [88, 92]) huge.setUint32(at, 0xffffffff, true);
    expect(readArchive(new Uint8Array(huge.buffer)).ok).toBe(false);
    const claims = zipSync({ 'a.v': strToU8('x') });
    new DataView(claims.buffer).setUint16(claims.length - 12, 9000, true);
    new DataView(claims.buffer).setUint16(claims.length - 14, 9000, true);
    expect(readArchive(claims).ok).toBe(false);
    expect(readArchive(zipSync({ 'a.v': strToU8('x'), 'probes.plan.json': strToU8('{') }))).toMatchObject({
      ok: false,
      error: { code: 'plan-file' },
    });
    expect(readArchive(zipSync({ 'photo.png': new Uint8Array(3) })).ok).toBe(false);
    expect(Object.keys(unzipSync(writeArchive({ files, shelf: [] })))).not.toContain('probes.plan.json');
  });
});

describe('nimble.json', () => {
  test('of version 1 is read as version 2', () => {
    const read = readProjectFile(
      '{"format":"nimble-project","version":1,"name":"x","part":"CV10","clocks":{"clk":1000}}',
    );
    expect(read).toEqual({
      ok: true,
      value: {
        format: 'nimble-project',
        version: 3,
        name: 'x',
        part: 'CV10',
        grade: 2,
        pins: 'pins.csv',
        clocks: { clk: 1000 },
        accepted: [],
      },
    });
  });
});

describe('languages', () => {
  const text = 'module m(input a, output logic y); assign y = a; endmodule';
  const project = (languages: Record<string, string> | undefined) => {
    const json = {
      format: 'nimble-project',
      version: 3,
      name: 'm',
      part: 'CV10',
      top: 'm',
      ...(languages && { languages }),
    };
    const read = readProject([
      { name: 'nimble.json', text: JSON.stringify(json) },
      { name: 'rtl/m.v', text },
    ]);
    if (!read.ok) throw new Error(read.error.message);
    return read.value;
  };
  const errors = (languages?: Record<string, string>) =>
    elaborate(project(languages).files, { top: 'm' }).messages.list.filter(({ severity }) => severity === 'error')
      .length;
  test('a file is read by its name, or as its project says', () => {
    expect(errors()).toBeGreaterThan(0);
    expect(errors({ 'rtl/m.v': 'systemverilog' })).toBe(0);
    expect(errors({ 'rtl/other.v': 'systemverilog' })).toBeGreaterThan(0);
    expect(() => project({ 'rtl/m.v': 'vhdl' })).toThrow(/languages/);
  });
});

describe('fixes', () => {
  test('are put in from the end, before the first word where the column is 0', () => {
    const done = applyInsertions(
      [{ name: 'a.v', text: 'one\n  two\nthree' }],
      [
        { file: 'a.v', line: 2, column: 0, insert: '(* keep *) ' },
        { file: 'a.v', line: 1, column: 4, insert: ' end' },
      ],
    );
    expect(done).toEqual({ ok: true, value: [{ name: 'a.v', text: 'one end\n  (* keep *) two\nthree' }] });
  });
  test('for a line that is gone change nothing', () => {
    expect(applyInsertions([{ name: 'a.v', text: 'one' }], [{ file: 'a.v', line: 9, column: 1, insert: 'x' }]).ok).toBe(
      false,
    );
  });
  test('answer their messages: a latch, an undeclared net, an open case, a removed signal', () => {
    const fixed = (text: string, code: string) => {
      const file = {
        format: 'nimble-project' as const,
        version: 3 as const,
        name: 't',
        part: 'CV10',
        grade: 2 as const,
        pins: 'pins.csv',
        clocks: {},
        accepted: [],
      };
      const run = (source: string) =>
        build({ project: { file, files: [{ name: 't.v', text: source }] }, plan: { recorders: [], panels: [] } })
          .messages;
      const message = run(text).find((m) => m.code === code);
      if (message?.fix?.kind !== 'insert') throw new Error(`no fix for ${code}`);
      const after = applyInsertions([{ name: 't.v', text }], message.fix.insertions);
      if (!after.ok) throw new Error(after.error.message);
      return run(after.value[0]?.text ?? '').map((m) => m.code);
    };
    expect(
      fixed('module t(input a, output reg y);\nalways @* begin\n  if (a) y = 1;\nend\nendmodule', 'latch'),
    ).not.toContain('latch');
    expect(
      fixed(
        'module i(input a, output y); assign y = a; endmodule\nmodule t(input a, output y);\n  i u(a, w);\n  i ' +
          'v(w, y);\nendmodule',
        'implicit-net',
      ),
    ).not.toContain('implicit-net');
    expect(
      fixed(
        'module t(input c, output reg [1:0] s);\n  always @(posedge c) case (s)\n    0: s <= 1;\n    1: s <= ' +
          '0;\n  endcase\nendmodule',
        'case-open',
      ),
    ).not.toContain('case-open');
    expect(
      fixed(
        'module t(input c, a, output y);\n  reg u;\n  always @(posedge c) u <= a;\n  wire z = u ^ a;\n  assign y ' +
          '= a;\nendmodule',
        'removed',
      ),
    ).not.toContain('removed');
  });
});
