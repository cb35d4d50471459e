import { chmodSync, mkdirSync, statSync } from 'node:fs';
import { join } from 'node:path';

const OWNER_ALONE = 0o700;
let told = false;

/** The folder everything that lasts lives in: `var` in the product's folder, or where NIMBLE_HOME points. */
export function home(): string {
  const given = process.env.NIMBLE_HOME;
  const folder = given ?? join(process.cwd(), 'var');
  mkdirSync(folder, { recursive: true, mode: OWNER_ALONE });
  // A folder that somebody else chose may be others' too; what is ours in it is closed to them one by one.
  if (given === undefined) chmodSync(folder, OWNER_ALONE);
  else if ((statSync(folder).mode & 0o077) !== 0 && !told) {
    told = true;
    console.warn(`${folder} can be read by others than its owner; what is kept in it cannot.`);
  }
  return folder;
}
