import Papa from 'papaparse';

/** What may stand between the cells of a line. */
const SEPARATORS = ['\t', ';', ','] as const;
/** Lines that are looked at to find out. */
const MOST_LOOKED_AT = 50;

/** One line of a table that holds something, its cells without blanks around them. `line` counts from 1. */
interface CellLine {
  readonly line: number;
  readonly cells: readonly string[];
}

/**
 * Lines of a table of cells, as files hold it or a spreadsheet puts it on the clipboard: separated by tabs, semicolons
 * or commas, cells in quotes where they hold one of these. Lines that are empty or begin with `#` are left out.
 */
export function cellLines(text: string): readonly CellLine[] {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    delimiter: separatorOf(text),
    skipEmptyLines: false,
  });
  return data
    .map((cells, i) => ({ line: i + 1, cells: cells.map((cell) => cell.trim()) }))
    .filter(({ cells }) => cells.some((cell) => cell !== '') && !cells[0]?.startsWith('#'));
}

/**
 * The separator that most lines have; of two that are in as many, a tab before a semicolon before a comma, which may
 * also stand within a number.
 */
export function separatorOf(text: string): string {
  const lines = text
    .split(/\r\n|\r|\n/, MOST_LOOKED_AT)
    .filter((line) => line.trim() !== '' && !line.trim().startsWith('#'));
  const counts = SEPARATORS.map((separator) => ({
    separator,
    lines: lines.filter((line) => line.includes(separator)).length,
  }));
  const best = counts.reduce((a, b) => (b.lines > a.lines ? b : a));
  return best.lines > 0 ? best.separator : ',';
}
