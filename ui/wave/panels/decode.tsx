'use client';
import { Plus } from 'lucide-react';
import { type Dispatch, type SetStateAction, useState } from 'react';
import {
  type Axis,
  type Decoder,
  type DecoderRow,
  type Frame,
  freshId,
  leavesOf,
  nameOfRow,
  type Row,
} from '../../../core/wave/index.ts';
import { Button, DataTable, ProblemNote, Select, TextInput } from '../../shared/index.ts';
import { timeText } from '../draw.ts';
import type { OpenSignal } from '../messages.ts';
import type { Decoded } from '../use-record.ts';

interface Props {
  readonly axis: Axis;
  readonly rows: readonly Row[];
  readonly signals: readonly OpenSignal[];
  readonly decoded: ReadonlyMap<string, Decoded>;
  readonly tick: number;
  readonly onRows: (rows: Row[]) => void;
  readonly onGo: (tick: number) => void;
}

/** Decoder rows: made here, their frames listed here. */
export function DecodePanel({ axis, rows, signals, decoded, tick, onRows, onGo }: Props) {
  const decoders = leavesOf(rows).filter((row): row is DecoderRow => row.kind === 'decoder');
  const [chosen, setChosen] = useState<string | null>(null);
  const shown = decoders.find(({ id }) => id === chosen) ?? decoders.at(-1);
  const frames = shown ? decoded.get(shown.id) : undefined;
  const add = (decoder: Decoder) => {
    const row: DecoderRow = { kind: 'decoder', id: freshId(rows, decoder.kind), decoder };
    setChosen(row.id);
    onRows([row, ...rows]);
  };
  return (
    <div className="grid grid-cols-[17rem_minmax(0,1fr)] gap-4">
      <AddDecoder signals={signals.filter(({ width }) => width === 1)} onAdd={add} />
      <div className="min-w-0">
        {shown && (
          <div className="mb-1 flex items-center gap-3 text-sm">
            <Select aria-label="Decoder" value={shown.id} onChange={(event) => setChosen(event.target.value)}>
              {decoders.map((row) => (
                <option key={row.id} value={row.id}>
                  {nameOfRow(row)} {linesOf(row.decoder)}
                </option>
              ))}
            </Select>
            {frames?.note && <span className="tabular text-quiet">{frames.note}</span>}
            {frames?.frames.some(({ trouble }) => trouble) && (
              <span className="text-bad">{frames.frames.filter(({ trouble }) => trouble).length} bad</span>
            )}
          </div>
        )}
        {frames?.problem && <ProblemNote problem={frames.problem} />}
        {shown ? (
          <DataTable
            name="frames"
            className="max-h-60"
            rows={frames?.frames ?? []}
            empty="No frame in this record."
            onRow={({ from }) => onGo(from)}
            chosen={({ from, to }) => tick >= from && tick < to}
            columns={[
              {
                id: 'time',
                header: 'Time',
                accessorFn: ({ from }: Frame) => timeText(axis, from),
                cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
              },
              { id: 'way', header: 'Way', accessorFn: ({ way }: Frame) => way ?? '' },
              {
                id: 'text',
                header: 'Frame',
                accessorFn: ({ text }: Frame) => text,
                cell: (cell) => <span className="code">{String(cell.getValue())}</span>,
              },
              {
                id: 'value',
                header: 'Decimal',
                accessorFn: ({ value }: Frame) => value ?? '',
                cell: (cell) => <span className="tabular">{String(cell.getValue())}</span>,
              },
              {
                id: 'trouble',
                header: 'Trouble',
                accessorFn: ({ trouble }: Frame) => trouble ?? '',
                cell: (cell) => <span className="text-bad">{String(cell.getValue())}</span>,
              },
            ]}
          />
        ) : (
          <p className="border border-line border-dashed px-4 py-6 text-center text-quiet text-sm">
            Choose what is spoken on which signals, and add it as a row.
          </p>
        )}
      </div>
    </div>
  );
}

const end = (name: string | null): string => name?.split('.').at(-1) ?? '';
const linesOf = (decoder: Decoder): string => (decoder.kind === 'serial' ? end(decoder.line) : end(decoder.clock));

