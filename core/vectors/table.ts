import { cellLines } from '../cells.ts';
import { fail, ok, type Problem, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { parseWord, type Word } from './word.ts';

export interface PortSize {
  readonly name: string;
  readonly width: number;
}

/** A column: what its cells are for. */
type Column =
  | { readonly kind: 'input'; readonly port: string; readonly width: number }
  | { readonly kind: 'expect'; readonly port: string; readonly width: number }
  | { readonly kind: 'cycles' };

/** A cell of a row: null where it is empty. */
type VectorCell = Word | null;

export interface VectorRow {
  /** Counts data rows from 1. */
  readonly row: number;
  /** Rising clock edges after the inputs; null where the table leaves it open. */
  readonly cycles: number | null;
  readonly cells: readonly VectorCell[];
  readonly texts: readonly string[];
}

export interface Vectors {
  readonly columns: readonly Column[];
  readonly rows: readonly VectorRow[];
}

const MOST_CYCLES = 100_000_000;

/**
 * Reads a vector table: a header row, `name` for an input, `=name` for an expected output, `cycles` for clock edges;
 * `#` begins a comment line. docs/formats.md, section 8
 */
export function parseVectors(
  file: string,
  text: string,
  inputs: readonly PortSize[],
  outputs: readonly PortSize[],
): Result<Vectors> {
  const [header, ...body] = cellLines(text);
  if (!header) return fail(problem('no-vectors', { file }));
  const columns: Column[] = [];
  for (const name of header.cells) {
    const column = columnOf(name, inputs, outputs);
    if (!column.ok)
      return fail(
        at(file, header.line, column.error, [
          `Inputs: ${names(inputs)}.`,
          `Outputs: ${names(outputs.map((port) => ({ ...port, name: `=${port.name}` })))}.`,
        ]),
      );
    if (columns.some((other) => same(other, column.value)))
      return fail(at(file, header.line, `The column "${name}" is there twice.`, ['Delete one of them.']));
    columns.push(column.value);
  }
  const rows: VectorRow[] = [];
  for (const { line, cells } of body) {
    const row = readRow(columns, cells, rows.length + 1);
    if (!row.ok) return fail(at(file, line, row.error, ['Correct the cell; nothing was run.']));
    rows.push(row.value);
  }
  return ok({ columns, rows });
}

const names = (ports: readonly PortSize[]): string => ports.map((port) => port.name).join(', ') || 'none';

const same = (a: Column, b: Column): boolean =>
  a.kind === b.kind && (a.kind === 'cycles' || (b.kind !== 'cycles' && a.port === b.port));

function at(file: string, line: number, message: string, tryNext: readonly string[]): Problem {
  return {
    ...plainProblem('vectors', `${file}, line ${line}: ${message}`, ...tryNext),
    place: { file, line, column: 1 },
  };
}

function columnOf(name: string, inputs: readonly PortSize[], outputs: readonly PortSize[]): Result<Column, string> {
  if (name === 'cycles') return ok({ kind: 'cycles' });
  const expect = name.startsWith('=');
  const port = expect ? name.slice(1).trim() : name;
  const found = (expect ? outputs : inputs).find((p) => p.name === port);
  if (found) return ok({ kind: expect ? 'expect' : 'input', port, width: found.width });
  const other = (expect ? inputs : outputs).some((p) => p.name === port);
  if (other)
    return fail(
      expect
        ? `"${port}" is an input; an expectation needs an output.`
        : `"${port}" is an output; its expected value goes into a column "=${port}".`,
    );
  return fail(`The design has no ${expect ? 'output' : 'input'} "${port}".`);
}

function readRow(columns: readonly Column[], cells: readonly string[], row: number): Result<VectorRow, string> {
  const extra = cells.slice(columns.length).find((cell) => cell !== '');
  if (extra !== undefined) return fail(`The row has more cells than the header: "${extra}" is over.`);
  let cycles: number | null = null;
  const words: VectorCell[] = [];
  for (const [i, column] of columns.entries()) {
    const text = cells[i] ?? '';
    if (column.kind === 'cycles') {
      if (text !== '' && !/^\d+$/.test(text)) return fail(`"${text}" is no number of cycles.`);
      if (Number(text) > MOST_CYCLES)
        return fail(`${text} cycles are more than the ${MOST_CYCLES} that one row may run.`);
      cycles = text === '' ? null : Number(text);
      words.push(null);
      continue;
    }
    if (text === '') {
      words.push(null);
      continue;
    }
    const word = parseWord(text, column.width, column.kind === 'expect');
    if (!word.ok) return fail(`${column.kind === 'expect' ? '=' : ''}${column.port}: ${word.error}`);
    words.push(word.value);
  }
  return ok({ row, cycles, cells: words, texts: columns.map((_, i) => cells[i] ?? '') });
}
