'use client';
import { TextButton } from './small-button.tsx';
import { TextInput } from './fields.tsx';
import { item } from '../../core/lists.ts';
import { counted } from '../../core/words.ts';
import {
  type ColumnDef,
  type FilterFn,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type Row,
  type Table,
  useReactTable,
  type Header,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { Copy } from 'lucide-react';
import { type RefObject, useDeferredValue, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { Button } from './button.tsx';
import { matches } from './matches.ts';

interface Props<T> {
  readonly rows: readonly T[];
  readonly columns: readonly ColumnDef<T, unknown>[];
  readonly name: string;
  readonly empty: string;
  readonly onRow?: (row: T) => void;
  /** The row that is shown in full elsewhere. */
  readonly chosen?: (row: T) => boolean;
  readonly className?: string;
  /** What the filter begins with. */
  readonly initialFilter?: string;
}

const ROW_HEIGHT = 28;
/** Shorter tables are drawn whole. */
const DRAWN_WHOLE = 150;

const byWords: FilterFn<unknown> = (row, _column, wanted: string) =>
  matches(
    row
      .getAllCells()
      .map((cell) => String(cell.getValue() ?? ''))
      .join(' '),
    wanted,
  );

/** Moves the rows, and nothing around them, so that the chosen one is among those that are seen. */
function useInSight(scroller: RefObject<HTMLDivElement | null>, at: number): void {
  useEffect(() => {
    const { current: box } = scroller;
    if (!box || at < 0) return;
    // The head of the table stays above the rows.
    const [top, height] = [at * ROW_HEIGHT, box.clientHeight - 2 * ROW_HEIGHT];
    if (top < box.scrollTop || top > box.scrollTop + height) box.scrollTop = Math.max(0, top - height / 2);
  }, [scroller, at]);
}

/**
 * Rows that can be filtered, sorted by their heads, and copied as they are shown. Of many rows only those in sight are
 * drawn.
 */
export function DataTable<T>({ rows, columns, name, empty, onRow, chosen, className, initialFilter = '' }: Props<T>) {
  const [filter, setFilter] = useState(initialFilter);
  const wanted = useDeferredValue(filter);
  const scroller = useRef<HTMLDivElement>(null);
  const table = useReactTable({
    data: rows as T[],
    columns: columns as ColumnDef<T, unknown>[],
    state: { globalFilter: wanted },
    globalFilterFn: byWords as FilterFn<T>,
    onGlobalFilterChange: setFilter,
    getCoreRowModel: getCoreRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const shown = table.getRowModel().rows;
  const whole = shown.length <= DRAWN_WHOLE;
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
    enabled: !whole,
  });
  const inSight = virtual.getVirtualItems();
  const at = chosen ? shown.findIndex(({ original }) => chosen(original)) : -1;
  useInSight(scroller, at);
  const first = inSight[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (inSight.at(-1)?.end ?? 0);
  const line = (row: Row<T>) => ({ row, onRow, isChosen: chosen?.(row.original) });
  return (
    <div className={clsx('flex min-h-0 flex-col', className)}>
      <div className="mb-1 flex items-center gap-2">
        <TextInput
          className="w-56"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
          placeholder={`Filter ${name}`}
          aria-label={`Filter ${name}`}
        />
        <span className="tabular text-quiet text-sm">
          {shown.length === rows.length
            ? rows.length === 1
              ? '1 row'
              : `${rows.length} rows`
            : `${shown.length} of ${rows.length} rows`}
        </span>
        <Button look="quiet" className="ml-auto h-7" onClick={() => copied(table)} disabled={shown.length === 0}>
          <Copy aria-hidden className="size-3.5" /> Copy
        </Button>
      </div>
      <div ref={scroller} className="min-h-0 overflow-auto border border-line bg-raised">
        <table className="w-full border-collapse text-sm">
          <thead className="sticky top-0 z-[1] bg-well text-left">
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id}>
                {group.headers.map((head) => (
                  <Head key={head.id} head={head} />
                ))}
              </tr>
            ))}
          </thead>
          <tbody>
            {whole ? (
              shown.map((row) => <Line key={row.id} {...line(row)} />)
            ) : (
              <>
                <Gap height={first} />
                {inSight.map(({ index }) => (
                  <Line
                    key={shown[index]?.id}
                    {...line(item(shown, index))}
                    measure={virtual.measureElement}
                    index={index}
                  />
                ))}
                <Gap height={after} />
              </>
            )}
            {shown.length === 0 && (
              <tr>
                <td colSpan={columns.length} className="px-2 py-4 text-center text-quiet">
                  {rows.length === 0 ? empty : 'Nothing matches the filter.'}
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
    </div>
  );
}

interface LineProps<T> {
  readonly row: Row<T>;
  readonly isChosen: boolean | undefined;
  readonly onRow: ((row: T) => void) | undefined;
  /** Of a row among many: measures its height by its place. */
  readonly measure?: (element: Element | null) => void;
  readonly index?: number;
}

function Line<T>({ row, isChosen, onRow, measure, index }: LineProps<T>) {
  return (
    <tr
      ref={measure}
      data-index={index}
      className={clsx(
        'group/row border-line border-t align-baseline',
        onRow && 'cursor-pointer hover:bg-paper',
        isChosen && 'bg-well',
      )}
      aria-selected={isChosen}
      onClick={onRow && (() => onRow(row.original))}
      onKeyDown={onRow && ((event) => event.key === 'Enter' && onRow(row.original))}
      tabIndex={onRow ? 0 : undefined}
    >
      {row.getVisibleCells().map((cell) => (
        <td key={cell.id} className={clsx('px-2 py-1', isNumber(cell.column.columnDef) && 'tabular text-right')}>
          {flexRender(cell.column.columnDef.cell, cell.getContext())}
        </td>
      ))}
    </tr>
  );
}

/** What is shown goes to the clipboard, cells parted by tabs, as spreadsheets take them. */
async function copied<T>(table: Table<T>): Promise<void> {
  const heads = table.getVisibleLeafColumns().map((column) => String(column.columnDef.header ?? ''));
  const shown = table.getRowModel().rows;
  const lines = shown.map((row) =>
    row
      .getVisibleCells()
      .map((cell) => String(cell.getValue() ?? ''))
      .join('\t'),
  );
  await navigator.clipboard.writeText([heads.join('\t'), ...lines].join('\n'));
  toast.success(`${counted(shown.length, 'row')} copied.`);
}

/** Stands for the rows out of sight. */
const Gap = ({ height }: { readonly height: number }) =>
  height > 0 ? (
    <tr style={{ height }} aria-hidden>
      <td />
    </tr>
  ) : null;

const SORTED = { asc: 'ascending', desc: 'descending' } as const;

/** A column's name, by which the rows can be sorted; a column without one holds what can be done to a row. */
/** A column of numbers, which end below one another: `meta: { isNumber: true }`. */
const isNumber = ({ meta }: { readonly meta?: object | undefined }): boolean =>
  meta !== undefined && 'isNumber' in meta && meta.isNumber === true;

function Head<T>({ head }: { readonly head: Header<T, unknown> }) {
  const { header } = head.column.columnDef;
  if (header === '')
    return (
      <th className="px-2 py-1">
        <span className="sr-only">What can be done</span>
      </th>
    );
  const sorted = head.column.getIsSorted();
  return (
    <th
      className={clsx('whitespace-nowrap px-2 py-1 font-bold', isNumber(head.column.columnDef) && 'text-right')}
      aria-sort={sorted === false ? 'none' : SORTED[sorted]}
    >
      <TextButton onClick={head.column.getToggleSortingHandler()}>
        {flexRender(header, head.getContext())}
        <span aria-hidden>{sorted === false ? '' : sorted === 'asc' ? ' ↑' : ' ↓'}</span>
      </TextButton>
    </th>
  );
}
