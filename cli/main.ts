// The `nimble` command: the engine without a page. Exit 0 success, 1 the work failed, 2 the call was wrong.
import { Command, CommanderError } from 'commander';
import { ProblemError } from '../core/result.ts';
import { buildCommand } from './build.ts';
import { captureCommand } from './capture.ts';
import { chainCommand } from './chain.ts';
import { driveCommand } from './drive.ts';
import { flashCommand } from './flash.ts';
import { loadCommand } from './load.ts';
import { CallError, report } from './output.ts';
import { simCommand } from './sim.ts';
import { bsdlCommand } from './bsdl.ts';
import { svfCommand } from './svf.ts';
import { imageCommand } from './image.ts';
import { waveCommand } from './wave.ts';

export async function main(args: readonly string[]): Promise<number> {
  const program = new Command('nimble')
    .description('Load, keep, probe, capture and drive FPGA designs over JTAG.')
    .exitOverride();
  let failed = false;
  const fail = () => {
    failed = true;
  };
  for (const add of [
    chainCommand,
    buildCommand,
    loadCommand,
    flashCommand,
    captureCommand,
    driveCommand,
    simCommand,
    svfCommand,
    bsdlCommand,
    imageCommand,
    waveCommand,
  ])
    add(program, fail);
  strict(program);
  try {
    await program.parseAsync(args, { from: 'user' });
    return failed ? 1 : 0;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    if (error instanceof CallError) {
      console.error(error.message);
      return 2;
    }
    if (error instanceof ProblemError) {
      report(args.includes('--json'), { problem: error.problem }, () => '', error.problem);
      return 1;
    }
    throw error;
  }
}

/** Every level of the command ends by throwing, so that wrong calls exit with 2. */
function strict(command: Command): void {
  command.exitOverride();
  for (const inner of command.commands) strict(inner);
}
