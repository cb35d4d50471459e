// Starts the firmware on a simulated bench from the bundle; one that is missing or older than the sources is made first.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundle, isFresh } from '../scripts/bundle.mjs';

if (!isFresh()) await bundle();
process.env.NIMBLE_ROOT ??= join(dirname(fileURLToPath(import.meta.url)), '..');
await import('../dist/nimble/firmware.mjs');
