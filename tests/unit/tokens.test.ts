// Colours: every one that is used is a token, by day and by night, and nobody writes one beside them.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';

const css = readFileSync('app/globals.css', 'utf8');
const [day = '', night = ''] = css.split('@media (prefers-color-scheme: dark)');
const tokensIn = (text: string) => [...text.matchAll(/--color-([\w-]+):/g)].map(([, name]) => name ?? '');
const sources = readdirSync('ui', { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.tsx?$/.test(name) && !name.includes('.test.'))
  .map((name) => ({ name, text: readFileSync(join('ui', name), 'utf8') }));

describe('colours', () => {
  test('are all in the page, those that only canvases take as well', () => {
    expect(day).toContain('@theme static {');
    const known = new Set(tokensIn(day));
    for (const { name, text } of sources)
      for (const [, token = ''] of text.matchAll(/(?:\bcolour\('|var\(--color-)([\w-]+)['`)]/g))
        expect(known, `${name}: ${token}`).toContain(token);
  });

  test('have another value by night, each of them', () => {
    const fixed = ['transparent'];
    expect(tokensIn(night).sort()).toEqual(
      tokensIn(day)
        .filter((name) => !fixed.includes(name))
        .sort(),
    );
  });

  test('stand nowhere else', () => {
    const beside = sources.flatMap(({ name, text }) =>
      [...text.matchAll(/#[0-9a-f]{6}\b|#[0-9a-f]{8}\b|\brgba?\(/gi)].map(([colour]) => `${name}: ${colour}`),
    );
    expect(beside).toEqual([]);
  });
});
