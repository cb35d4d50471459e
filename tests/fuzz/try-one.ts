// One input of one reader: made, read, and judged.
import { ProblemError } from '../../core/result.ts';
import { chanceFrom, seedOf } from './chance.ts';
import type { Reader } from './readers.ts';

/** What is not to be: a throw that tells a person nothing, a wait, and memory that others need. */
export const MOST_MILLISECONDS = Number(process.env.NIMBLE_FUZZ_MILLISECONDS ?? 1000);
export const MOST_GROWTH_BYTES = 512 * 2 ** 20;
const SLOW_TURNS = 3;

export interface Fell {
  readonly reader: string;
  readonly index: number;
  readonly why: 'throw' | 'slow' | 'memory' | 'died';
  /** Line of the stack that tells one fault from another; the figure otherwise. */
  readonly told: string;
}

export const inputOf = (reader: Reader, seed: number, index: number): Uint8Array =>
  reader.make(reader.seeds(), chanceFrom(seedOf(`${reader.name} ${seed} ${index}`)));

/** Null where the reader took or refused it as it should. What is slow is slow three times: a busy machine is not. */
export function tryOne(reader: Reader, seed: number, index: number): Fell | null {
  const input = inputOf(reader, seed, index);
  let fell: Fell | null = null;
  for (let turn = 0; turn < SLOW_TURNS; turn++) {
    const found = judged(reader, input);
    fell = found && { reader: reader.name, index, ...found };
    if (fell?.why !== 'slow') return fell;
  }
  return fell;
}

function judged(reader: Reader, input: Uint8Array): Pick<Fell, 'why' | 'told'> | null {
  const before = process.resourceUsage().maxRSS;
  const began = process.cpuUsage();
  try {
    reader.read(input);
  } catch (error) {
    if (!(error instanceof ProblemError)) return { why: 'throw', told: whereOf(error) };
  }
  // Of the processor, not of the wall: another process that is busy makes no reader slow.
  const { user, system } = process.cpuUsage(began);
  const took = (user + system) / 1000;
  const grown = (process.resourceUsage().maxRSS - before) * 1024;
  if (grown > MOST_GROWTH_BYTES)
    return { why: 'memory', told: `${Math.round(grown / 2 ** 20)} MB, ${input.length} bytes` };
  return took > MOST_MILLISECONDS ? { why: 'slow', told: `${Math.round(took)} ms, ${input.length} bytes` } : null;
}

/** What and where, without the values that differ each time. */
function whereOf(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  const lines = (error.stack ?? '').split('\n').map((line) => line.trim());
  const place = lines.find((line) => line.startsWith('at ') && !line.includes('node:') && !line.includes('lists.ts'));
  return `${error.name}: ${error.message.replaceAll(/\d+/g, 'n').slice(0, 80)} ${place ?? ''}`.replace(
    process.cwd(),
    '',
  );
}
