import { build } from './operations/build.ts';
import { capture } from './operations/capture.ts';
import { keep, rehearse } from './operations/keep.ts';
import { load } from './operations/load.ts';
import { setPower } from './operations/power.ts';
import { scan } from './operations/scan.ts';
import { driveNow } from './operations/drive.ts';
import { vectors } from './operations/vectors.ts';

/** What a page can ask for. Each starts a job and returns its number, but for `driveNow`, which answers at once. */
export const operations = { build, capture, keep, rehearse, load, setPower, scan, driveNow, vectors };
