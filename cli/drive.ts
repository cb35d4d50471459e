import type { Command } from 'commander';
import { type Driven, drive } from '../core/operations/index.ts';
import { settle } from '../core/result.ts';
import { MOST_PULSE, parseLeverValue } from '../core/probes/index.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { benchOf } from './files.ts';
import { driveTable } from './drive-table.ts';
import { runInstrumented } from './instrumented.ts';
import { deviceOption } from './load.ts';
import { CallError, report } from './output.ts';

interface Options extends ConnectionOptions {
  readonly plan?: string;
  readonly probes?: string;
  readonly pulse?: string;
  readonly device?: string;
  readonly json?: boolean;
}

const WIDEST = 4096;

export function driveCommand(program: Command, failed: () => void): void {
  const group = program.command('drive').description('levers and gauges of a running design');
  driveTable(group, failed);
  const act = async (path: string, changes: Readonly<Record<string, bigint | null>>, options: Options) => {
    const cycles = cyclesOf(options.pulse);
    const connection = await connect(options, path.endsWith('.nbits') ? null : benchOf(path));
    try {
      const device = deviceOption(options.device);
      const { part, map } = await runInstrumented(connection, path, options, device);
      const driven = await settle(() => drive(connection.chain, { part, device, map, set: changes, cycles }));
      if (!driven.ok) {
        failed();
        return report(options.json ?? false, { problem: driven.error }, () => '', driven.error);
      }
      report(options.json ?? false, documentOf(driven.value), () => textOf(driven.value));
    } finally {
      await connection.close();
    }
  };
  withConnection(
    group
      .command('get')
      .description('read gauges and levers')
      .argument('<folder>', 'project, or a .nbits with its .probes.json beside it')
      .option('--plan <file>')
      .option('--probes <file>', 'probe map of a .nbits, where it is not beside it')
      .option('--device <n>'),
  ).action((path: string, options: Options) => act(path, {}, options));
  withConnection(
    group
      .command('set')
      .description('move levers, then read')
      .argument('<folder>', 'project, or a .nbits with its .probes.json beside it')
      .argument('<changes...>', 'signal=value, or signal=release')
      .option('--pulse <cycles>', 'for so many cycles of the panel’s clock alone')
      .option('--plan <file>')
      .option('--probes <file>', 'probe map of a .nbits, where it is not beside it')
      .option('--device <n>'),
  ).action((path: string, changes: string[], options: Options) => act(path, parseChanges(changes), options));
}

function cyclesOf(text: string | undefined): number | null {
  if (text === undefined) return null;
  const cycles = Number(text);
  if (!/^\d+$/.test(text) || cycles < 1 || cycles > MOST_PULSE)
    throw new CallError(`--pulse takes a number of cycles from 1 to ${MOST_PULSE}, not "${text}".`);
  return cycles;
}

function parseChanges(changes: readonly string[]): Record<string, bigint | null> {
  return Object.fromEntries(
    changes.map((change) => {
      const [name, text] = change.split('=');
      if (!name || text === undefined) throw new CallError(`"${change}" is not signal=value.`);
      if (text === 'release') return [name, null];
      const value = parseLeverValue(text, WIDEST, 'dec');
      if (!value.ok) throw new CallError(`${name}: ${value.error.message}`);
      return [name, value.value];
    }),
  );
}

const documentOf = ({ panel, reading, tckCycles }: Driven) => ({
  panel,
  gauges: reading.gauges,
  levers: reading.levers,
  ...(reading.activity ? { activity: reading.activity } : {}),
  tckCycles,
});

const textOf = ({ reading }: Driven): string =>
  [
    ...Object.entries(reading.levers).map(
      ([name, { value, released }]) => `lever ${name} = ${released ? `released (${value})` : value}`,
    ),
    ...Object.entries(reading.gauges).map(([name, value]) => `gauge ${name} = ${value}`),
  ].join('\n');
