'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { bitsFromBigInt } from '../../../core/bits/index.ts';
import { type HandInstruction, handHex, handScansAsSvf, typedBits } from '../../../core/operations/index.ts';
import type { Problem } from '../../../core/result.ts';
import {
  api,
  Button,
  Checkbox,
  CountInput,
  Field,
  ProblemNote,
  saveText,
  Section,
  Select,
  TextInput,
  upload,
  useAct,
  useLive,
} from '../../shared/index.ts';
import { KeptDescriptions } from './descriptions.tsx';
import { type Made, type Radix, shownIn } from './made.ts';
import { Shifted } from './shifted.tsx';

const OTHER = 'other';
const MOST_BITS = 1 << 16;

export function RegistersView() {
  const scan = useLive('scan')?.scan ?? null;
  const devices = scan?.problems.length === 0 ? scan.devices : [];
  const [made, setMade] = useState<readonly Made[]>([]);
  const [radix, setRadix] = useState<Radix>('hex');
  const { act } = useAct();
  const last = made.at(-1);
  const text = () => handScansAsSvf(made, last?.irLengths ?? []);
  return (
    <>
      <Section title="By hand" aside="Every other device of the chain is in BYPASS meanwhile.">
        {devices.length === 0 ? (
          <p className="text-quiet text-sm">Scan the chain first: it says who stands where.</p>
        ) : (
          <Console
            devices={devices.map(({ part, idcode, irLength }, i) => ({
              place: i,
              name: part ?? (idcode === null ? 'without IDCODE' : 'unknown'),
              irLength,
            }))}
            radix={radix}
            setRadix={setRadix}
            onMade={(one) => setMade((all) => [...all, { ...one, number: all.length + 1 }])}
          />
        )}
        {made.length > 0 && (
          <Shifted
            made={made}
            radix={radix}
            onExpect={(number, expects) =>
              setMade((all) => all.map((one) => (one.number === number ? { ...one, expects } : one)))
            }
            onClear={() => setMade([])}
            onSave={() => saveText('by-hand.svf', 'text/plain', text())}
            onAdd={() => act(() => upload('/api/svf', new File([text()], 'by-hand.svf', { type: 'text/plain' })))}
          />
        )}
      </Section>
      <KeptDescriptions />
    </>
  );
}

interface Device {
  readonly place: number;
  readonly name: string;
  readonly irLength: number | null;
}

interface ConsoleProps {
  readonly devices: readonly Device[];
  readonly radix: Radix;
  readonly setRadix: (radix: Radix) => void;
  readonly onMade: (made: Omit<Made, 'number'>) => void;
}

