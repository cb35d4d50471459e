#!/usr/bin/env node
// Runs the bundle of the command; one that is missing or older than the sources is made first.
import { bundle, isFresh } from '../scripts/bundle.mjs';

if (!isFresh()) await bundle();
const { main } = await import('../dist/nimble/main.mjs');
process.exitCode = await main(process.argv.slice(2));
