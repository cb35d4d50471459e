// Starts the workbench from the bundle; one that is missing or older than the sources is made first.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundle, isFresh } from '../scripts/bundle.mjs';

process.env.NODE_ENV ??= 'production';
if (!isFresh()) await bundle();
// Threads run what was bundled: as it is written it takes up to twice the time.
process.env.NIMBLE_THREADS = join(dirname(fileURLToPath(import.meta.url)), '..', 'dist', 'nimble');
await import('../dist/nimble/web.mjs');
