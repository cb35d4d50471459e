// The `nimble` command: the engine without a page. Exit 0 success, 1 the work failed, 2 the call was wrong.
import { Command, CommanderError } from 'commander';
import { ProblemError } from '../core/result.ts';
import { CallError, report } from './output.ts';

type Add = (program: Command, failed: () => void) => void;

/** What each command is for, and where it stands: only the one that is called is read. */
const COMMANDS: Readonly<Record<string, { readonly about: string; readonly add: () => Promise<Add> }>> = {
  chain: { about: 'the JTAG chain', add: async () => (await import('./chain.ts')).chainCommand },
  build: { about: 'from sources to a bitstream', add: async () => (await import('./build.ts')).buildCommand },
  load: { about: 'load a bitstream into configuration RAM', add: async () => (await import('./load.ts')).loadCommand },
  flash: {
    about: 'the configuration flash behind an FPGA',
    add: async () => (await import('./flash.ts')).flashCommand,
  },
  capture: {
    about: 'arm a recorder, wait, read, write VCD',
    add: async () => (await import('./capture.ts')).captureCommand,
  },
  drive: { about: 'levers and gauges of a running design', add: async () => (await import('./drive.ts')).driveCommand },
  serial: {
    about: 'the serial line of a board: listen, send, wait for a text',
    add: async () => (await import('./serial.ts')).serialCommand,
  },
  sim: {
    about: 'a testbench or test vectors, run on the sources without hardware',
    add: async () => (await import('./sim.ts')).simCommand,
  },
  replay: {
    about: 'what was not captured, computed from what was',
    add: async () => (await import('./replay.ts')).replayCommand,
  },
  svf: { about: 'Serial Vector Format files', add: async () => (await import('./svf.ts')).svfCommand },
  bsdl: { about: 'boundary-scan descriptions', add: async () => (await import('./bsdl.ts')).bsdlCommand },
  image: {
    about: 'memory images: Intel HEX, S-record, plain bytes, .nbits',
    add: async () => (await import('./image.ts')).imageCommand,
  },
  pod: {
    about: 'files that a pod holds and carries out by itself',
    add: async () => (await import('./pod-files.ts')).podCommand,
  },
  wave: { about: 'value change dumps', add: async () => (await import('./wave.ts')).waveCommand },
};

export async function main(args: readonly string[]): Promise<number> {
  const program = new Command('nimble')
    .description('Load, keep, probe, capture and drive FPGA designs over JTAG.')
    .exitOverride();
  let failed = false;
  const fail = () => {
    failed = true;
  };
  const called = args.find((word) => Object.hasOwn(COMMANDS, word));
  for (const [name, { about, add }] of Object.entries(COMMANDS))
    if (name === called) (await add())(program, fail);
    else program.command(name).description(about);
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