function Console({ devices, radix, setRadix, onMade }: ConsoleProps) {
  const { busy, act } = useAct();
  const [place, setPlace] = useState(0);
  const device = devices.find((one) => one.place === place) ?? devices[0];
  const answer = useQuery({
    queryKey: ['descriptions', 'at', place, device?.name],
    queryFn: () => api.bench.instructionsAt.query({ place }),
  }).data;
  const instructions = answer?.instructions ?? [];
  const [chosen, setChosen] = useState('IDCODE');
  const instruction = instructions.find(({ name }) => name === chosen) ?? null;
  const [opcode, setOpcode] = useState('');
  const [length, setLength] = useState<string | null>(null);
  const [withData, setWithData] = useState(true);
  const [value, setValue] = useState('0');
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const bits = length === null ? (instruction?.length ?? null) : bitsIn(length);
  const irLength = device?.irLength ?? null;

  const shift = async () => {
    setTrouble(null);
    const code = instruction ? ok(instruction.opcode) : opcodeOf(opcode, irLength ?? 0);
    const data = withData && bits !== null ? typedBits(value, bits) : null;
    const wrong = !code.ok ? code.error : data && !data.ok ? data.error : null;
    if (wrong || !code.ok) return setTrouble(wrong);
    const sent = data?.ok ? data.value : null;
    const came = await act(() =>
      api.bench.shift.mutate({
        place,
        opcode: code.value,
        data: sent && { value: handHex(sent), length: sent.length },
      }),
    );
    if (!came) return;
    const name = instruction?.name ?? `0b${code.value}`;
    onMade({
      place,
      opcode: BigInt(`0b${code.value}`),
      irLength: came.irLength,
      data: sent,
      captured: came.captured === null || !sent ? null : bitsFromBigInt(BigInt(came.captured), sent.length),
      expects: false,
      remark: `device ${place}, ${device?.name ?? ''}: ${name}`,
      instruction: name,
      irCaptured: came.irCaptured,
      irLengths: came.irLengths,
    });
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void shift();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <Field name="Device">
          <Select size="normal" value={String(place)} onPick={(text) => setPlace(Number(text))}>
            {devices.map((one) => (
              <option key={one.place} value={String(one.place)}>
                {one.place} {one.name}
              </option>
            ))}
          </Select>
        </Field>
        <Field name="Instruction">
          <Select size="normal" value={instruction ? chosen : OTHER} onPick={(text) => choose(text)}>
            {instructions.map(({ name, opcode: code }) => (
              <option key={name} value={name}>
                {name} {code}
              </option>
            ))}
            <option value={OTHER}>an opcode</option>
          </Select>
        </Field>
        {!instruction && (
          <Field name="Opcode">
            <TextInput
              size="normal"
              isCode
              className="w-32"
              value={opcode}
              placeholder={irLength === null ? '' : `${irLength} bits`}
              onChange={(event) => setOpcode(event.target.value)}
            />
          </Field>
        )}
        <Checkbox className="text-sm" checked={withData} onChange={(event) => setWithData(event.target.checked)}>
          and its register
        </Checkbox>
        {withData && (
          <RegisterFields
            bits={length ?? String(instruction?.length ?? '')}
            setBits={setLength}
            value={value}
            setValue={setValue}
          />
        )}
        <Field name="Shown in">
          <Select size="normal" value={radix} onPick={setRadix}>
            <option value="hex">hexadecimal</option>
            <option value="bin">binary</option>
            <option value="dec">decimal</option>
          </Select>
        </Field>
        <Button type="submit" look="main" disabled={busy || (withData && bits === null)}>
          Shift
        </Button>
      </div>
      <About instruction={instruction} part={answer?.part ?? null} known={instructions.length > 0} />
      {trouble && <ProblemNote problem={trouble} />}
    </form>
  );

  function choose(name: string) {
    setChosen(name);
    setLength(null);
  }
}

interface RegisterFieldsProps {
  readonly bits: string;
  readonly setBits: (text: string) => void;
  readonly value: string;
  readonly setValue: (text: string) => void;
}

/** How long the data register is, and what goes into it. */
function RegisterFields({ bits, setBits, value, setValue }: RegisterFieldsProps) {
  return (
    <>
      <Field name="Bits">
        <CountInput className="w-20" value={bits} onText={setBits} />
      </Field>
      <Field name="Value in" className="min-w-40 flex-1">
        <TextInput
          size="normal"
          isCode
          className="min-w-0 flex-1"
          value={value}
          placeholder="0x…, 0b…, decimal"
          onChange={(event) => setValue(event.target.value)}
        />
      </Field>
    </>
  );
}

function About({
  instruction,
  part,
  known,
}: {
  readonly instruction: HandInstruction | null;
  readonly part: string | null;
  readonly known: boolean;
}) {
  const words = instruction
    ? `${instruction.register ?? 'An unnamed register'}, ${instruction.length === null ? 'length not told' : `${instruction.length} bits`}.`
    : known
      ? 'An opcode that the description does not name; say how many bits its register has.'
      : `${part ?? 'The device'} has no description here: drop its BSDL file anywhere, or give opcode and length.`;
  return (
    <p className="mt-2 text-quiet text-sm" data-testid="hand-about">
      {words}{' '}
      {instruction?.pins && <span className="font-bold text-doubt">While it is in force it {instruction.pins}.</span>}
    </p>
  );
}

/** Bits of a register as they are typed; null for what is no such number. */
const bitsIn = (text: string): number | null =>
  /^\d+$/.test(text.trim()) && Number(text) >= 1 && Number(text) <= MOST_BITS ? Number(text) : null;

const ok = (value: string) => ({ ok: true as const, value });

/** What is typed for an opcode as binary digits: bare digits 0 and 1 of the right count are that already. */
function opcodeOf(text: string, irLength: number) {
  const plain = text.trim();
  if (plain.length === irLength && /^[01]+$/.test(plain)) return ok(plain);
  const bits = typedBits(text, irLength);
  return bits.ok ? ok(shownIn('bin', bits.value).slice(2)) : bits;
}
