// The structure check, held to what it is to find: each rule with a small project that breaks it.
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { readSource } from '../../scripts/structure/read.mjs';
import { complaints } from '../../scripts/structure/rules.mjs';

type Source = Parameters<typeof complaints>[0][number];

/** A file as `readSource` tells it. */
const file = (name: string, over: Partial<Source> = {}): Source => ({
  ...{ file: name, text: '', imports: [], exports: [], passes: [], casts: [], long: [], many: [], wide: [] },
  used: new Map(),
  ...over,
});
const takes = (to: string, names: readonly string[] = ['x'], typeOnly = false) => ({
  imports: [{ to, names: [...names], typeOnly, line: 1 }],
});

describe('direction', () => {
  test('core takes nothing from outside, and nothing of the platform', () => {
    expect(complaints([file('core/jtag/a.ts', takes('server/index.ts'))])).toEqual([
      'core/jtag/a.ts:1: core may not import server/index.ts',
    ]);
    for (const name of ['node:fs', 'react', 'knex', 'ws'])
      expect(complaints([file('core/jtag/a.ts', takes(name))])).toEqual([
        `core/jtag/a.ts:1: core may not import ${name}`,
      ]);
  });

  test('pages take types of the server, not its values', () => {
    expect(complaints([file('ui/load/a.tsx', takes('server/index.ts', ['Job'], true))])).toEqual([]);
    expect(complaints([file('ui/load/a.tsx', takes('server/index.ts', ['Job']))])).toHaveLength(1);
  });

  test('inside core the lower does not take the upper', () => {
    const [told] = complaints([file('core/bits/a.ts', takes('core/wave/index.ts'))]);
    expect(told).toBe('core/bits/a.ts:1: core/bits comes before core/wave and may not import it');
    expect(complaints([file('core/wave/a.ts', takes('core/bits/index.ts'))])).toEqual([]);
    expect(complaints([file('core/fresh/a.ts')])).toEqual(['core/fresh/a.ts: core/fresh has no place in the order']);
  });
});

describe('faces', () => {
  const inside = file('core/jtag/tap.ts', { exports: [{ name: 'x', line: 1 }] });
  const face = file('core/jtag/index.ts', { passes: [{ name: 'x', as: 'x', to: 'core/jtag/tap.ts', line: 1 }] });

  test('from outside a folder is taken by its face', () => {
    expect(complaints([inside, face, file('server/main.ts', takes('core/jtag/tap.ts'))])).toContain(
      'server/main.ts:1: imports core/jtag/tap.ts; the face of its folder is core/jtag/index.ts',
    );
    expect(complaints([inside, face, file('server/main.ts', takes('core/jtag/index.ts'))])).toEqual([]);
  });

  test('inside it as one likes', () => {
    expect(complaints([inside, file('core/jtag/queue.ts', takes('core/jtag/tap.ts'))])).toEqual([]);
  });
});

describe('circles', () => {
  const ring = (...names: string[]) =>
    names.map((name, i) => file(name, takes(names[(i + 1) % names.length] ?? '', [])));

  test('of any length are found once', () => {
    const found = complaints(ring('core/jtag/a.ts', 'core/jtag/b.ts', 'core/jtag/c.ts'));
    expect(found).toHaveLength(1);
    expect(found[0]?.replace('a circle of imports: ', '').split(', ').sort()).toEqual(
      ['a', 'b', 'c'].map((name) => `core/jtag/${name}.ts`),
    );
  });

  test('a diamond is none', () => {
    const [top, left, right, end] = ['a', 'b', 'c', 'd'].map((name) => `core/jtag/${name}.ts`) as [
      string,
      string,
      string,
      string,
    ];
    const both = { imports: [left, right].map((to) => ({ to, names: [], typeOnly: false, line: 1 })) };
    expect(complaints([file(top, both), file(left, takes(end, [])), file(right, takes(end, [])), file(end)])).toEqual(
      [],
    );
  });
});

describe('exports', () => {
  const made = file('core/jtag/tap.ts', { exports: [{ name: 'x', line: 3 }] });

  test('that nobody takes, and those that tests alone take, are told', () => {
    expect(complaints([made])).toEqual(['core/jtag/tap.ts:3: nobody imports x']);
    expect(complaints([made, file('core/jtag/tap.test.ts', takes('core/jtag/tap.ts'))])).toEqual([
      'core/jtag/tap.ts:3: only tests import x',
    ]);
    expect(complaints([made, file('core/jtag/queue.ts', takes('core/jtag/tap.ts'))])).toEqual([]);
  });
});

describe('text', () => {
  test('lines, parameters, lengths and casts have their ends', () => {
    expect(complaints([file('core/jtag/a.ts', { wide: [7] })])).toEqual(['core/jtag/a.ts:7: over 120 characters']);
    expect(complaints([file('core/jtag/a.ts', { many: [{ name: 'f', count: 8, line: 2 }] })])).toEqual([
      'core/jtag/a.ts:2: f takes 8 parameters: give it an object',
    ]);
    const long = (lines: number) => [file('ui/load/a.tsx', { long: [{ name: 'Page', lines, line: 1 }] })];
    expect(complaints(long(126))).toEqual(['ui/load/a.tsx:1: Page has 126 lines; at most 125']);
    expect(complaints(long(125))).toEqual([]);
    expect(complaints([file('core/jtag/a.ts', { casts: Array.from({ length: 267 }, () => 1) })])).toEqual([
      '267 casts; at most 266',
    ]);
  });
});

describe('reading a file', () => {
  const read = (text: string, name = 'a.ts') => {
    const path = join(mkdtempSync(join(tmpdir(), 'structure-')), name);
    writeFileSync(path, text);
    return readSource(path);
  };

  test('tells imports by name and kind, workers and late imports too', () => {
    const { imports } = read(
      [
        "import fs, { type Stats, readFileSync as read } from 'node:fs';",
        "import type { A } from 'pkg';",
        "const late = await import('late');",
        "type T = import('typed').T;",
      ].join('\n'),
    );
    expect(imports.map(({ to, names, typeOnly }) => [to, names, typeOnly])).toEqual([
      ['node:fs', ['Stats'], true],
      ['node:fs', ['default', 'readFileSync'], false],
      ['pkg', ['A'], true],
      ['late', ['*'], false],
      ['typed', ['*'], true],
    ]);
  });

  test('counts casts but for constants, and functions by their lines and parameters', () => {
    const body = Array.from({ length: 61 }, () => '  work();').join('\n');
    const found = read(
      `const a = b as C;\nconst d = [1] as const;\nfunction many(a, b, c, d, e, f, g) {\n${body}\n}\n`,
    );
    expect(found.casts).toEqual([1]);
    expect(found.long).toEqual([{ name: 'many', lines: 63, line: 3 }]);
    expect(found.many).toEqual([{ name: 'many', count: 7, line: 3 }]);
  });

  test('a line is too wide by its code, not by a string or an import in it', () => {
    const words = 'word + '.repeat(20);
    expect(read(`const x = ${words}1;\n`).wide).toEqual([1]);
    expect(read(`const x = '${'word '.repeat(30)}';\n`).wide).toEqual([]);
    const many = Array.from({ length: 30 }, (_, i) => `word${i}`).join(', ');
    expect(read(`import { ${many} } from 'a';\n`).wide).toEqual([]);
  });
});
