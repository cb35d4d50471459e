'use client';
import { clsx } from 'clsx';
import { type ReactNode, useMemo, useState } from 'react';
import type { Incident, Source } from '../../wave/index.ts';
import { type api, Checkbox, DataTable, dateTime, Section, shortPrint, TextButton } from '../../shared/index.ts';
import { type TableRow, tableRecord, tableRows } from './rows.ts';

type Run = NonNullable<Awaited<ReturnType<typeof api.drive.table.query>>>;

interface Waves {
  readonly of: string;
  readonly source: Source;
  readonly incidents: readonly Incident[];
  readonly goTo: { readonly tick: number } | null;
}

interface Props {
  readonly run: Run;
  /** Draws the rows over time. */
  readonly waves: (what: Waves) => ReactNode;
}

/** What came of a table, row by row and over time. */
export function Outcome({ run, waves }: Props) {
  const { file, result } = run;
  const rows = useMemo(() => tableRows(result), [result]);
  const source = useMemo((): Source => ({ kind: 'steps', steps: tableRecord(result), title: file }), [result, file]);
  const wrong = useMemo(() => rows.filter(({ verdict }) => verdict === 'failed' || verdict === 'differs'), [rows]);
  const incidents = useMemo(
    () => wrong.map(({ row, verdict }): Incident => ({ tick: row - 1, text: `row ${row} ${verdict}`, isBad: true })),
    [wrong],
  );
  // The first difference is what one wants to see first.
  const [row, setRow] = useState<number | null>(wrong[0]?.row ?? null);
  const [goTo, setGoTo] = useState<{ readonly tick: number } | null>(() =>
    wrong[0] ? { tick: wrong[0].row - 1 } : null,
  );
  const choose = (next: number) => {
    setRow(next);
    setGoTo({ tick: next - 1 });
  };
  return (
    <>
      <Sum run={run} all={rows.length} />
      {wrong[0] && <First row={wrong[0]} result={result} onShow={choose} />}
      <Rows result={result} rows={rows} row={row} onRow={choose} />
      <Section title="Waves" aside="a step is a row" className="mt-3">
        {waves({ of: `${file} on hardware`, source, incidents, goTo })}
      </Section>
    </>
  );
}

interface FirstProps {
  readonly row: TableRow;
  readonly result: Run['result'];
  readonly onShow: (row: number) => void;
}

/** The first row that came out otherwise, in words. */
function First({ row, result, onShow }: FirstProps) {
  const said = result.columns.flatMap((column, i) => {
    const cell = row.cells[i];
    if (column.kind !== 'expect' || !cell?.isWrong) return [];
    const wanted = cell.text === '' ? `in simulation ${cell.simulation}` : `expected ${cell.text}`;
    return [`${column.port} is ${cell.hardware}, ${wanted}`];
  });
  return (
    <p className="mb-2 text-sm" data-testid="first-difference">
      First in{' '}
      <TextButton className="tabular font-bold" onClick={() => onShow(row.row)}>
        row {row.row}
      </TextButton>
      : <span className="code text-xs">{said.join('; ')}</span>
    </p>
  );
}

