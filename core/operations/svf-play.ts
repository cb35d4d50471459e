import { type Cable, runInPieces } from '../jtag/index.ts';
import type { Watch } from '../progress.ts';
import type { Problem } from '../result.ts';
import {
  NO_OFFSETS,
  type SvfCommand,
  type SvfMismatch,
  type SvfOffsets,
  SvfPlayer,
  SvfReader,
  type SvfRefusal,
  type SvfTrouble,
} from '../svf/index.ts';

interface SvfPlayOptions {
  readonly offsets?: SvfOffsets;
  /** Go on behind a difference; then several are told. */
  readonly goOn?: boolean;
  /** Bytes of the whole file, for progress. */
  readonly totalBytes?: number;
  /** Asked before each command; resolves when it may be carried out. For pausing and stepping. */
  readonly gate?: (command: SvfCommand) => Promise<void>;
}

/** How a file ended. `line` is where it stopped, null when it did not. */
export interface SvfPlay {
  readonly ok: boolean;
  readonly line: number | null;
  readonly mismatches: readonly SvfMismatch[];
  readonly problem: Problem | null;
  readonly commands: number;
  readonly tckCycles: number;
  readonly notes: readonly { readonly line: number; readonly message: string }[];
}

const MOST_MISMATCHES = 1000;

/** The work was cancelled while a command was carried out. */
class Left extends Error {}

/** A file may wait for a minute in one command, or shift for one: asked before each piece, it stops in the middle. */
const cancellable = (cable: Cable, watch: Watch): Cable => ({
  get tckHz() {
    return cable.tckHz;
  },
  run: async (ops) => {
    const captured = await runInPieces(cable, ops, () => !watch.cancelled());
    if (captured === null) throw new Left();
    return captured;
  },
  state: () => cable.state(),
  setFrequency: (hz) => cable.setFrequency(hz),
});

/**
 * Plays a file on a cable. Unless told to go on, each expected TDO is compared before the next command is sent, so that
 * nothing follows a difference. Holds one piece of the file at a time.
 */
export async function playSvf(
  cable: Cable,
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  watch: Watch,
  options: SvfPlayOptions = {},
): Promise<SvfPlay> {
  const reader = new SvfReader();
  const player = new SvfPlayer(cancellable(cable, watch), options.offsets ?? NO_OFFSETS);
  const mismatches: SvfMismatch[] = [];
  let problem: Problem | null = null;
  let stopped: number | null = null;
  let done = 0;
  let line = 0;
  const stop = (found: SvfRefusal | SvfTrouble) => {
    stopped = found.line;
    problem = { code: found.code, message: `Line ${found.line}: ${found.message}`, tryNext: found.tryNext };
  };
  const note = (found: readonly SvfMismatch[]) => {
    mismatches.push(...found.slice(0, MOST_MISMATCHES - mismatches.length));
    const [first] = found;
    if (first && stopped === null && !options.goOn) stopped = first.line;
  };
  const leave = (line: number, where: 'before' | 'in what was sent up to') => {
    stopped = line;
    problem = {
      code: 'cancelled',
      message: `Cancelled ${where} line ${line}. The devices are in whatever state the file left them.`,
      tryNext: ['Play the file again from its beginning.'],
    };
  };
  const carryOut = async (command: SvfCommand): Promise<boolean> => {
    if (watch.cancelled()) {
      leave(command.line, 'before');
      return false;
    }
    line = command.line;
    if (options.gate) await options.gate(command);
    const result = await player.take(command);
    if ('code' in result) stop(result);
    else note(options.goOn || !(player.waits || options.gate) ? result : [...result, ...(await player.flush())]);
    done = command.end;
    // Somebody is looking at every command.
    if (options.gate)
      watch.report({ phase: 'Playing', done, total: Math.max(options.totalBytes ?? 0, done), unit: 'B' });
    return stopped === null;
  };
  watch.report({ phase: 'Playing', done: 0, total: options.totalBytes ?? 0, unit: 'B' });
  try {
    reading: for await (const piece of pieces) {
      const commands = reader.push(piece);
      for (const command of commands) if (!(await carryOut(command))) break reading;
      watch.report({ phase: 'Playing', done, total: Math.max(options.totalBytes ?? 0, done), unit: 'B' });
      if (reader.trouble) break;
    }
    if (stopped === null) {
      reader.end();
      note(await player.flush());
      if (stopped === null && reader.trouble) stop(reader.trouble);
    }
  } catch (error) {
    if (!(error instanceof Left)) throw error;
    leave(line, 'in what was sent up to');
  } finally {
    await player.close();
  }
  return {
    ok: problem === null && mismatches.length === 0,
    line: stopped ?? mismatches[0]?.line ?? null,
    mismatches,
    problem,
    commands: player.commands,
    tckCycles: player.tckCycles,
    notes: player.notes,
  };
}

/** A difference as a sentence. */
export function describeMismatch({ line, name, length, bits, expected, actual }: SvfMismatch): Problem {
  const short = (text: string) => (text.length > 40 ? `${text.slice(0, 18)}…${text.slice(-18)}` : text);
  const places = bits.length > 8 ? `${bits.slice(0, 8).join(', ')} and more` : bits.join(', ');
  return {
    code: 'tdo-mismatch',
    message:
      `Line ${line}: ${name} of ${length} bits: TDO differs at ${bits.length === 1 ? 'bit' : 'bits'} ${places}. ` +
      `Expected ${short(expected)}, got ${short(actual)}.`,
    tryNext: [
      'Check that the file is for this device, and the offsets for its place in the chain.',
      'Lower the TCK frequency and play it again.',
      'Look at what the file does just before this line.',
    ],
  };
}
