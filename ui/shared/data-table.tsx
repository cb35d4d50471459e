'use client';
import { type ColumnDef, flexRender, getCoreRowModel, getFilteredRowModel, getSortedRowModel, useReactTable } from '@tanstack/react-table';
import { clsx } from 'clsx';
import { Copy } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { Button } from './button.tsx';

interface Props<T> {
  readonly rows: readonly T[];
  readonly columns: readonly ColumnDef<T, unknown>[];
  readonly name: string;
  readonly empty: string;
  readonly onRow?: (row: T) => void;
  readonly className?: string;
}

/** Rows that can be filtered, sorted by their heads, and copied as they are shown. */
export function DataTable<T>({ rows, columns, name, empty, onRow, className }: Props<T>) {
  const [filter, setFilter] = useState('');
  const table = useReactTable({
    data: rows as T[],
    columns: columns as ColumnDef<T, unknown>[],
    state: { globalFilter: filter },
    onGlobalFilterChange: setFilter,
    getCoreRowModel: getCoreRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const shown = table.getRowModel().rows;
  const copy = async () => {
    const heads = table.getVisibleLeafColumns().map((column) => String(column.columnDef.header ?? ''));
    const lines = shown.map((row) => row.getVisibleCells().map((cell) => String(cell.getValue() ?? '')).join('\t'));
    await navigator.clipboard.writeText([heads.join('\t'), ...lines].join('\n'));
    toast.success(`${shown.length} rows copied.`);
  };
  return (
    <div className={clsx('flex min-h-0 flex-col', className)}>
      <div className="mb-1 flex items-center gap-2">
        <input
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
          placeholder={`Filter ${name}`}
          aria-label={`Filter ${name}`}
          className="h-7 w-56 border border-line bg-raised px-2 text-sm"
        />
        <span className="text-quiet text-sm">
          {shown.length === rows.length ? (rows.length === 1 ? '1 row' : `${rows.length} rows`) : `${shown.length} of ${rows.length} rows`}
        </span>
        <Button look="quiet" className="ml-auto h-7" onClick={copy} disabled={shown.length === 0}>
          <Copy aria-hidden className="size-3.5" /> Copy
        </Button>
      </div>
      <div className="min-h-0 overflow-auto border border-line bg-raised">
        <table className="w-full border-collapse text-sm">
          <thead className="sticky top-0 bg-well text-left">
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id}>
                {group.headers.map((head) => (
                  <th key={head.id} className="whitespace-nowrap px-2 py-1 font-bold">
                    <button type="button" onClick={head.column.getToggleSortingHandler()} className="hover:underline">
                      {flexRender(head.column.columnDef.header, head.getContext())}
                      {{ asc: ' ↑', desc: ' ↓' }[head.column.getIsSorted() as string] ?? ''}
                    </button>
                  </th>
                ))}
              </tr>
            ))}
          </thead>
          <tbody>
            {shown.map((row) => (
              <tr
                key={row.id}
                className={clsx('border-line border-t align-top', onRow && 'cursor-pointer hover:bg-paper')}
                onClick={onRow && (() => onRow(row.original))}
                onKeyDown={onRow && ((event) => event.key === 'Enter' && onRow(row.original))}
                tabIndex={onRow ? 0 : undefined}
              >
                {row.getVisibleCells().map((cell) => (
                  <td key={cell.id} className="px-2 py-1">
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </td>
                ))}
              </tr>
            ))}
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
