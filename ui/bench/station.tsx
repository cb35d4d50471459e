'use client';
import { Radar } from 'lucide-react';
import { useState } from 'react';
import { describeIdcode, idcodeFields } from '../../core/jtag/index.ts';
import { Button, clockTime, DataTable, Empty, Fact, JobOutcome, ProblemNote, Section, send, StationHead, useAct, useLatestJob, useLive, usePanel } from '../shared/index.ts';
import { ChainPicture } from './chain-picture.tsx';

interface Row {
  readonly index: number;
  readonly part: string;
  readonly idcode: string;
  readonly version: string;
  readonly maker: string;
  readonly irLength: string;
}

export function BenchStation() {
  const state = useLive();
  const { act } = useAct();
  const job = useLatestJob('scan');
  const scan = state?.scan ?? null;
  const running = job?.endedAt === null;
  const rows: Row[] = (scan?.devices ?? []).map(({ index, idcode, irLength, candidates }) => {
    const fields = idcode === null ? null : idcodeFields(idcode);
    return {
      index,
      part: candidates.join(' or ') || 'unknown',
      idcode: idcode === null ? 'none' : describeIdcode(idcode),
      version: fields ? String(fields.version) : '',
      maker: fields ? `0x${fields.manufacturer.toString(16).toUpperCase()}` : '',
      irLength: irLength === null ? 'unknown' : `${irLength} bits`,
    };
  });
  return (
    <>
      <StationHead title="Bench" hint="Find the pod, see that the board has power, ask the chain who is on it.">
        <Button look="main" disabled={running || state?.pod.state !== 'connected'} onClick={() => act(() => send('/api/jobs', 'POST', { kind: 'scan' }))}>
          <Radar aria-hidden className="size-4" /> Scan
        </Button>
      </StationHead>
      <JobOutcome job={job} />
      <Pod />
      <Section title="Chain" aside={scan && `${scan.devices.length} devices, ${scan.irTotal} instruction bits, ${scan.tckCycles} TCK cycles, ${clockTime(scan.time)}`}>
        {scan && scan.devices.length > 0 ? (
          <>
            <ChainPicture devices={scan.devices} />
            <DataTable
              name="devices"
              rows={rows}
              empty="No device."
              columns={[
                { accessorKey: 'index', header: 'Place' },
                { accessorKey: 'part', header: 'Part' },
                { accessorKey: 'idcode', header: 'IDCODE', cell: (cell) => <span className="code">{String(cell.getValue())}</span> },
                { accessorKey: 'version', header: 'Version' },
                { accessorKey: 'maker', header: 'Maker', cell: (cell) => <span className="code">{String(cell.getValue())}</span> },
                { accessorKey: 'irLength', header: 'Instruction' },
              ]}
            />
            <p className="mt-1 text-quiet text-sm">Place 0 is nearest TDO. Instruction lengths were measured by shifting.</p>
          </>
        ) : (
          <Empty>{state?.pod.state === 'connected' ? 'The chain has not been scanned. Press Scan.' : 'Connect a pod first.'}</Empty>
        )}
      </Section>
    </>
  );
}

function Pod() {
  const pod = useLive()?.pod ?? null;
  const panel = usePanel();
  const { busy, act } = useAct();
  const [address, setAddress] = useState<string | null>(null);
  const [token, setToken] = useState('');
  const words = { none: 'none named', connecting: 'connecting', connected: 'connected', refused: 'refused', lost: 'not found, still looking' };
  return (
    <Section title="Pod">
      {pod?.problem && <ProblemNote problem={pod.problem} />}
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <dl>
          <Fact name="State" tone={pod?.state === 'connected' ? 'good' : 'bad'}>
            {pod ? words[pod.state] : ''}
          </Fact>
          <Fact name="Bench">{pod?.name ?? 'none'}</Fact>
          <Fact name="Power" tone={panel?.powered ? 'good' : 'bad'}>
            {panel ? (panel.powered ? 'on' : 'off') : 'unknown'}
          </Fact>
        </dl>
        <form
          className="flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void act(() => send('/api/pod', 'PUT', { address: address ?? pod?.address ?? '', token }));
          }}
        >
          <label className="flex items-center gap-2 text-sm">
            <span className="w-16 text-quiet">Address</span>
            <input className="code h-8 min-w-0 flex-1 border border-line bg-raised px-2" value={address ?? pod?.address ?? ''} placeholder="ws://127.0.0.1:4711" onChange={(event) => setAddress(event.target.value)} />
          </label>
          <label className="flex items-center gap-2 text-sm">
            <span className="w-16 text-quiet">Token</span>
            <input type="password" autoComplete="off" className="code h-8 min-w-0 flex-1 border border-line bg-raised px-2" value={token} placeholder="as it was" onChange={(event) => setToken(event.target.value)} />
            <Button type="submit" disabled={busy}>
              Connect
            </Button>
          </label>
        </form>
      </div>
    </Section>
  );
}
