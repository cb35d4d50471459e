import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { build } from '../core/build/index.ts';
import { openPlan, openProject, type ProjectOptions } from './files.ts';
import { report } from './output.ts';

export function buildCommand(program: Command, failed: () => void): void {
  program
    .command('build')
    .description('from sources to a bitstream')
    .argument('<paths...>', 'a project folder, or source files')
    .option('--top <module>')
    .option('--part <name>')
    .option('--pins <file>', 'pin table, for loose sources')
    .option('--plan <file>', 'probe plan')
    .option('--out <file>', 'write the bitstream; the probe map is written beside it')
    .option('--json', 'one JSON document on standard output')
    .action((paths: string[], options: ProjectOptions & { plan?: string; out?: string; json?: boolean }) => {
      const result = build({ project: openProject(paths, options), plan: openPlan(options.plan) });
      const { fingerprint, part, top, resources, messages, bitstream, probes } = result;
      if (!bitstream) failed();
      for (const m of messages) console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
      if (bitstream && options.out !== undefined) {
        writeFileSync(options.out, bitstream);
        if (probes) writeFileSync(options.out.replace(/\.nbits$/, '').concat('.probes.json'), `${JSON.stringify(probes, null, 2)}\n`);
      }
      const text = () => (bitstream ? `${top} for ${part}: ${resources.luts} LUTs (estimated), ${resources.registers} flip-flops, ${resources.blockRams} block RAMs\nfingerprint ${fingerprint}` : 'Build failed.');
      report(options.json ?? false, { fingerprint, part, top, resources, messages, bitstreamBytes: bitstream?.length ?? null }, text);
    });
}
