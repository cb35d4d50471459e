// Stands in for the tools of Marrow's maker: `npx tsx scripts/marrow-svf.ts --top tide_lamp_on_board --pins pins.csv
// --out tide.svf tide_probed.v tide_on_board.v`. The wrapper's user register is an instance of `marrow_user`.
import { readFileSync, writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { marrowSvf } from './marrow/index.ts';

const { values, positionals } = parseArgs({
  options: { top: { type: 'string' }, pins: { type: 'string' }, out: { type: 'string' } },
  allowPositionals: true,
});
const { top, pins, out } = values;
if (top === undefined || pins === undefined || out === undefined || positionals.length === 0) {
  console.error('Say --top MODULE --pins FILE --out FILE.svf and the Verilog files.');
  process.exit(2);
}
const sources = positionals.map((path) => ({ name: basename(path), text: readFileSync(path, 'utf8') }));
const made = marrowSvf({ sources, top, pins: readFileSync(pins, 'utf8') });
if (!made.ok) {
  console.error(made.error.message);
  process.exit(1);
}
writeFileSync(out, made.value);
