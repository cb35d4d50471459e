// Holds the structure of the project to its rules and prints its figures. Fails on any complaint.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { readSource } from './structure/read.mjs';
import { complaints } from './structure/rules.mjs';

const FOLDERS = ['core', 'bench', 'pod', 'server', 'door', 'app', 'ui', 'cli', 'scripts', 'tests'];
const listed = execFileSync('git', ['ls-files', '-co', '--exclude-standard', ...FOLDERS], { encoding: 'utf8' });
const sources = listed
  .split('\n')
  .filter((file) => /\.(tsx?|mjs)$/.test(file) && existsSync(file))
  .map((file) => readSource(file));

const wrong = complaints(sources);
const lines = (of) => of.reduce((total, { text }) => total + text.split('\n').length - 1, 0);
const share = lines(sources.filter(({ file }) => /\.test\.tsx?$|^tests\//.test(file))) / lines(sources);
/** Of all lines of code, those of tests. */
const LEAST_TESTS = 0.25;
if (share < LEAST_TESTS) wrong.push(`tests are ${(share * 100).toFixed(1)} % of the lines`);
for (const text of wrong) console.error(text);
console.log(
  `${sources.length} files; ` +
    `${wrong.length === 0 ? 'the structure holds' : `${wrong.length} places break the structure`}`,
);
console.log(`tests ${(share * 100).toFixed(1)} % of ${lines(sources).toLocaleString('en')} lines`);
printText(
  sources.filter(({ file }) => /^(core|bench|pod|server|door|app|ui|cli)\//.test(file) && !/\.test\./.test(file)),
);
process.exitCode = wrong.length === 0 ? 0 : 1;

/** Figures of the text: they are printed, so that they can be seen to shrink. */
function printText(code) {
  const sum = (of) => code.reduce((total, one) => total + of(one), 0);
  console.log(
    `casts ${sum(({ casts }) => casts.length)}, functions over 60 lines ${sum(({ long }) => long.length)}, ` +
      `of seven and more parameters ${sum(({ many }) => many.length)}, lines over 120 ` +
      `${sum(({ wide }) => wide.length)}`,
  );
}
