// Sends what nobody who means well sends to a workbench and its pod, and looks whether they go on for the others.
// npm run hostile -- [--requests N | --seconds N] [--seed N]
import { parseArgs } from 'node:util';
import { routes } from '../server/index.ts';
import { Hostile, type Trouble } from '../tests/hostile/index.ts';

const { values } = parseArgs({
  options: { requests: { type: 'string' }, seconds: { type: 'string' }, seed: { type: 'string', default: '1' } },
});

const MOST_TOLD = 30;
const began = Date.now();
const mostSeconds = Number(values.seconds ?? Number.POSITIVE_INFINITY);
const mostRequests = Number(values.requests ?? (values.seconds === undefined ? 2000 : Number.POSITIVE_INFINITY));
const hostile = new Hostile(Number(values.seed), Object.keys(routes._def.procedures));
const troubles: Trouble[] = [];
const made = () => hostile.requests + hostile.connections;
const isOver = () => made() >= mostRequests || Date.now() - began >= mostSeconds * 1000 || troubles.length >= MOST_TOLD;

try {
  while (!isOver()) {
    const found = await hostile.some(Math.min(200, mostRequests - made()));
    troubles.push(...found);
    for (const { kind, what } of found) console.log(`${kind}: ${what}`);
    if (found.some(({ kind }) => kind === 'ended' || kind === 'stuck')) break;
  }
} finally {
  await hostile.close();
}
const answers = [...hostile.answers].sort(([a], [b]) => a - b).map(([status, count]) => `${status || 'none'} ${count}`);
console.log(
  `${hostile.requests.toLocaleString('en')} requests and ${hostile.connections.toLocaleString('en')} connections to ` +
    `the pod in ${Math.round((Date.now() - began) / 1000)} s: ${troubles.length} answered badly. Answers: ` +
    `${answers.join(', ')}; slowest ${(hostile.slowest / 1000).toFixed(1)} s; most memory ` +
    `${hostile.mostMegabytes.web} MB (web), ${hostile.mostMegabytes.pod} MB (pod).`,
);
process.exit(troubles.length > 0 ? 1 : 0);
