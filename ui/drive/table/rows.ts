import type { StepRecord } from '../../../core/wave/index.ts';
import type { KeptTable } from '../../../server/index.ts';

/** One cell of a row: what was written, what was set or came, and what came in simulation. */
interface TableCell {
  readonly text: string;
  readonly hardware: string | null;
  readonly simulation: string | null;
  /** It is not what was expected, or not what simulation gave. */
  readonly isWrong: boolean;
}

export interface TableRow {
  readonly row: number;
  readonly verdict: 'passed' | 'failed' | 'differs' | 'not run';
  readonly cells: readonly TableCell[];
}

/** All rows of a table, those that were not run too. */
export function tableRows({ columns, texts, rows, simulated, differences }: KeptTable): TableRow[] {
  const differing = new Set(differences.map(({ row, port }) => `${row} ${port}`));
  return texts.map((written, i) => {
    const ran = rows[i];
    const row = i + 1;
    const failed = new Set(ran?.failures.map(({ port }) => port));
    const cells = columns.map((column, k): TableCell => {
      const port = column.kind === 'cycles' ? '' : column.port;
      const isOutput = column.kind === 'expect';
      return {
        text: written[k] ?? '',
        hardware: (isOutput ? ran?.actual[k] : ran?.set[k]) ?? null,
        simulation: isOutput ? (simulated?.[i]?.[k] ?? null) : null,
        isWrong: isOutput && (failed.has(port) || differing.has(`${row} ${port}`)),
      };
    });
    const verdict = !ran ? 'not run' : failed.size > 0 ? 'failed' : cells.some((c) => c.isWrong) ? 'differs' : 'passed';
    return { row, verdict, cells };
  });
}

/** Bits of a value as it is told, as four-state words of a record. */
function wordOf(text: string): { readonly value: bigint; readonly unknown: bigint } {
  const [, base, digits = ''] = /^0([xb])(.*)$/.exec(text) ?? [];
  if (base === undefined) return { value: BigInt(text), unknown: 0n };
  const bits = base === 'x' ? 4n : 1n;
  const all = (1n << bits) - 1n;
  let [value, unknown] = [0n, 0n];
  for (const digit of digits) {
    const isOpen = /[xz]/.test(digit);
    value = (value << bits) | (isOpen ? (digit === 'x' ? all : 0n) : BigInt(`0x${digit}`));
    unknown = (unknown << bits) | (isOpen ? all : 0n);
  }
  return { value, unknown };
}

/** Rows over time, one step each: what was set, and each output as hardware and as simulation had it. */
export function tableRecord({ columns, rows, simulated }: KeptTable): StepRecord {
  const signals = columns.flatMap((column, k) => {
    if (column.kind === 'cycles') return [];
    const { width } = column;
    const over = (name: string, texts: readonly (string | null)[]) => {
      const times: number[] = [];
      const values: { readonly value: string; readonly unknown: string }[] = [];
      for (const [at, text] of texts.entries()) {
        if (text === null) continue;
        const { value, unknown } = wordOf(text);
        const word = { value: String(BigInt.asUintN(width, value)), unknown: String(BigInt.asUintN(width, unknown)) };
        const last = values.at(-1);
        if (last && last.value === word.value && last.unknown === word.unknown) continue;
        times.push(at);
        values.push(word);
      }
      return { name, width, names: [], times, values };
    };
    if (column.kind === 'input')
      return [
        over(
          column.port,
          rows.map(({ set }) => set[k] ?? null),
        ),
      ];
    return [
      over(
        `${column.port} on hardware`,
        rows.map(({ actual }) => actual[k] ?? null),
      ),
      ...(simulated
        ? [
            over(
              `${column.port} in simulation`,
              rows.map((_, i) => simulated[i]?.[k] ?? null),
            ),
          ]
        : []),
    ];
  });
  return { signals, end: rows.length };
}