function Sum({ run, all }: { readonly run: Run; readonly all: number }) {
  const { file, created, result } = run;
  const { passed, failed, differences, simulated, whyNotSimulated, stopped, notAsked, time, times } = result;
  return (
    <>
      <p className="mb-2 text-sm" data-testid="table-outcome">
        <span className="code text-xs">{file}</span> on build{' '}
        <span className="code text-xs">{shortPrint(result.fingerprint)}</span>:{' '}
        <span className={clsx('tabular font-bold', failed > 0 ? 'text-bad' : 'text-good')}>
          {passed} passed, {failed} failed
        </span>
        {simulated && (
          <span className={clsx('tabular', differences.length > 0 && 'font-bold text-bad')}>
            , {differences.length === 0 ? 'as in simulation' : `${differences.length} otherwise than in simulation`}
          </span>
        )}{' '}
        {times > 1 && (
          <span className="tabular">
            time {time} of {times}{' '}
          </span>
        )}
        <span className="text-quiet">{dateTime(created)}</span>
      </p>
      {stopped !== null && (
        <p className="mb-2 border-doubt border-l-4 bg-raised px-3 py-1.5 text-sm">
          {result.rows.length} of {all} rows were run:{' '}
          {stopped === 'cancelled'
            ? 'it was cancelled.'
            : stopped === 'difference'
              ? 'the first difference was enough.'
              : stopped.message}
        </p>
      )}
      {whyNotSimulated !== null && <p className="mb-2 text-quiet text-sm">Not simulated: {whyNotSimulated}</p>}
      {notAsked > 0 && (
        <p className="mb-2 text-quiet text-sm">
          {notAsked} expected bits are z or unknown, which hardware cannot answer for; they were not asked.
        </p>
      )}
    </>
  );
}

interface RowsProps {
  readonly result: Run['result'];
  readonly rows: readonly TableRow[];
  readonly row: number | null;
  readonly onRow: (row: number) => void;
}

function Rows({ result, rows: all, row, onRow }: RowsProps) {
  const [isLess, setLess] = useState(false);
  const rows = useMemo(
    () => (isLess ? all.filter(({ verdict }) => verdict === 'failed' || verdict === 'differs') : all),
    [all, isLess],
  );
  return (
    <>
      <Checkbox className="mb-1 text-sm" checked={isLess} onChange={(event) => setLess(event.target.checked)}>
        only rows that differ
      </Checkbox>
      <DataTable
        className="max-h-80"
        name="rows"
        rows={rows}
        empty="The table has no rows."
        chosen={(one) => one.row === row}
        onRow={(one) => onRow(one.row)}
        columns={[
          { accessorKey: 'row', header: 'Row', cell: (c) => <span className="tabular">{String(c.getValue())}</span> },
          {
            accessorKey: 'verdict',
            header: 'Verdict',
            cell: ({ row: { original } }) => (
              <span
                className={clsx(
                  'whitespace-nowrap',
                  original.verdict === 'passed' && 'text-good',
                  original.verdict === 'not run' && 'text-quiet',
                  (original.verdict === 'failed' || original.verdict === 'differs') && 'font-bold text-bad',
                )}
              >
                {original.verdict}
              </span>
            ),
          },
          ...result.columns.flatMap((column, i) => columnsOf(column, i, result.simulated !== null)),
        ]}
      />
    </>
  );
}

/** What was set; of an output what was expected, what the hardware gave, and what simulation gave, side by side. */
function columnsOf(column: Run['result']['columns'][number], i: number, hasSimulation: boolean) {
  const cell = (id: string, header: string, textOf: (row: TableRow) => string, isMarked: boolean) => ({
    id: `${id}${i}`,
    header,
    accessorFn: textOf,
    cell: ({ row }: { row: { original: TableRow } }) => (
      <span
        className={clsx(
          'code whitespace-nowrap text-xs',
          isMarked && row.original.cells[i]?.isWrong && 'bg-bad/10 px-1 font-bold text-bad',
        )}
      >
        {textOf(row.original)}
      </span>
    ),
  });
  if (column.kind === 'cycles') return [cell('c', 'cycles', (row) => row.cells[i]?.text ?? '', false)];
  if (column.kind === 'input')
    return [cell('c', column.port, (row) => row.cells[i]?.hardware ?? row.cells[i]?.text ?? '', false)];
  return [
    cell('c', `=${column.port}`, (row) => row.cells[i]?.text ?? '', false),
    cell('h', 'hardware', (row) => row.cells[i]?.hardware ?? '', true),
    ...(hasSimulation ? [cell('s', 'simulation', (row) => row.cells[i]?.simulation ?? '', false)] : []),
  ];
}
