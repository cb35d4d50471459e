import type { Command } from 'commander';
import { describeIdcode } from '../core/jtag/index.ts';
import { compareChains, readChainFile } from '../core/chain/index.ts';
import { diagnose, sweepTck } from '../core/operations/index.ts';
import { shiftByHand, type ShiftOptions } from './shift.ts';
import { ProblemError } from '../core/result.ts';
import { readText } from './files.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { report } from './output.ts';

export function chainCommand(program: Command, failed: () => void): void {
  const chain = program.command('chain').description('the JTAG chain');
  withConnection(
    chain
      .command('scan')
      .description('what answers, from the device nearest TDO (index 0) on')
      .option('--chain <file>', 'compare with this expected chain'),
  ).action(async (options: ConnectionOptions & { json?: boolean; chain?: string }) => {
    const expected = options.chain === undefined ? null : openChain(options.chain);
    const connection = await connect(options);
    try {
      const scan = await connection.chain.rescan();
      const devices = scan.devices.map((d) => ({ ...d, idcode: d.idcode === null ? null : describeIdcode(d.idcode) }));
      const [first = null] = scan.problems;
      const rows = expected ? compareChains(expected.devices, scan.devices) : null;
      if (first || rows?.some((row) => row.kind !== 'same')) failed();
      report(
        options.json ?? false,
        { devices, tckCycles: scan.tckCycles, problems: scan.problems, ...(rows ? { comparison: rows } : {}) },
        () =>
          devices
            .map(
              (d) =>
                `${d.index}  ${d.idcode ?? 'no IDCODE '}  ` +
                `${(d.candidates.join(' or ') || d.part || 'unknown').padEnd(13)}  IR ${d.irLength ?? '?'} bits`,
            )
            .join('\n'),
        first,
      );
    } finally {
      await connection.close();
    }
  });
  withConnection(
    chain
      .command('shift')
      .description('one instruction and one register of one device by hand')
      .requiredOption('--device <n>', 'place in the chain, from the device nearest TDO on')
      .requiredOption('--instruction <name>', 'a name of its description, or its opcode as 0b…')
      .option('--bsdl <file>', 'description of the device')
      .option('--length <bits>', 'of the data register, where the description does not say')
      .option('--value <number>', 'goes into the data register: decimal, 0x…, 0b…', '0'),
  ).action(async (options: ShiftOptions) => {
    const connection = await connect(options);
    try {
      const answer = await shiftByHand(connection.chain, options);
      report(options.json ?? false, answer, () => `${answer.captured}  (Capture-IR ${answer.irCaptured})`);
    } finally {
      await connection.close();
    }
  });
  withConnection(
    chain
      .command('diagnose')
      .description('the ladder: one measurement a rung, and what to check at the first that fails')
      .option('--chain <file>', 'the expected chain'),
  ).action(async (options: ConnectionOptions & { json?: boolean; chain?: string }) => {
    const expected = options.chain === undefined ? null : openChain(options.chain);
    const connection = await connect(options);
    try {
      const rungs = await diagnose(connection.chain, expected);
      const failing = rungs.find((rung) => rung.state === 'fail');
      if (failing) failed();
      report(
        options.json ?? false,
        { rungs },
        () => rungs.map((rung) => `${rung.state.padEnd(12)} ${rung.question}. ${rung.measured}`).join('\n'),
        failing ? { code: failing.name, message: failing.measured, tryNext: failing.tryNext } : null,
      );
    } finally {
      await connection.close();
    }
  });
  withConnection(
    chain.command('sweep').description('bit errors against TCK, and the highest reliable frequency'),
  ).action(async (options: ConnectionOptions & { json?: boolean }) => {
    const connection = await connect(options);
    try {
      const sweep = await sweepTck(connection.chain, connection.watch);
      if (!sweep.ok) throw new ProblemError(sweep.error);
      const { points, reliableHz, chosenHz } = sweep.value;
      if (reliableHz === null) failed();
      report(options.json ?? false, sweep.value, () =>
        [
          ...points.map(
            ({ hz, errors, bits }) => `${(hz / 1e6).toFixed(3).padStart(8)} MHz  ${errors} of ${bits} wrong`,
          ),
          `reliable ${(reliableHz ?? 0) / 1e6} MHz, with margin ${(chosenHz ?? 0) / 1e6} MHz`,
        ].join('\n'),
      );
    } finally {
      await connection.close();
    }
  });
}

function openChain(path: string) {
  const read = readChainFile(path, readText(path));
  if (!read.ok) throw new ProblemError(read.error);
  return read.value;
}
