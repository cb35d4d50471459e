// Starts a pod from the bundle; one that is missing or older than the sources is made first.
import { bundle, isFresh } from '../scripts/bundle.mjs';

if (!isFresh()) await bundle();
await import('../dist/nimble/pod.mjs');