function AddDecoder({
  signals,
  onAdd,
}: {
  readonly signals: readonly OpenSignal[];
  readonly onAdd: (decoder: Decoder) => void;
}) {
  const [kind, setKind] = useState<Decoder['kind']>('serial');
  const [lines, setLines] = useState<Readonly<Record<string, string>>>({});
  const [baud, setBaud] = useState('');
  const [frame, setFrame] = useState({
    dataBits: 8,
    parity: 'none' as const,
    stopBits: 1 as const,
    mode: 0,
    bits: 8,
    lowFirst: false,
  } as {
    dataBits: number;
    parity: 'none' | 'even' | 'odd';
    stopBits: 1 | 2;
    mode: number;
    bits: number;
    lowFirst: boolean;
  });
  const guess = (words: readonly string[]): string =>
    signals.find(({ name }) => words.some((word) => end(name).toLowerCase().includes(word)))?.name ?? '';
  const line = (role: string, words: readonly string[]): string => lines[role] ?? guess(words);
  const set = (role: string) => (value: string) => setLines({ ...lines, [role]: value });
  const orNull = (name: string): string | null => (name === '' ? null : name);
  const made = (): Decoder | null => {
    if (kind === 'serial')
      return line('line', ['tx', 'rx', 'serial']) === ''
        ? null
        : {
            kind,
            line: line('line', ['tx', 'rx', 'serial']),
            baud: Number(baud) > 0 ? Number(baud) : null,
            dataBits: frame.dataBits,
            parity: frame.parity,
            stopBits: frame.stopBits,
          };
    if (kind === 'spi')
      return line('clock', ['sck', 'sclk']) === ''
        ? null
        : {
            kind,
            clock: line('clock', ['sck', 'sclk']),
            select: orNull(line('select', ['cs', 'sel', 'ss_'])),
            out: orNull(line('out', ['mosi', 'sdo'])),
            in: orNull(line('in', ['miso', 'sdi'])),
            mode: frame.mode,
            bits: frame.bits,
            lowFirst: frame.lowFirst,
          };
    return line('clock', ['scl']) === '' || line('data', ['sda']) === ''
      ? null
      : { kind, clock: line('clock', ['scl']), data: line('data', ['sda']) };
  };
  const decoder = made();
  return (
    <form
      className="flex flex-col gap-1.5 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        if (decoder) onAdd(decoder);
      }}
    >
      <Field name="Spoken">
        <Select className="min-w-0 flex-1" aria-label="Spoken" value={kind} onPick={setKind}>
          <option value="serial">serial line</option>
          <option value="spi">SPI</option>
          <option value="i2c">I2C</option>
        </Select>
      </Field>
      {kind === 'serial' && (
        <SerialFields
          line={line}
          signals={signals}
          set={set}
          baud={baud}
          setBaud={setBaud}
          frame={frame}
          setFrame={setFrame}
        />
      )}
      {kind === 'spi' && <SpiFields line={line} signals={signals} set={set} frame={frame} setFrame={setFrame} />}
      {kind === 'i2c' && (
        <>
          <Lines part="Clock" value={line('clock', ['scl'])} signals={signals} onChoose={set('clock')} />
          <Lines part="Data" value={line('data', ['sda'])} signals={signals} onChoose={set('data')} />
        </>
      )}
      <Button type="submit" disabled={!decoder} className="self-start">
        <Plus aria-hidden className="size-4" /> Add row
      </Button>
      {signals.length === 0 && <p className="text-quiet">The record has no single bits.</p>}
    </form>
  );
}

interface SerialFieldsProps {
  readonly line: (role: string, words: readonly string[]) => string;
  readonly signals: readonly OpenSignal[];
  readonly set: (role: string) => (value: string) => void;
  readonly baud: string;
  readonly setBaud: Dispatch<SetStateAction<string>>;
  readonly frame: {
    dataBits: number;
    parity: 'none' | 'even' | 'odd';
    stopBits: 1 | 2;
    mode: number;
    bits: number;
    lowFirst: boolean;
  };
  readonly setFrame: Dispatch<
    SetStateAction<{
      dataBits: number;
      parity: 'none' | 'even' | 'odd';
      stopBits: 1 | 2;
      mode: number;
      bits: number;
      lowFirst: boolean;
    }>
  >;
}

function SerialFields({ line, signals, set, baud, setBaud, frame, setFrame }: SerialFieldsProps) {
  return (
    <>
      <Lines part="Line" value={line('line', ['tx', 'rx', 'serial'])} signals={signals} onChoose={set('line')} />
      <Field name="Speed">
        <TextInput
          className="min-w-0 flex-1"
          aria-label="Speed"
          value={baud}
          placeholder="measured"
          inputMode="numeric"
          onChange={(event) => setBaud(event.target.value.replace(/\D/g, ''))}
        />
        <span className="text-quiet">bit/s</span>
      </Field>
      <FrameField frame={frame} setFrame={setFrame} />
    </>
  );
}

