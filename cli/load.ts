import { basename } from 'node:path';
import type { Command } from 'commander';
import { type Bitstream, readBitstream } from '../core/families/index.ts';
import { type Load, loadBitstream } from '../core/operations/index.ts';
import type { PodDeed } from '../core/pod/index.ts';
import { ProblemError, type Result, settle } from '../core/result.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { readBytes } from './files.ts';
import { CallError, report } from './output.ts';

/** The `--device` option: a place in the chain, 0 nearest TDO. */
export function deviceOption(text: string | undefined): number | null {
  if (text === undefined) return null;
  if (!/^\d+$/.test(text)) throw new CallError(`--device takes a number, not "${text}".`);
  return Number(text);
}

export function openBitstream(path: string): Bitstream {
  const read = readBitstream(readBytes(path));
  if (!read.ok) throw new ProblemError({ ...read.error, message: `${path}: ${read.error.message}` });
  return read.value;
}

/** A load as others at the pod are told of it. */
export function loadDeed(
  { part, fingerprint }: Bitstream,
  source: string,
  loaded: Result<Load>,
  device: number | null,
): PodDeed {
  const trouble = loaded.ok ? loaded.value.problem : loaded.error;
  const message =
    trouble?.message ??
    'DONE is high: build ' +
      `${fingerprint.slice(0, 8)}${loaded.ok && loaded.value.verified ? ', read back and equal' : ''}.`;
  return {
    kind: 'load',
    outcome: trouble ? 'failed' : 'done',
    device: loaded.ok ? loaded.value.device : device,
    part,
    fingerprint,
    source: basename(source).slice(0, 200),
    verified: loaded.ok ? loaded.value.verified : null,
    chip: null,
    message: message.slice(0, 1000),
  };
}

export function loadCommand(program: Command, failed: () => void): void {
  withConnection(
    program
      .command('load')
      .description('load a bitstream into configuration RAM')
      .argument('<file>', '.nbits')
      .option('--device <n>', 'place in the chain, 0 nearest TDO')
      .option('--verify', 'read the configuration memory back and compare'),
  ).action(async (path: string, options: ConnectionOptions & { device?: string; json?: boolean; verify?: boolean }) => {
    const device = deviceOption(options.device);
    const json = options.json ?? false;
    const refused = { done: false, device, tckCycles: 0, payloadBits: 0, status: null };
    const read = readBitstream(readBytes(path));
    if (!read.ok) {
      failed();
      return report(json, { ...refused, problem: read.error }, () => '', {
        ...read.error,
        message: `${path}: ${read.error.message}`,
      });
    }
    const connection = await connect(options);
    try {
      const loaded = await settle(() =>
        loadBitstream(connection.chain, read.value, device, connection.watch, { verify: options.verify ?? false }),
      );
      const problem = loaded.ok ? loaded.value.problem : loaded.error;
      if (problem) failed();
      await connection.tell(loadDeed(read.value, path, loaded, device));
      const document = loaded.ok ? loaded.value : { ...refused, problem };
      report(
        json,
        document,
        () =>
          loaded.ok && loaded.value.done
            ? `DONE. ${loaded.value.payloadBits} bits in ${loaded.value.tckCycles} TCK cycles; build ` +
              `${loaded.value.fingerprint} runs until power goes.`
            : '',
        problem,
      );
    } finally {
      await connection.close();
    }
  });
}
