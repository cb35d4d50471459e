// Starts the workbench from the bundle; one that is missing or older than the sources is made first.
import { bundle, isFresh } from '../scripts/bundle.mjs';

process.env.NODE_ENV ??= 'production';
if (!isFresh()) await bundle();
await import('../dist/nimble/web.mjs');
