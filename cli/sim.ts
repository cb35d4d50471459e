import { existsSync, statSync, writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { item } from '../core/lists.ts';
import { ProblemError } from '../core/result.ts';
import { runVectors, traceVcd } from '../core/vectors/index.ts';
import { openProject, readText } from './files.ts';
import { CallError, report } from './output.ts';

interface SimOptions {
  readonly top?: string;
  readonly clock?: string;
  readonly param: Readonly<Record<string, bigint>>;
  readonly vectors: string;
  readonly out?: string;
  readonly json?: boolean;
}

export function simCommand(program: Command, failed: () => void): void {
  program
    .command('sim')
    .description('test vectors through a simulation of the sources, without hardware')
    .argument('<files...>', 'source files, or a project folder')
    .option('--top <module>')
    .option('--clock <name>', 'the clock input, where there are several')
    .option('--param <name=value>', 'overrides a parameter of the top module', parameter, {})
    .requiredOption('--vectors <file>', 'table of inputs and expected outputs')
    .option('--out <file>', 'writes the waveform as a value change dump')
    .option('--json', 'one JSON document on standard output')
    .action((paths: string[], options: SimOptions) => {
      const table = { name: basename(options.vectors), text: readText(options.vectors) };
      const run = runVectors(sources(paths), table, {
        ...(options.top === undefined ? {} : { top: options.top }),
        ...(options.clock === undefined ? {} : { clock: options.clock }),
        parameters: options.param,
      });
      if (!run.ok) throw new ProblemError(run.error);
      const { passed, failed: bad, failures, messages } = run.value;
      if (bad > 0) failed();
      if (options.out !== undefined) writeFileSync(options.out, traceVcd(run.value.trace, new Date().toISOString()));
      for (const m of messages)
        console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
      const text = () =>
        [
          ...failures.map((f) => `row ${f.row}: ${f.port} is ${f.actual}, expected ${f.expected}`),
          `${passed} rows passed, ${bad} failed`,
        ].join('\n');
      report(options.json ?? false, { passed, failed: bad, failures }, text);
    });
}

function sources(paths: readonly string[]) {
  const [first] = paths;
  if (first !== undefined && existsSync(first) && statSync(first).isDirectory()) return openProject(paths, {}).files;
  return paths.map((path) => ({ name: basename(path), text: readText(path) }));
}

/** `NAME=VALUE` with a decimal, 0x or 0b value. */
function parameter(text: string, before: Readonly<Record<string, bigint>>): Record<string, bigint> {
  const match = /^([A-Za-z_]\w*)=(-?)(0x[0-9a-f]+|0b[01]+|\d+)$/i.exec(
    text.replaceAll('_', (m, at: number) => (at > text.indexOf('=') ? '' : m)),
  );
  if (!match) throw new CallError(`"${text}" is no parameter: write NAME=VALUE with a decimal, 0x or 0b value.`);
  const value = BigInt(item(match, 3));
  return { ...before, [item(match, 1)]: match[2] ? -value : value };
}