interface SpiFieldsProps {
  readonly line: (role: string, words: readonly string[]) => string;
  readonly signals: readonly OpenSignal[];
  readonly set: (role: string) => (value: string) => void;
  readonly frame: {
    dataBits: number;
    parity: 'none' | 'even' | 'odd';
    stopBits: 1 | 2;
    mode: number;
    bits: number;
    lowFirst: boolean;
  };
  readonly setFrame: Dispatch<
    SetStateAction<{
      dataBits: number;
      parity: 'none' | 'even' | 'odd';
      stopBits: 1 | 2;
      mode: number;
      bits: number;
      lowFirst: boolean;
    }>
  >;
}

function SpiFields({ line, signals, set, frame, setFrame }: SpiFieldsProps) {
  return (
    <>
      <Lines part="Clock" value={line('clock', ['sck', 'sclk'])} signals={signals} onChoose={set('clock')} />
      <Lines
        part="Select"
        value={line('select', ['cs', 'sel', 'ss_'])}
        signals={signals}
        onChoose={set('select')}
        optional
      />
      <Lines part="Out" value={line('out', ['mosi', 'sdo'])} signals={signals} onChoose={set('out')} optional />
      <Lines part="In" value={line('in', ['miso', 'sdi'])} signals={signals} onChoose={set('in')} optional />
      <Field name="Mode">
        <Select
          className="min-w-0 flex-1"
          aria-label="Mode"
          value={frame.mode}
          onChange={(event) => setFrame({ ...frame, mode: Number(event.target.value) })}
        >
          {[0, 1, 2, 3].map((mode) => (
            <option key={mode} value={mode}>
              {mode}: rests at {mode >> 1}, {mode & 1 ? 'second' : 'first'} edge
            </option>
          ))}
        </Select>
      </Field>
      <Field name="Word">
        <TextInput
          className="w-14 shrink-0"
          aria-label="Bits of a word"
          type="number"
          min={2}
          max={32}
          value={frame.bits}
          onChange={(event) => setFrame({ ...frame, bits: Math.min(32, Math.max(2, Number(event.target.value))) })}
        />
        <Select
          className="min-w-0 flex-1"
          aria-label="Bit order"
          value={String(frame.lowFirst)}
          onChange={(event) => setFrame({ ...frame, lowFirst: event.target.value === 'true' })}
        >
          <option value="false">highest first</option>
          <option value="true">lowest first</option>
        </Select>
      </Field>
    </>
  );
}

interface FrameFieldProps {
  readonly frame: {
    dataBits: number;
    parity: 'none' | 'even' | 'odd';
    stopBits: 1 | 2;
    mode: number;
    bits: number;
    lowFirst: boolean;
  };
  readonly setFrame: Dispatch<
    SetStateAction<{
      dataBits: number;
      parity: 'none' | 'even' | 'odd';
      stopBits: 1 | 2;
      mode: number;
      bits: number;
      lowFirst: boolean;
    }>
  >;
}

function FrameField({ frame, setFrame }: FrameFieldProps) {
  return (
    <Field name="Frame">
      <Select
        className="min-w-0 flex-1"
        aria-label="Data bits"
        value={frame.dataBits}
        onChange={(event) => setFrame({ ...frame, dataBits: Number(event.target.value) })}
      >
        {[5, 6, 7, 8, 9].map((bits) => (
          <option key={bits} value={bits}>
            {bits} bits
          </option>
        ))}
      </Select>
      <Select
        className="min-w-0 flex-1"
        aria-label="Parity"
        value={frame.parity}
        onPick={(parity) => setFrame({ ...frame, parity })}
      >
        <option value="none">no parity</option>
        <option value="even">even</option>
        <option value="odd">odd</option>
      </Select>
    </Field>
  );
}

const Field = ({ name, children }: { readonly name: string; readonly children: React.ReactNode }) => (
  <div className="flex items-center gap-1.5">
    <span className="w-14 shrink-0 text-quiet">{name}</span>
    {children}
  </div>
);

function Lines({
  part,
  value,
  signals,
  onChoose,
  optional,
}: {
  readonly part: string;
  readonly value: string;
  readonly signals: readonly OpenSignal[];
  readonly onChoose: (name: string) => void;
  readonly optional?: boolean;
}) {
  return (
    <Field name={part}>
      <Select
        className="min-w-0 flex-1"
        aria-label={part}
        value={value}
        onChange={(event) => onChoose(event.target.value)}
      >
        {(optional || value === '') && <option value="">{optional ? 'none' : 'choose'}</option>}
        {signals.map(({ name }) => (
          <option key={name} value={name}>
            {name.split('.').slice(1).join('.') || name}
          </option>
        ))}
      </Select>
    </Field>
  );
}
