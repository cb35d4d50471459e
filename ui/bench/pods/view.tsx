'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type Dispatch, type SetStateAction, useState } from 'react';
import {
  Button,
  DataTable,
  dateTime,
  Section,
  useAct,
  useLive,
  useBoard,
  answerOf,
  api,
  TextInput,
  Field,
} from '../../shared/index.ts';
import { PodFiles } from './files.tsx';
import type { WorkState } from '../../../server/index.ts';
import type { PodStatusEvent } from '../../../core/pod/index.ts';

/** Pods by address: the one in use, those known, a new one. */
export function PodsView() {
  const state = useLive('pod', 'stageLog');
  const board = useBoard();
  const { busy, act } = useAct();
  const cache = useQueryClient();
  const pod = state?.pod ?? null;
  const known = useQuery({
    queryKey: ['pods', pod?.address, pod?.state],
    queryFn: () => answerOf(api.bench.pods.query()),
  }).data;
  const [address, setAddress] = useState<string | null>(null);
  const [token, setToken] = useState('');
  const connect = (to: string, with_: string) => act(() => api.bench.usePod.mutate({ address: to, token: with_ }));
  const rows = known?.ok
    ? known.value.map((one) => ({
        ...one,
        state: one.address === pod?.address ? (pod.state === 'connected' ? `connected: ${pod.name}` : pod.state) : '',
      }))
    : [];
  return (
    <>
      <div className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        <InUse pod={pod} board={board} busy={busy} act={act} />
        <AnotherPod
          connect={connect}
          address={address}
          pod={pod}
          token={token}
          setAddress={setAddress}
          setToken={setToken}
          busy={busy}
        />
      </div>
      <Section title="Known pods">
        <DataTable
          name="pods"
          rows={rows}
          empty="None yet."
          columns={[
            {
              accessorKey: 'address',
              header: 'Address',
              cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
            },
            {
              accessorKey: 'added',
              header: 'First used',
              cell: (cell) => (cell.getValue() === null ? 'given at the start' : dateTime(String(cell.getValue()))),
            },
            { accessorKey: 'state', header: 'State' },
            {
              id: 'do',
              header: '',
              cell: ({ row }) => (
                <span className="flex justify-end gap-3">
                  <Button look="quiet" className="h-5! px-0!" onClick={() => connect(row.original.address, '')}>
                    connect
                  </Button>
                  <Button
                    look="quiet"
                    className="h-5! px-0!"
                    disabled={row.original.added === null}
                    onClick={async () => {
                      await act(() => api.bench.forgetPod.mutate({ address: row.original.address }));
                      await cache.invalidateQueries({ queryKey: ['pods'] });
                    }}
                  >
                    forget
                  </Button>
                </span>
              ),
            },
          ]}
        />
      </Section>
      <PodFiles />
      {state?.stageLog && (
        <Section title="Last run by the pod itself" aside={state.stageLog.name}>
          <pre className="code max-h-48 overflow-auto border border-line bg-raised p-2 text-xs" data-testid="stage-log">
            {state.stageLog.log.join('\n')}
          </pre>
        </Section>
      )}
    </>
  );
}

interface AnotherPodProps {
  readonly connect: (to: string, with_: string) => Promise<WorkState['pod'] | null>;
  readonly address: string | null;
  readonly pod: WorkState['pod'] | null;
  readonly token: string;
  readonly setAddress: Dispatch<SetStateAction<string | null>>;
  readonly setToken: Dispatch<SetStateAction<string>>;
  readonly busy: boolean;
}

function AnotherPod({ connect, address, pod, token, setAddress, setToken, busy }: AnotherPodProps) {
  return (
    <Section title="Another pod">
      <form
        className="flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void connect(address ?? pod?.address ?? '', token);
        }}
      >
        <Field name="Address" className="[&>span]:w-16">
          <TextInput
            size="normal"
            isCode
            className="min-w-0 flex-1"
            value={address ?? pod?.address ?? ''}
            placeholder="ws://127.0.0.1:4711"
            onChange={(event) => setAddress(event.target.value)}
          />
        </Field>
        <div className="flex items-center gap-1.5">
          <Field name="Token" className="min-w-0 flex-1 [&>span]:w-16">
            <TextInput
              size="normal"
              isCode
              className="min-w-0 flex-1"
              type="password"
              autoComplete="off"
              value={token}
              placeholder="as it was"
              onChange={(event) => setToken(event.target.value)}
            />
          </Field>
          <Button type="submit" disabled={busy}>
            Connect
          </Button>
        </div>
      </form>
    </Section>
  );
}

interface InUseProps {
  readonly pod: WorkState['pod'] | null;
  readonly board: PodStatusEvent | null;
  readonly busy: boolean;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
}

function InUse({ pod, board, busy, act }: InUseProps) {
  return (
    <Section title="In use">
      <p className="text-sm">
        {pod?.state === 'connected' ? (
          <>
            Connected to <b>{pod.name}</b> at <span className="code text-xs">{pod.address}</span>.
          </>
        ) : (
          <>
            Not connected
            {pod?.address ? (
              <>
                {' '}
                to <span className="code text-xs">{pod.address}</span>
              </>
            ) : (
              ''
            )}
            .
          </>
        )}
      </p>
      <p className="text-sm" data-testid="lease">
        {board ? (board.lease === null ? 'Nobody holds the cable now.' : `${board.lease} holds the cable.`) : ''}{' '}
        {board?.asked ? `${board.asked} asks for it.` : ''}
      </p>
      <p className="mt-2 flex items-center gap-3 text-sm">
        <Button
          disabled={busy || pod?.state !== 'connected' || !board?.lease}
          onClick={() => act(() => api.bench.askForLease.mutate())}
        >
          Ask for the cable
        </Button>
        <span className="text-quiet">Whoever holds it sees who asks.</span>
      </p>
    </Section>
  );
}
