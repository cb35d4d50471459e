import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { cellLines } from './cells.ts';
import { parsePinTable } from './constraints/index.ts';

describe('a table of cells', () => {
  test('of two columns is read with any separator, however few its lines, with or without a line end', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('\t', ';', ','),
        fc.integer({ min: 1, max: 30 }),
        fc.constantFrom('\n', '\r\n', ''),
        fc.constantFrom('\n', '\r\n'),
        (separator, count, end, between) => {
          const rows = Array.from({ length: count }, (_, i) => [`lamp[${i}]`, `P${i + 1}`]);
          const text = `${rows.map((cells) => cells.join(separator)).join(between)}${end}`;
          expect(cellLines(text).map(({ cells }) => cells)).toEqual(rows);
          expect(parsePinTable(text).map(({ name, pin }) => [name, pin])).toEqual(rows);
        },
      ),
    );
  });

  test('keeps the numbers of its lines over comments and empty lines, and cells in quotes whole', () => {
    expect(cellLines('# pins, by hand; mostly\n\nclk\tP1\n"a;b"\tP2\n')).toEqual([
      { line: 3, cells: ['clk', 'P1'] },
      { line: 4, cells: ['a;b', 'P2'] },
    ]);
  });
});
