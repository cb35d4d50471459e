import { counted } from '../core/words.ts';
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { build, designSettings, filesForHardware, setAside } from '../core/build/index.ts';
import { parameterText, several } from './parameters.ts';
import { type ProbeMap, takeAlong } from '../core/probes/index.ts';
import { ProblemError } from '../core/result.ts';
import type { TimingReport } from '../core/mapping/index.ts';
import { openPlan, openProject, type ProjectOptions } from './files.ts';
import { CallError, report } from './output.ts';
import { problem } from './problems.ts';

export function buildCommand(program: Command, failed: () => void): void {
  program
    .command('build')
    .description('from sources to a bitstream')
    .argument('<paths...>', 'a project folder, or source files')
    .option('--top <module>')
    .option('--part <name>')
    .option('--pins <file>', 'pin table, for loose sources')
    .option('--clock <name=hertz>', 'frequency of a clock port; may be given several times', clockRate, {})
    .option('--param <name=value>', 'a parameter of the top module; may be given several times', parameterText, {})
    .option('-I <folder>', 'looks there for included and data files of loose sources too', several, [])
    .option('--plan <file>', 'probe plan')
    .option('--out <file>', 'write the bitstream; the probe map is written beside it')
    .option('--verilog <file>', 'the design with its probes as plain Verilog, for another device')
    .option('--wrapper <file>', 'a module around that, with a place for the device’s own user register')
    .option('--map <file>', 'the probe map, for a part that others’ tools build for')
    .option('--json', 'one JSON document on standard output')
    .action(
      (
        paths: string[],
        options: ProjectOptions & {
          clock: Readonly<Record<string, number>>;
          param: Readonly<Record<string, string>>;
          plan?: string;
          out?: string;
          verilog?: string;
          wrapper?: string;
          map?: string;
          json?: boolean;
        },
      ) => {
        const opened = openProject(paths, options);
        const { clocks, parameters } = opened.file;
        const isGiven = Object.keys(options.param).length > 0;
        const project = {
          ...opened,
          file: {
            ...opened.file,
            clocks: { ...clocks, ...options.clock },
            ...(isGiven ? { parameters: { ...parameters, ...options.param } } : {}),
          },
        };
        const result = build({
          project,
          plan: openPlan(options.plan),
        });
        const {
          fingerprint,
          part,
          top,
          resources,
          instances,
          lines,
          memories,
          saving,
          timing,
          lampRates,
          generators,
          messages,
          bitstream,
          probes,
          taken = null,
        } = result;
        if (!bitstream && !taken) failed();
        for (const m of messages)
          console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
        if (bitstream && options.out !== undefined) {
          writeFileSync(options.out, bitstream);
          if (probes)
            writeFileSync(
              options.out.replace(/\.nbits$/, '').concat('.probes.json'),
              `${JSON.stringify(probes, null, 2)}\n`,
            );
        }
        if (!bitstream && taken && options.out !== undefined) throw new ProblemError(problem('foreign-out', { part }));
        writeTaken(taken, probes, options);
        if (bitstream && (options.verilog !== undefined || options.wrapper !== undefined)) {
          const along = takeAlong(
            filesForHardware(project),
            designSettings(project.file),
            openPlan(options.plan),
            fingerprint,
          );
          if (!along.ok) throw new ProblemError(along.error);
          writeTaken(along.value, null, options);
        }
        const text = () =>
          bitstream
            ? `${top} for ${part}: ${counted(resources.luts, 'LUT')}, ` +
              `${counted(resources.registers, 'flip-flop')}, ` +
              `${counted(resources.blockRams, 'block RAM')}\n${clockLines(timing)}fingerprint ${fingerprint}`
            : taken
              ? `${top} for ${part}, taken along: build it with the part’s own tools.\nfingerprint ${fingerprint}`
              : 'Build failed.';
        report(
          options.json ?? false,
          {
            fingerprint,
            part,
            top,
            // What others' tools make of it only they know.
            resources: taken ? null : resources,
            instances,
            lines,
            memories,
            saving,
            timing,
            lampRates,
            generators,
            messages,
            bitstreamBytes: bitstream?.length ?? null,
          },
          text,
        );
      },
    );
}

/** The files that are taken along, where they are asked for. */
function writeTaken(
  taken: { readonly verilog: string; readonly wrapper: string } | null,
  map: ProbeMap | null,
  options: { readonly verilog?: string; readonly wrapper?: string; readonly map?: string },
): void {
  if (taken && options.verilog !== undefined) writeFileSync(options.verilog, taken.verilog);
  if (taken && options.wrapper !== undefined) writeFileSync(options.wrapper, taken.wrapper);
  if (map && options.map !== undefined) writeFileSync(options.map, `${JSON.stringify(map, null, 2)}\n`);
}

/** `NAME=HERTZ`, such as clk=12e6. */
function clockRate(text: string, before: Readonly<Record<string, number>>): Record<string, number> {
  const [name = '', value = ''] = text.split('=');
  if (!/^[A-Za-z_]\w*$/.test(name) || !(Number(value) > 0))
    throw new CallError(`"${text}" is no clock: write NAME=HERTZ, as in clk=12e6.`);
  return { ...before, [name]: Number(value) };
}

const clockLines = (timing: TimingReport | null): string =>
  (timing?.clocks ?? [])
    .map(
      ({ clock, highest, wanted, worstSlack }) =>
        `${clock}: ` +
        `${highest === null ? 'no register feeds another' : `up to ${(highest / 1e6).toFixed(2)} MHz (estimate)`}` +
        `${wanted === null ? '' : `, wanted ${(wanted / 1e6).toFixed(2)} MHz`}` +
        `${worstSlack === null ? '' : `, ${worstSlack.toFixed(2)} ns to spare`}\n`,
    )
    .join('') + (timing && setAside(timing) !== null ? `${setAside(timing)}\n` : '');
