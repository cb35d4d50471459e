import { partNamed } from '../families/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { type BoardParts, boardParts } from './shape.ts';

interface Fpga {
  readonly name: string;
  /** Of the chain that is written where the file is new. */
  readonly part: string;
  readonly package?: string | undefined;
}

/** The parts in the text of a bench file, whatever else stands in it. */
export function partsOfBench(name: string, text: string): Result<BoardParts> {
  const unreadable = (why: string) =>
    fail(problem('bench-file', `${name}: ${why}`, 'Compare it with docs/formats.md, section 4.'));
  let file: unknown;
  try {
    file = JSON.parse(text);
  } catch (error) {
    return unreadable(`it is no JSON: ${error instanceof Error ? error.message : ''}`);
  }
  const read = boardParts.safeParse(boardIn(file) ?? {});
  if (read.success) return ok(read.data);
  const [issue] = read.error.issues;
  return unreadable(`board.${issue?.path.join('.') ?? ''}: ${issue?.message ?? 'not as expected'}.`);
}

const boardIn = (file: unknown): unknown =>
  typeof file === 'object' && file !== null && 'board' in file ? file.board : undefined;

/** A bench file with these parts: what else stood in it stays; a new one has a chain of the one FPGA. */
export function benchText(before: string | null, { name, part, package: inCase }: Fpga, parts: BoardParts): string {
  const fresh = {
    ...{ format: 'nimble-bench', version: 1, name },
    chain: [
      { kind: partNamed(part)?.family.name.toLowerCase(), part, ...(inCase === undefined ? {} : { package: inCase }) },
    ],
  };
  const file: unknown = before === null ? fresh : JSON.parse(before);
  const kept = typeof file === 'object' && file !== null ? file : fresh;
  return `${JSON.stringify({ ...kept, board: withoutEmpty(parts) }, null, 2)}\n`;
}

const withoutEmpty = (parts: BoardParts): object =>
  Object.fromEntries(
    Object.entries(parts).filter(
      ([, value]) => !(typeof value === 'object' && value !== null && Object.keys(value).length === 0),
    ),
  );
