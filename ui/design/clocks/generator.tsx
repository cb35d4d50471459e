'use client';
import { useState } from 'react';
import { generatorInstance, type SourcePorts } from '../../../core/build/index.ts';
import { type Factors, factorsFor } from '../../../core/clocking/index.ts';
import { type ClockGenerator, partNamed } from '../../../core/families/index.ts';
import {
  api,
  Button,
  frequency,
  Section,
  Select,
  TextInput,
  useAct,
  useFiles,
  useOwnChange,
} from '../../shared/index.ts';
import { parseFrequency } from './parse-frequency.ts';

interface Source {
  readonly clock: string;
  readonly hertz: number;
}

interface GeneratorProps {
  readonly part: string;
  /** Clocks at pins whose frequency is known. */
  readonly sources: readonly Source[];
  readonly read: SourcePorts;
}

const NOTHING: readonly string[] = ['', '', ''];

/** Factors for frequencies that are wanted, and the instance that makes them. */
export function MakeClocks({ part: partName, sources, read }: GeneratorProps) {
  const part = partNamed(partName);
  const generator = part?.family.clockGenerator;
  const [chosen, setChosen] = useState('');
  const [texts, setTexts] = useState<readonly string[]>(NOTHING);
  if (!part || !generator) return null;
  const used = read.generators.length;
  const source = sources.find(({ clock }) => clock === chosen) ?? sources[0];
  const asked = texts.filter((text) => text.trim() !== '');
  const wanted = asked.map(parseFrequency);
  const isRead = wanted.every((one) => one !== null);
  const found = source && asked.length > 0 && isRead ? factorsFor(generator.limits, source.hertz, wanted) : null;
  return (
    <Section
      title="Make clocks of a clock"
      aside={`a ${part.name} has ${part.clockGenerators} clock generators; the design uses ${used}`}
    >
      {source ? (
        <div className="flex flex-wrap items-center gap-2 text-sm">
          Of
          <Select value={source.clock} onChange={(event) => setChosen(event.target.value)} aria-label="Made of">
            {sources.map(({ clock, hertz }) => (
              <option key={clock} value={clock}>
                {clock}, {frequency(hertz)}
              </option>
            ))}
          </Select>
          make
          {texts.map((text, i) => (
            <TextInput
              // biome-ignore lint/suspicious/noArrayIndexKey: the outputs of a generator have no other name
              key={i}
              value={text}
              onChange={(event) => setTexts(texts.map((old, at) => (at === i ? event.target.value : old)))}
              placeholder={i === 0 ? '48 MHz' : 'and'}
              aria-label={`Frequency wanted of output ${i + 1}`}
              aria-invalid={text.trim() !== '' && parseFrequency(text) === null}
              className="tabular w-28"
            />
          ))}
          {!isRead && <span className="text-bad">Hz, kHz, MHz, s, ms, µs or ns</span>}
        </div>
      ) : (
        <p className="text-quiet text-sm">Say first at what frequency a clock at a pin runs, above.</p>
      )}
      {source && found && (
        <Proposals
          // A choice among other factors says nothing about these.
          key={`${source.clock} ${asked.join()}`}
          found={found}
          source={source}
          asked={asked}
          onWritten={() => setTexts(NOTHING)}
          {...{ generator, read }}
        />
      )}
    </Section>
  );
}

interface ProposalsProps {
  readonly found: readonly Factors[];
  /** What is wanted, as it was typed. */
  readonly asked: readonly string[];
  readonly source: Source;
  readonly generator: ClockGenerator;
  readonly read: SourcePorts;
  readonly onWritten: () => void;
}

function Proposals({ found, asked, source, generator, read, onWritten }: ProposalsProps) {
  const [picked, setPicked] = useState(0);
  const files = useFiles().data ?? [];
  const { act } = useAct();
  const own = useOwnChange();
  const factors = found[picked] ?? found[0];
  const { limits } = generator;
  if (!factors)
    return (
      <p className="mt-2 text-doubt text-sm">
        A clock generator takes {frequency(limits.input.least)} to {frequency(limits.input.most)}; {source.clock} runs
        at {frequency(source.hertz)}.
      </p>
    );
  const { topBody, top } = read;
  const beside = files.find(({ name }) => name === topBody?.file)?.text ?? '';
  const text = generatorInstance({ generator, factors, input: source.clock, beside });
  const write = () =>
    act(async () => {
      if (!topBody) return;
      const insertions = [{ ...topBody, insert: `\n${text}` }];
      await own(() => api.design.fix.mutate({ kind: 'insert', insertions }));
      onWritten();
    });
  return (
    <div className="mt-2 text-sm">
      {Math.abs(factors.error) >= NEARLY && (
        <p className="mb-1 text-doubt">No factors reach {asked.join(' and ')} exactly; these come nearest.</p>
      )}
      <table className="border-collapse border border-line bg-raised" aria-label="Factors">
        <thead className="bg-well">
          <tr>
            {['', 'Gives', 'Off by', 'Times', 'Divided by', 'Inside', 'Outputs divide by'].map((head, i) => (
              <th
                key={head}
                className={`whitespace-nowrap px-2 py-0.5 font-bold ${i > 1 ? 'text-right' : 'text-left'}`}
              >
                {head === '' ? <span className="sr-only">Chosen</span> : head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.map((one, i) => {
            const { multiply, divide, outputs } = one.setting;
            return (
              <tr key={one.hertz.join()} className="border-line border-t">
                <td className="px-2">
                  <input
                    type="radio"
                    name="factors"
                    checked={one === factors}
                    onChange={() => setPicked(i)}
                    aria-label={`Take ${one.hertz.map(precisely).join(', ')}`}
                  />
                </td>
                <td className="tabular px-2 py-0.5">{one.hertz.map(precisely).join(', ')}</td>
                <td className="tabular px-2 text-right">{errorText(one.error)}</td>
                <td className="tabular px-2 text-right">{multiply}</td>
                <td className="tabular px-2 text-right">{divide}</td>
                <td className="tabular px-2 text-right">{frequency((source.hertz * multiply) / divide)}</td>
                <td className="tabular px-2 text-right">{outputs.join(', ')}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <pre className="code mt-2 overflow-x-auto border border-line bg-raised p-2 text-xs">{text}</pre>
      <p className="mt-2 flex flex-wrap gap-2">
        {topBody && (
          <Button onClick={write}>
            Write it into {top} ({topBody.file})
          </Button>
        )}
        <Button onClick={() => void navigator.clipboard.writeText(`${text}\n`)}>Copy</Button>
      </p>
    </div>
  );
}

/** Frequencies that lie near each other are to be told apart. */
const precisely = (hertz: number): string => `${Number((hertz / 1e6).toPrecision(8))} MHz`;

/** Shares below it are none: they come of computing. */
const NEARLY = 1e-9;

const errorText = (error: number): string => {
  if (Math.abs(error) < NEARLY) return 'exact';
  const sign = error < 0 ? '−' : '+';
  const share = Math.abs(error);
  return share < 1e-3 ? `${sign}${(share * 1e6).toPrecision(3)} ppm` : `${sign}${(share * 100).toPrecision(3)} %`;
};
