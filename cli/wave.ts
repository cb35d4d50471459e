import { counted } from '../core/words.ts';
import { createReadStream } from 'node:fs';
import type { Command } from 'commander';
import { ProblemError, problem as plainProblem } from '../core/result.ts';
import { problem } from './problems.ts';
import { digitsOf, indexAt, placeOfReal, realText, VcdReader } from '../core/wave/index.ts';
import { CallError, report } from './output.ts';

const FEMTOSECONDS: Readonly<Record<string, bigint>> = {
  s: 10n ** 15n,
  ms: 10n ** 12n,
  us: 10n ** 9n,
  ns: 10n ** 6n,
  ps: 1000n,
  fs: 1n,
};

export function waveCommand(program: Command, failed: () => void): void {
  const wave = program.command('wave').description('value change dumps');
  wave
    .command('info')
    .description('what a dump holds, and what is wrong with it')
    .argument('<file>', 'VCD file')
    .option('--json', 'one JSON document')
    .action(async (file: string, options: { json?: boolean }) => {
      const reader = await readDump(file, []);
      const facts = reader.finish();
      if (!facts.valid) failed();
      const { valid, timescale, names, endTime, problems } = facts;
      const document = { valid, timescale, signals: names.length, names, endTime, problems };
      report(options.json ?? false, document, () =>
        [
          `${counted(names.length, 'signal')}, ${endTime} x ${timescale || '?'}${valid ? '' : ', not valid'}`,
          ...problems.map(({ line, message }) => `line ${line}: ${message}`),
        ].join('\n'),
      );
    });
  wave
    .command('value')
    .description('the value of one signal at one time')
    .argument('<file>', 'VCD file')
    .requiredOption('--signal <path>', 'full name')
    .requiredOption('--at <time>', 'in units of the timescale, or with a unit: 1.5us')
    .option('--json', 'one JSON document')
    .action(async (file: string, options: { signal: string; at: string; json?: boolean }) => {
      const reader = await readDump(file, [options.signal]);
      const facts = reader.finish();
      const record = reader.recording(file);
      const trace = record.traces[0];
      if (!trace) {
        failed();
        const isOther = facts.names.includes(options.signal);
        const near = facts.names
          .filter(
            (name) => name.endsWith(`.${options.signal}`) || name.toLowerCase().includes(options.signal.toLowerCase()),
          )
          .slice(0, 5);
        const wrong = isOther
          ? problem('no-bits', { signal: options.signal })
          : plainProblem(
              'no-signal',
              `${file} has no signal "${options.signal}".`,
              near.length > 0 ? `Did you mean ${near.join(', ')}?` : 'List its names with nimble wave info.',
            );
        return report(options.json ?? false, { problem: wrong }, () => '', wrong);
      }
      const place = placeOfReal(record, timeOf(options.at, facts.timescale));
      const index = indexAt(trace, place);
      const value = trace.real ? realText(trace, index) : digitsOf(trace, index);
      report(options.json ?? false, { signal: options.signal, at: options.at, value }, () => value);
    });
}

/** Reads piece by piece; keeps the named signals alone. */
async function readDump(file: string, only: readonly string[]): Promise<VcdReader> {
  const reader = new VcdReader({ only });
  try {
    for await (const piece of createReadStream(file, { highWaterMark: 1 << 20 })) reader.push(piece as Uint8Array);
  } catch (error) {
    throw new ProblemError(problem('file', { file, errorText: error instanceof Error ? error.message : '' }));
  }
  return reader;
}

/** A time in whole units of the timescale, exactly; what lies between two of them counts as the earlier one. */
function timeOf(text: string, timescale: string): bigint {
  const match = /^(\d+)(?:\.(\d+))?\s*(s|ms|us|ns|ps|fs)?$/.exec(text);
  if (!match) throw new CallError('--at takes a time, such as 1500 or 1.5us.');
  const [, whole = '', fraction = '', unit] = match;
  const places = BigInt(10) ** BigInt(fraction.length);
  const number = BigInt(whole + fraction);
  if (unit === undefined) return number / places;
  const [, count = '1', scale = 'ns'] = /^(\d+)(\w+)$/.exec(timescale) ?? [];
  return (number * (FEMTOSECONDS[unit] as bigint)) / (places * BigInt(count) * (FEMTOSECONDS[scale] as bigint));
}
