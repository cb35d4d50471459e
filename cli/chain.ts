import type { Command } from 'commander';
import { describeIdcode } from '../core/jtag/index.ts';
import { scanChain } from '../core/operations/index.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { report } from './output.ts';

export function chainCommand(program: Command, failed: () => void): void {
  const chain = program.command('chain').description('the JTAG chain');
  withConnection(chain.command('scan').description('what answers, from the device nearest TDO (index 0) on')).action(async (options: ConnectionOptions & { json?: boolean }) => {
    const connection = await connect(options);
    try {
      const scan = await scanChain(connection.cable);
      const devices = scan.devices.map((d) => ({ ...d, idcode: d.idcode === null ? null : describeIdcode(d.idcode) }));
      const [first = null] = scan.problems;
      if (first) failed();
      report(options.json ?? false, { devices, tckCycles: scan.tckCycles, problems: scan.problems }, () => devices.map((d) => `${d.index}  ${d.idcode ?? 'no IDCODE '}  ${(d.candidates.join(' or ') || d.part || 'unknown').padEnd(13)}  IR ${d.irLength ?? '?'} bits`).join('\n'), first);
    } finally {
      await connection.close();
    }
  });
}
