'use client';
import { type Dispatch, type SetStateAction, useState } from 'react';
import { toast } from 'sonner';
import type { FlashStep } from '../../../server/index.ts';
import {
  Button,
  clockTime,
  Section,
  useAct,
  useLatestJob,
  useLive,
  api,
  TextInput,
  Field,
  DownloadLink,
} from '../../shared/index.ts';

import { chosenName } from '../chosen.ts';
import type { WorkState } from '../../../server/index.ts';

const FORMATS = [
  ['binary', 'plain bytes'],
  ['intel-hex', 'Intel HEX'],
  ['s-record', 'S-record'],
] as const;

/** Each thing that can be done to the flash, alone, over a stretch of addresses. */
export function StepsView() {
  const state = useLive('pod', 'flash', 'flashRead', 'keepChoice');
  const { act } = useAct();
  const [from, setFrom] = useState('0x0');
  const [length, setLength] = useState('0x1000');
  const [byte, setByte] = useState('0x00');
  const [sure, setSure] = useState<FlashStep | 'write' | null>(null);
  const busy = useLatestJob('keep', 'power', 'flash')?.endedAt === null || state?.pod.state !== 'connected';
  const whole = state?.flash?.part.bytes ?? null;
  const read = state?.flashRead ?? null;
  const stretch = (): { address: number; length: number } | null => {
    const [address, count] = [Number(from), Number(length)];
    if (Number.isInteger(address) && address >= 0 && Number.isInteger(count) && count > 0)
      return { address, length: count };
    toast.error('A stretch has an address and a length, such as 0x100000 and 0x1000.');
    return null;
  };
  const run = async (step: FlashStep) => {
    setSure(null);
    await act(() => api.jobs.start.mutate({ kind: 'flash-step', step }));
  };
  const write = async () => {
    setSure(null);
    await act(() => api.jobs.start.mutate({ kind: 'keep', boot: false }));
  };
  const simple = (what: 'blank' | 'crc' | 'read') => {
    const where = stretch();
    if (where) void run({ what, ...where });
  };
  const losing = (what: 'erase' | 'fill') => {
    const where = stretch();
    if (!where) return;
    const value = Number(byte);
    if (what === 'fill' && !(Number.isInteger(value) && value >= 0 && value <= 255))
      return void toast.error('A byte is a number from 0 to 255.');
    setSure(what === 'erase' ? { what, ...where } : { what, ...where, byte: value });
  };
  return (
    <>
      <Stretch whole={whole} from={from} setFrom={setFrom} length={length} setLength={setLength} />
      {sure && <BeforeErasing sure={sure} from={from} length={length} write={write} run={run} setSure={setSure} />}
      <Steps
        busy={busy}
        simple={simple}
        losing={losing}
        byte={byte}
        setByte={setByte}
        read={read}
        state={state}
        run={run}
        setSure={setSure}
      />
    </>
  );
}

interface StepsProps {
  readonly busy: boolean;
  readonly simple: (what: 'blank' | 'crc' | 'read') => void;
  readonly losing: (what: 'erase' | 'fill') => void;
  readonly byte: string;
  readonly setByte: Dispatch<SetStateAction<string>>;
  readonly read: { readonly start: number; readonly length: number; readonly time: string } | null;
  readonly state: Pick<WorkState, 'pod' | 'flash' | 'keepChoice' | 'flashRead'> | null;
  readonly run: (step: FlashStep) => Promise<void>;
  readonly setSure: Dispatch<SetStateAction<FlashStep | 'write' | null>>;
}

function Steps({ busy, simple, losing, byte, setByte, read, state, run, setSure }: StepsProps) {
  return (
    <ul className="text-sm">
      <Step name="Blank check" what="Whether every byte is FF; the first that is not.">
        <Button disabled={busy} onClick={() => simple('blank')}>
          Check
        </Button>
      </Step>
      <Step
        name="Erase"
        what="Whole sectors, then a blank check. A stretch that begins or ends inside a sector is refused."
      >
        <Button disabled={busy} onClick={() => losing('erase')}>
          Erase
        </Button>
      </Step>
      <Step
        name="Fill"
        what={
          <>
            Every byte becomes{' '}
            <TextInput
              isCode
              className="mx-1 w-16"
              aria-label="Byte to fill with"
              value={byte}
              onChange={(event) => setByte(event.target.value)}
            />
            ; what shares a sector stays.
          </>
        }
      >
        <Button disabled={busy} onClick={() => losing('fill')}>
          Fill
        </Button>
      </Step>
      <Step name="CRC" what="CRC-32/ISO-HDLC of the stretch, as read now.">
        <Button disabled={busy} onClick={() => simple('crc')}>
          Compute
        </Button>
      </Step>
      <Step name="Read" what={read ? <ReadFile read={read} /> : 'Into a file: plain bytes, Intel HEX or S-record.'}>
        <Button disabled={busy} onClick={() => simple('read')}>
          Read
        </Button>
      </Step>
      <Step name="Verify" what={`Compares ${chosenName(state)} with what the flash holds, without writing.`}>
        <Button disabled={busy} onClick={() => run({ what: 'verify' })}>
          Verify
        </Button>
      </Step>
      <Step
        name="Write"
        what={
          `Writes ${chosenName(state)}: compare, erase, write and verify, without a boot. Under Write all of it ` +
          'goes in one.'
        }
      >
        <Button disabled={busy} onClick={() => setSure('write')}>
          Write
        </Button>
      </Step>
    </ul>
  );
}

