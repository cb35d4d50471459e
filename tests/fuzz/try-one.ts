// One input of one reader: made, read, and judged.
import { ProblemError } from '../../core/result.ts';
import { chanceFrom, seedOf } from './chance.ts';
import type { Reader } from './readers.ts';

/** What is not to be: a throw that tells a person nothing, a wait, and memory that others need. */
export const MOST_MILLISECONDS = 1000;
export const MOST_GROWTH_BYTES = 512 * 2 ** 20;

export interface Fell {
  readonly reader: string;
  readonly index: number;
  readonly why: 'throw' | 'slow' | 'memory' | 'died';
  /** Line of the stack that tells one fault from another; the figure otherwise. */
  readonly told: string;
}

export const inputOf = (reader: Reader, seed: number, index: number): Uint8Array =>
  reader.make(reader.seeds(), chanceFrom(seedOf(`${reader.name} ${seed} ${index}`)));

/** Null where the reader took or refused it as it should. */
export function tryOne(reader: Reader, seed: number, index: number): Fell | null {
  const input = inputOf(reader, seed, index);
  const before = process.resourceUsage().maxRSS;
  const began = process.cpuUsage();
  const fell = (why: Fell['why'], told: string): Fell => ({ reader: reader.name, index, why, told });
  try {
    reader.read(input);
  } catch (error) {
    if (!(error instanceof ProblemError)) return fell('throw', whereOf(error));
  }
  // Of the processor, not of the wall: another process that is busy makes no reader slow.
  const { user, system } = process.cpuUsage(began);
  const took = (user + system) / 1000;
  if (took > MOST_MILLISECONDS) return fell('slow', `${Math.round(took)} ms, ${input.length} bytes`);
  const grown = (process.resourceUsage().maxRSS - before) * 1024;
  return grown > MOST_GROWTH_BYTES ? fell('memory', `${Math.round(grown / 2 ** 20)} MB, ${input.length} bytes`) : null;
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
