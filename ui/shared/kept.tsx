'use client';
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { counted } from '../../core/words.ts';
import type { Kept } from '../../server/index.ts';
import { Button } from './button.tsx';
import { DataTable } from './data-table.tsx';
import { TextButton } from './small-button.tsx';
import { dateTime, sizeText } from './format.ts';

/** From here on a word is said, before the end is reached. */
const NEARLY = 0.8;

/** Of the fuller one of count and bytes, how much is used: 1 is all. */
const usedOf = ({ count, bytes, most, mostBytes }: Kept): number => Math.max(count / most, bytes / mostBytes);

/** A word before the end is reached; `then` says what happens there. */
export function NearlyFull({
  kept,
  what,
  then,
}: {
  readonly kept: Kept;
  readonly what: string;
  readonly then: string;
}) {
  if (usedOf(kept) < NEARLY) return null;
  const { count, bytes, most, mostBytes } = kept;
  return (
    <p role="status" className="mb-2 border-doubt border-l-4 bg-raised px-3 py-1.5 text-sm">
      {count.toLocaleString('en')} of {counted(most, what)}, {sizeText(bytes)} of {sizeText(mostBytes)}. {then}
    </p>
  );
}

interface Row {
  readonly id: number;
  readonly title: string;
  readonly time: string;
  readonly bytes: number;
}

interface Props {
  /** What one of them is: capture. */
  readonly what: string;
  readonly rows: readonly Row[];
  readonly kept: Kept;
  /** What happens when there is no more room. */
  readonly then: string;
  readonly disabled?: boolean;
  readonly onDelete: (id: number) => void;
  /** Shows one; absent where there is nothing to be shown. */
  readonly onChoose?: (id: number) => void;
  /** Fetches those that are older than the last row. */
  readonly onMore?: () => void;
}

/** All there is of something, with its size, to be looked at and deleted; opens from a button that says how many. */
export function KeptList({ what, rows, kept, then, disabled = false, onDelete, onChoose, onMore }: Props) {
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState<Row | null>(null);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button look="quiet" className="px-0!" disabled={disabled}>
          {kept.count === 1 ? `The one ${what}` : `All ${counted(kept.count, what)}`}
        </Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/25 dark:bg-paper/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[10vh] left-1/2 z-30 flex h-[80vh] w-[46rem] max-w-[94vw] -translate-x-1/2 flex-col border border-quiet bg-raised p-4 shadow-lg"
        >
          <div className="mb-2 flex items-baseline gap-3">
            <Dialog.Title className="font-bold text-lg">All {what}s</Dialog.Title>
            <span className="tabular flex-1 text-quiet text-sm">
              {kept.count.toLocaleString('en')} of at most {kept.most.toLocaleString('en')}, {sizeText(kept.bytes)} of
              at most {sizeText(kept.mostBytes)}
            </span>
            <Dialog.Close asChild>
              <Button look="quiet" aria-label="Close" className="px-1!">
                <X aria-hidden className="size-4" />
              </Button>
            </Dialog.Close>
          </div>
          <NearlyFull kept={kept} what={what} then={then} />
          {asked && (
            <p className="mb-2 flex flex-wrap items-center gap-2 border-bad border-l-4 px-3 py-1.5 text-sm">
              Delete {asked.title} for good?
              <Button
                onClick={() => {
                  onDelete(asked.id);
                  setAsked(null);
                }}
              >
                Delete
              </Button>
              <Button look="quiet" onClick={() => setAsked(null)}>
                Keep it
              </Button>
            </p>
          )}
          <DataTable
            className="min-h-0 flex-1"
            name={`${what}s`}
            rows={rows}
            empty="There are none."
            columns={[
              {
                accessorKey: 'title',
                header: 'Name',
                cell: ({ row: { original } }) =>
                  onChoose ? (
                    <TextButton
                      onClick={() => {
                        onChoose(original.id);
                        setOpen(false);
                      }}
                    >
                      {original.title}
                    </TextButton>
                  ) : (
                    original.title
                  ),
              },
              {
                accessorKey: 'time',
                header: 'Time',
                cell: (cell) => <span className="whitespace-nowrap">{dateTime(String(cell.getValue()))}</span>,
              },
              {
                accessorKey: 'bytes',
                header: 'Size',
                cell: (cell) => <span className="tabular whitespace-nowrap">{sizeText(Number(cell.getValue()))}</span>,
              },
              {
                id: 'delete',
                header: '',
                cell: ({ row: { original } }) => (
                  <TextButton aria-label={`Delete ${original.title}`} onClick={() => setAsked(original)}>
                    Delete
                  </TextButton>
                ),
              },
            ]}
          />
          {onMore && rows.length < kept.count && (
            <Button className="mt-2 self-start" onClick={onMore}>
              Show older ones ({(kept.count - rows.length).toLocaleString('en')})
            </Button>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
