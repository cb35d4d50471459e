import { mkdirSync } from 'node:fs';
import { join } from 'node:path';

/** The folder everything that lasts lives in: `var` in the product's folder, or where NIMBLE_HOME points. */
export function home(): string {
  const folder = process.env.NIMBLE_HOME ?? join(process.cwd(), 'var');
  mkdirSync(folder, { recursive: true });
  return folder;
}
