'use client';
import { Button, Checkbox, DataTable } from '../../shared/index.ts';
import { type Made, type Radix, shownIn } from './made.ts';

interface Props {
  readonly made: readonly Made[];
  readonly radix: Radix;
  readonly onExpect: (number: number, expects: boolean) => void;
  readonly onClear: () => void;
  readonly onSave: () => void;
  readonly onAdd: () => void;
}

/** The scans so far, the newest at the end; together they are an SVF file. */
export function Shifted({ made, radix, onExpect, onClear, onSave, onAdd }: Props) {
  return (
    <div className="mt-3">
      <DataTable
        name="shifted"
        rows={made}
        empty=""
        columns={[
          { accessorKey: 'number', header: 'No.' },
          { accessorKey: 'place', header: 'Device' },
          { accessorKey: 'instruction', header: 'Instruction' },
          {
            id: 'sent',
            header: 'In',
            accessorFn: ({ data }) => (data ? shownIn(radix, data) : ''),
            cell: ({
              row: {
                original: { data },
              },
            }) => <span className="code break-all text-xs">{data && shownIn(radix, data)}</span>,
          },
          {
            id: 'came',
            header: 'Came',
            accessorFn: ({ captured }) => (captured ? shownIn(radix, captured) : ''),
            cell: ({
              row: {
                original: { captured },
              },
            }) => <b className="code break-all text-xs">{captured && shownIn(radix, captured)}</b>,
          },
          {
            accessorKey: 'irCaptured',
            header: 'Capture-IR',
            cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
          },
          {
            id: 'expect',
            header: 'Must come',
            cell: ({ row: { original: one } }) =>
              one.captured && (
                <Checkbox
                  aria-label={`Scan ${one.number} must come as it came`}
                  checked={one.expects}
                  onChange={(event) => onExpect(one.number, event.target.checked)}
                />
              ),
          },
        ]}
      />
      <p className="mt-2 flex flex-wrap items-center gap-3 text-sm">
        <Button onClick={onAdd}>Add to the SVF files</Button>
        <Button onClick={onSave}>Save as SVF</Button>
        <Button look="quiet" onClick={onClear}>
          Clear
        </Button>
        <span className="text-quiet">What must come is compared when the file plays.</span>
      </p>
    </div>
  );
}
