// Holds the structure of the project to its rules and prints its figures. Fails on any complaint.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { readSource } from './structure/read.mjs';
import { complaints } from './structure/rules.mjs';

const FOLDERS = ['core', 'bench', 'pod', 'server', 'app', 'ui', 'cli', 'scripts', 'tests'];
const listed = execFileSync('git', ['ls-files', '-co', '--exclude-standard', ...FOLDERS], { encoding: 'utf8' });
const sources = listed
  .split('\n')
  .filter((file) => /\.(tsx?|mjs)$/.test(file) && existsSync(file))
  .map((file) => readSource(file));

const wrong = complaints(sources);
for (const text of wrong) console.error(text);
console.log(wrong.length === 0 ? 'the structure holds' : `${wrong.length} places break the structure`);
process.exit(wrong.length === 0 ? 0 : 1);
