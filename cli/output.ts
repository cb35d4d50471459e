import type { Problem } from '../core/result.ts';

/** The call itself was wrong: exit code 2. */
export class CallError extends Error {}

/** One JSON document on standard output, or text for people; problems always as text on standard error too. */
export function report(json: boolean, document: unknown, text: () => string, problem: Problem | null = null): void {
  if (problem) {
    console.error(problem.message);
    for (const [i, step] of problem.tryNext.entries()) console.error(`  ${i + 1}. ${step}`);
  }
  if (json)
    process.stdout.write(
      `${JSON.stringify(document, (_, value: unknown) => (typeof value === 'bigint' ? value.toString() : value))}\n`,
    );
  else {
    const lines = text();
    if (lines !== '') console.log(lines);
  }
}
