import { counted } from '../core/words.ts';
import type { Command } from 'commander';
import { readBsdl } from '../core/bsdl/index.ts';
import { readText } from './files.ts';
import { report } from './output.ts';

export function bsdlCommand(program: Command, failed: () => void): void {
  const bsdl = program.command('bsdl').description('boundary-scan descriptions');
  bsdl
    .command('check')
    .description('what is wrong in a BSDL file, and where')
    .argument('<file>')
    .option('--json', 'one JSON document on standard output')
    .action((path: string, options: { json?: boolean }) => {
      const { entity, problems, valid } = readBsdl(readText(path));
      if (!valid) failed();
      const cellsByFunction: Record<string, number> = {};
      for (const cell of entity?.cells ?? [])
        cellsByFunction[cell.function] = (cellsByFunction[cell.function] ?? 0) + 1;
      const document = {
        valid,
        entity: entity?.entity ?? null,
        irLength: entity?.irLength ?? null,
        boundaryLength: entity?.boundaryLength ?? null,
        idcode: entity?.idcode ?? null,
        ports: entity?.ports.length ?? 0,
        cellsByFunction,
        instructions: entity?.instructions ?? {},
        problems,
      };
      report(options.json ?? false, document, () =>
        [
          ...problems.map((p) => `${path}:${p.line}: ${p.severity}: ${p.message} [${p.code}]`),
          valid
            ? `${entity?.entity}: ${entity?.irLength} instruction bits, ${entity?.boundaryLength} boundary cells, ` +
              `${entity?.ports.length} port bits. Good.`
            : `${counted(problems.filter((p) => p.severity === 'error').length, 'error')}.`,
        ].join('\n'),
      );
    });
}
