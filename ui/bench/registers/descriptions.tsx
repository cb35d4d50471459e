'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, Button, DataTable, dateTime, Section, useAct, DescriptionButton } from '../../shared/index.ts';

/** Descriptions that are kept for all projects. */
export function KeptDescriptions() {
  const { busy, act } = useAct();
  const cache = useQueryClient();
  const rows = useQuery({ queryKey: ['descriptions'], queryFn: () => api.bench.descriptions.query() }).data ?? [];
  const forget = async (name: string) => {
    await act(() => api.bench.forgetDescription.mutate({ name }));
    await cache.invalidateQueries({ queryKey: ['descriptions'] });
    await act(() => api.jobs.start.mutate({ kind: 'scan' }));
  };
  return (
    <Section title="Descriptions of devices" aside="Kept for all projects.">
      <p className="mb-2 flex items-center gap-3 text-quiet text-sm">
        <DescriptionButton />
        Or drop it anywhere on the page. Parts that are known here need none.
      </p>
      <DataTable
        name="descriptions"
        rows={rows}
        empty="None yet."
        columns={[
          { accessorKey: 'name', header: 'Device' },
          { accessorKey: 'package', header: 'Package' },
          {
            accessorKey: 'idcode',
            header: 'IDCODE',
            cell: (cell) => <span className="code text-xs">{hexOf(cell.getValue<string | null>())}</span>,
          },
          { accessorKey: 'irLength', header: 'Instruction bits' },
          { accessorKey: 'boundaryLength', header: 'Boundary cells' },
          { id: 'instructions', header: 'Instructions', accessorFn: ({ instructions }) => instructions.length },
          { accessorKey: 'added', header: 'Added', cell: (cell) => dateTime(String(cell.getValue())) },
          {
            id: 'do',
            header: '',
            cell: ({ row }) => (
              <Button
                look="quiet"
                className="h-5! px-0!"
                disabled={busy}
                onClick={() => void forget(row.original.name)}
              >
                forget
              </Button>
            ),
          },
        ]}
      />
    </Section>
  );
}

/** Digits that do not count are x, four at a time. */
const hexOf = (idcode: string | null): string =>
  idcode === null
    ? 'none'
    : `0x${(idcode.match(/.{4}/g) ?? []).map((four) => (/X/i.test(four) ? 'x' : Number.parseInt(four, 2).toString(16).toUpperCase())).join('')}`;