interface ReadFileProps {
  readonly read: { readonly start: number; readonly length: number; readonly time: string };
}

function ReadFile({ read }: ReadFileProps) {
  return (
    <span data-testid="flash-read">
      Read at {clockTime(read.time)}: {read.length.toLocaleString('en')} bytes from 0x
      {read.start.toString(16).toUpperCase()}. Save as{' '}
      {FORMATS.map(([format, name], i) => (
        <span key={format}>
          {i > 0 && ', '}
          <DownloadLink className="underline hover:text-ink" href={`/api/flash-read?format=${format}`}>
            {name}
          </DownloadLink>
        </span>
      ))}
      .
    </span>
  );
}

interface BeforeErasingProps {
  readonly sure: FlashStep | 'write';
  readonly from: string;
  readonly length: string;
  readonly write: () => Promise<void>;
  readonly run: (step: FlashStep) => Promise<void>;
  readonly setSure: Dispatch<SetStateAction<FlashStep | 'write' | null>>;
}

function BeforeErasing({ sure, from, length, write, run, setSure }: BeforeErasingProps) {
  return (
    <section className="mb-3 border-signal border-l-4 bg-raised px-3 py-2" aria-label="Before erasing">
      <p>
        {sure === 'write' ? (
          'Sectors that differ are erased and written; what they held is lost.'
        ) : (
          <>
            What the flash holds from {from} on, {length} bytes, is lost
            {sure.what === 'fill' ? '; whatever shares a sector with it stays' : ''}.
          </>
        )}
      </p>
      <div className="mt-2 flex gap-2">
        <Button look="main" autoFocus onClick={() => (sure === 'write' ? write() : run(sure))}>
          {sure === 'write' ? 'Write it' : sure.what === 'erase' ? 'Erase it' : 'Fill it'}
        </Button>
        <Button onClick={() => setSure(null)}>Leave it as it is</Button>
      </div>
    </section>
  );
}

interface StretchProps {
  readonly whole: number | null;
  readonly from: string;
  readonly setFrom: Dispatch<SetStateAction<string>>;
  readonly length: string;
  readonly setLength: Dispatch<SetStateAction<string>>;
}

function Stretch({ whole, from, setFrom, length, setLength }: StretchProps) {
  return (
    <Section
      title="Stretch"
      aside={
        whole
          ? `the chip has 0x${whole.toString(16).toUpperCase()} bytes`
          : 'look first under Write to see how large the chip is'
      }
    >
      <div className="flex flex-wrap items-center gap-4 text-sm">
        <Field name="from">
          <TextInput
            size="normal"
            isCode
            className="w-28"
            value={from}
            onChange={(event) => setFrom(event.target.value)}
          />
        </Field>
        <Field name="length">
          <TextInput
            size="normal"
            isCode
            className="w-28"
            value={length}
            onChange={(event) => setLength(event.target.value)}
          />{' '}
          bytes
        </Field>
        {whole && (
          <Button
            look="quiet"
            className="px-0!"
            onClick={() => {
              setFrom('0x0');
              setLength(`0x${whole.toString(16).toUpperCase()}`);
            }}
          >
            the whole chip
          </Button>
        )}
      </div>
    </Section>
  );
}

function Step({
  name,
  what,
  children,
}: {
  readonly name: string;
  readonly what: React.ReactNode;
  readonly children: React.ReactNode;
}) {
  return (
    <li className="flex items-center gap-3 border-line border-t py-1.5">
      <span className="w-28 shrink-0 font-bold">{name}</span>
      <span className="min-w-0 flex-1 text-quiet">{what}</span>
      {children}
    </li>
  );
}
