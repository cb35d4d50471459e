import Papa from 'papaparse';
import { cellLines } from '../cells.ts';

/** A file of the project that says which ways between registers do not count as they stand. docs/formats.md, section 5 */
export const TIMING_TABLE = 'timing.csv';

/** Ways that may take several cycles, or any time. `from` and `to` name registers, memories, instances or clocks. */
export interface WayRule {
  readonly kind: 'multicycle' | 'false path';
  readonly from: string;
  readonly to: string;
  /** Cycles of the receiving clock; 0 for any time. */
  readonly cycles: number;
  readonly line: number;
}

/**
 * What the board takes of a clock's cycle: until an input is there after the clock's edge, or before the next edge that an
 * output has to be there. Nanoseconds.
 */
export interface PortRule {
  readonly kind: 'input delay' | 'output delay';
  readonly port: string;
  readonly clock: string;
  readonly delay: number;
  readonly line: number;
}

export interface TimingRules {
  readonly ways: readonly WayRule[];
  readonly ports: readonly PortRule[];
}

/** A line that says nothing that is understood. */
interface TimingIssue {
  readonly line: number;
  readonly message: string;
}

export const NO_TIMING_RULES: TimingRules = { ways: [], ports: [] };

const COLUMNS = ['kind', 'from', 'to', 'value'] as const;
type Column = (typeof COLUMNS)[number];
const MOST_CYCLES = 1000;
const UNITS: Readonly<Record<string, number>> = { ps: 1e-3, ns: 1, us: 1e3, µs: 1e3 };

/**
 * Reads a timing table: a header naming the columns kind, from, to, value in any order, then a line for each rule;
 * without a header the columns stand in that order. Lines that cannot be taken are said, the others count.
 */
export function readTimingTable(text: string): {
  readonly rules: TimingRules;
  readonly issues: readonly TimingIssue[];
} {
  const lines = cellLines(text);
  const heads = lines[0]?.cells.map((cell) => COLUMNS.find((column) => column === cell.toLowerCase())) ?? [];
  const hasHeader = heads.includes('from') && heads.includes('to');
  const columns: readonly (Column | undefined)[] = hasHeader ? heads : COLUMNS;
  const ways: WayRule[] = [];
  const ports: PortRule[] = [];
  const issues: TimingIssue[] = [];
  for (const { line, cells } of lines.slice(hasHeader ? 1 : 0)) {
    const cell = (column: Column): string => cells[columns.indexOf(column)] ?? '';
    const rule = ruleOf({ kind: cell('kind'), from: cell('from'), to: cell('to'), value: cell('value'), line });
    if (typeof rule === 'string') issues.push({ line, message: rule });
    else if ('cycles' in rule) ways.push(rule);
    else ports.push(rule);
  }
  return { rules: { ways, ports }, issues };
}

interface Line {
  readonly kind: string;
  readonly from: string;
  readonly to: string;
  readonly value: string;
  readonly line: number;
}

function ruleOf({ kind, from, to, value, line }: Line): WayRule | PortRule | string {
  const what = kind.toLowerCase().replace(/[\s_-]+/g, ' ');
  if (from === '' || to === '') return 'It says neither from where nor to where: both cells are wanted; * is anything.';
  if (what === 'false path')
    return value === ''
      ? { kind: 'false path', from, to, cycles: 0, line }
      : `A false path has no value; "${value}" is one.`;
  if (what === 'multicycle') {
    const cycles = /^\d+$/.test(value) ? Number(value) : 0;
    if (cycles < 1 || cycles > MOST_CYCLES) return `"${value}" is no number of cycles from 1 to ${MOST_CYCLES}.`;
    return { kind: 'multicycle', from, to, cycles, line };
  }
  if (what === 'input delay' || what === 'output delay') {
    const delay = nanoseconds(value);
    if (delay === null) return `"${value}" is no time, as "3.5 ns" is.`;
    const [clock, port] = what === 'input delay' ? [from, to] : [to, from];
    return { kind: what, port, clock, delay, line };
  }
  return `"${kind}" is no kind of rule. There are: multicycle, false path, input delay, output delay.`;
}

/** A time with its unit; without one it is nanoseconds. */
function nanoseconds(text: string): number | null {
  const match = /^(-?\d+(?:\.\d+)?)\s*([pnuµ]s)?$/.exec(text);
  return match ? Number(match[1]) * (UNITS[match[2] ?? 'ns'] ?? 1) : null;
}

/** The table's text with one more rule. */
export function withWayRule(text: string, { kind, from, to, cycles }: Omit<WayRule, 'line'>): string {
  const start = text.trim() === '' ? `${COLUMNS.join(',')}\n` : text.endsWith('\n') ? text : `${text}\n`;
  return `${start}${Papa.unparse([[kind, from, to, kind === 'multicycle' ? String(cycles) : '']])}\n`;
}
