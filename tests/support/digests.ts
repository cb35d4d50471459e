import { createHash } from 'node:crypto';
import { digestOf, type InputDigests, inputDigests } from '../../core/build/index.ts';
import type { ProbePlan } from '../../core/probes/index.ts';

/** Digests of a project's inputs as they stand. */
export const digestInputs = (
  files: readonly { readonly name: string; readonly text: string }[],
  plan: ProbePlan,
): InputDigests =>
  inputDigests(
    files.find(({ name }) => name === 'nimble.json')?.text ?? null,
    files.map(({ name, text }) => ({ name, digest: digestOf(text) })),
    plan,
  );

/** Bytes as something that is compared at once: a matcher goes through hundreds of thousands of them one by one. */
export const printOf = (bytes: Uint8Array | null): string | null =>
  bytes && createHash('sha256').update(bytes).digest('hex');
