'use client';
import { describeRow } from '../../../core/chain/index.ts';
import { describeIdcode, describeManufacturer, type FoundDevice, idcodeFields } from '../../../core/jtag/index.ts';
import {
  Button,
  clockTime,
  DataTable,
  Empty,
  ProblemNote,
  Section,
  useAct,
  DescriptionButton,
  useLive,
  api,
  Select,
  TextInput,
} from '../../shared/index.ts';
import { ExpectedChain } from './expected.tsx';
import { ChainPicture } from './picture.tsx';

export function ChainView() {
  const state = useLive('scan', 'chain', 'pod');
  const scan = state?.scan ?? null;
  const rows = state?.chain.rows ?? null;
  if (!scan || scan.devices.length === 0)
    return (
      <>
        <Empty>
          {state?.pod.state === 'connected'
            ? scan
              ? 'Nobody answered. The ladder under Diagnosis says where to look.'
              : 'The chain has not been scanned. Press Scan.'
            : 'No pod is connected. Name one under Pods.'}
        </Empty>
        {state?.chain.chain && <ExpectedChain />}
      </>
    );
  return (
    <>
      <ChainPicture devices={scan.devices} rows={rows} />
      {state?.chain.problem && <ProblemNote problem={state.chain.problem} />}
      <Differences />
      <Section title="Devices" aside={`scanned ${clockTime(scan.time)}`}>
        <Devices devices={scan.devices} />
      </Section>
      <ExpectedChain />
      <Descriptions />
    </>
  );
}

/** What differs from the expected chain, in words. */
function Differences() {
  const state = useLive('chain', 'scan');
  const { chain, rows } = state?.chain ?? { chain: null, rows: null };
  const devices = state?.scan?.devices ?? [];
  if (!chain || !rows) return null;
  const wrong = rows.filter((row) => row.kind !== 'same');
  if (wrong.length === 0)
    return (
      <p className="mb-3 border-good border-l-4 bg-raised px-3 py-1.5 text-sm">
        {rows.length === 1 ? 'The device is the expected one.' : `All ${rows.length} devices are the expected ones.`}
      </p>
    );
  return (
    <div role="alert" className="mb-3 border-doubt border-l-4 bg-raised px-3 py-1.5 text-sm" data-testid="differences">
      <p className="font-bold">The chain is not the expected one.</p>
      <ul className="list-disc pl-5">
        {wrong.map((row) => {
          const told = describeRow(row, chain.devices, devices);
          return <li key={told}>{told}.</li>;
        })}
      </ul>
    </div>
  );
}

interface Row {
  readonly index: number;
  readonly part: string;
  readonly idcode: string;
  readonly version: string;
  readonly maker: string;
  readonly ir: string;
  readonly capture: string;
  readonly device: FoundDevice;
}

function Devices({ devices }: { readonly devices: readonly FoundDevice[] }) {
  const rows = devices.map((device): Row => {
    const fields = device.idcode === null ? null : idcodeFields(device.idcode);
    return {
      device,
      index: device.index,
      part: device.candidates.join(' or ') || device.part || 'unknown',
      idcode: device.idcode === null ? 'none' : describeIdcode(device.idcode),
      version: fields ? String(fields.version) : '',
      maker: fields ? describeManufacturer(fields.manufacturer) : '',
      ir: device.irLength === null ? 'unknown' : `${device.irLength} bits`,
      capture: device.irCapture ?? '',
    };
  });
  return (
    <>
      <DataTable
        name="devices"
        rows={rows}
        empty="No device."
        columns={[
          { accessorKey: 'index', header: 'Place' },
          { accessorKey: 'part', header: 'Part', cell: ({ row }) => <PartCell row={row.original} /> },
          {
            accessorKey: 'idcode',
            header: 'IDCODE',
            cell: (cell) => <span className="code">{String(cell.getValue())}</span>,
          },
          { accessorKey: 'version', header: 'Version' },
          {
            accessorKey: 'maker',
            header: 'Maker (JEP106)',
            cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
          },
          { accessorKey: 'ir', header: 'Instruction', cell: ({ row }) => <LengthCell row={row.original} /> },
          {
            accessorKey: 'capture',
            header: 'Captured',
            cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
          },
        ]}
      />
      <p className="mt-1 text-quiet text-sm">
        Place 0 is nearest TDO. Instruction lengths were measured by shifting; a captured pattern ends in 01.
      </p>
    </>
  );
}

/** One IDCODE, several parts: asks which, and remembers it for this board. */
function PartCell({ row }: { readonly row: Row }) {
  const said = useLive('answers')?.answers.find((answer) => answer.index === row.index && answer.part !== undefined);
  const { act } = useAct();
  const { device } = row;
  if (device.candidates.length < 2 && !said) return <>{row.part}</>;
  if (said && device.candidates.length < 2)
    return (
      <span className="flex items-center gap-2">
        {row.part}{' '}
        <Button
          look="quiet"
          className="h-5! px-0!"
          onClick={() => act(() => api.bench.answerPlace.mutate({ index: row.index }))}
        >
          ask again
        </Button>
      </span>
    );
  return (
    <Select
      size="tiny"
      className="border-doubt"
      aria-label={`Which part is at place ${row.index}`}
      value=""
      onChange={(event) => act(() => api.bench.answerPlace.mutate({ index: row.index, part: event.target.value }))}
    >
      <option value="">{device.candidates.join(' or ')}: which?</option>
      {device.candidates.map((name) => (
        <option key={name} value={name}>
          {name}
          {name.endsWith('S') ? ' (an S is printed behind the name)' : ' (no S behind the name)'}
        </option>
      ))}
    </Select>
  );
}

/** The length of an unknown device can be given by hand; the next scan says whether it fits. */
function LengthCell({ row }: { readonly row: Row }) {
  const { act } = useAct();
  if (row.device.part !== null || row.device.irLength !== null) return <>{row.ir}</>;
  return (
    <form
      className="flex items-center gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        const irLength = Number(new FormData(event.currentTarget).get('length'));
        void act(() => api.bench.answerPlace.mutate({ index: row.index, irLength }));
      }}
    >
      <TextInput
        size="tiny"
        className="w-16 border-doubt"
        name="length"
        type="number"
        min={2}
        max={512}
        required
        aria-label={`Instruction length at place ${row.index}`}
      />{' '}
      bits
    </form>
  );
}

/** Descriptions make unknown devices known. */
function Descriptions() {
  return (
    <p className="mt-1 flex items-center gap-3 text-quiet text-sm">
      <DescriptionButton />
      An unknown device becomes a known one; without it, it is treated as BYPASS only.
    </p>
  );
}
