import type { Command } from 'commander';
import { keepBitstream, rehearseBoot } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { settle } from '../core/result.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { deviceOption, openBitstream } from './load.ts';
import { report } from './output.ts';

export function flashCommand(program: Command, failed: () => void): void {
  const flash = program.command('flash').description('the configuration flash');
  withConnection(
    flash.command('write').description('identity, erase, program, verify').argument('<file>', '.nbits').option('--device <n>', 'place of the FPGA in the chain, 0 nearest TDO').option('--rehearse', 'then power-cycle and wait for DONE'),
  ).action(async (path: string, options: ConnectionOptions & { device?: string; rehearse?: boolean; json?: boolean }) => {
    const bitstream = openBitstream(path);
    const device = deviceOption(options.device);
    const connection = await connect(options);
    try {
      const kept = await settle(() => keepBitstream(connection.cable, bitstream, device, unwatched));
      const boot = kept.ok && options.rehearse ? await settle(() => rehearseBoot(connection.cable, bitstream.part, device, unwatched)) : null;
      const problem = !kept.ok ? kept.error : boot && !boot.ok ? boot.error : null;
      const proven = boot?.ok ? boot.value.done && boot.value.fingerprint === bitstream.fingerprint : null;
      if (problem || proven === false) failed();
      const document = { ...(kept.ok ? kept.value : { verified: false }), rehearsal: boot?.ok ? { ...boot.value, sameFingerprint: proven } : null, problem };
      const text = () => (kept.ok ? `${kept.value.chip}: ${kept.value.sectorsErased} blocks erased, ${kept.value.pagesWritten} pages written, verified.${boot?.ok ? ` Boot: ${boot.value.done ? `DONE after ${boot.value.bootMilliseconds} ms` : 'DONE stays low'}.` : ''}` : '');
      report(options.json ?? false, document, text, problem);
    } finally {
      await connection.close();
    }
  });
}
