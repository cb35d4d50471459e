import type { Insertion } from '../hdl/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { TextFile } from './project.ts';

/** Puts text into sources; column 0 means before the first word of the line. Gives only the files that changed. */
export function applyInsertions(files: readonly TextFile[], insertions: readonly Insertion[]): Result<TextFile[]> {
  const changed = new Map<string, string[]>();
  // From the end backwards, so that earlier places stay where they are.
  for (const { file, line, column, insert } of [...insertions].sort((a, b) => b.line - a.line || b.column - a.column)) {
    const lines = changed.get(file) ?? files.find((f) => f.name === file)?.text.split('\n');
    const text = lines?.[line - 1];
    if (!lines || text === undefined) return fail(problem('no-place', { line, file }));
    const at = column === 0 ? text.length - text.trimStart().length : Math.min(text.length, column - 1);
    lines[line - 1] = text.slice(0, at) + insert + text.slice(at);
    changed.set(file, lines);
  }
  return ok([...changed].map(([name, lines]) => ({ name, text: lines.join('\n') })));
}
