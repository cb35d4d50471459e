// Tries random designs in hardware and in simulation beside each other. npm run equivalence -- [--designs N] [--seed N]
import { parseArgs } from 'node:util';
import { differenceOf } from '../tests/support/equivalence.ts';

const { values } = parseArgs({
  options: { designs: { type: 'string', default: '10000' }, seed: { type: 'string', default: '1000000' } },
});
const first = Number(values.seed);
const count = Number(values.designs);
const began = Date.now();
let found = 0;
for (let seed = first; seed < first + count; seed++) {
  const difference = differenceOf(seed);
  if (difference === null) continue;
  found++;
  console.log(difference);
}
const seconds = Math.round((Date.now() - began) / 1000);
console.log(`${count.toLocaleString('en')} designs in ${seconds} s: ${found} of them differ.`);
process.exit(found > 0 ? 1 : 0);
