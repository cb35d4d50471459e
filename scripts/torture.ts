// Disturbs long work again and again, and counts what was answered as done and is not there afterwards.
// npm run torture -- [--kills N | --rounds N | --seconds N] [--seed N] [--operation NAME] [--disruption NAME]
import { appendFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { type Round, Torture } from '../tests/torture/index.ts';

const { values } = parseArgs({
  options: {
    kills: { type: 'string' },
    rounds: { type: 'string' },
    seconds: { type: 'string' },
    seed: { type: 'string', default: '1' },
    operation: { type: 'string' },
    disruption: { type: 'string' },
  },
});

const folder = join('var', 'torture', values.seed);
mkdirSync(folder, { recursive: true });
const log = join(folder, 'rounds.log');
writeFileSync(log, '');

const { operation, disruption } = values;
const torture = new Torture(Number(values.seed), {
  ...(operation === undefined ? {} : { operation }),
  ...(disruption === undefined ? {} : { disruption }),
});
const began = Date.now();
const rounds: Round[] = [];
const isAsked = values.kills ?? values.rounds ?? values.seconds;
const [mostKills, mostRounds, mostSeconds] = [
  values.kills,
  values.rounds ?? (isAsked ? undefined : '20'),
  values.seconds,
].map((text) => (text === undefined ? Number.POSITIVE_INFINITY : Number(text))) as [number, number, number];

while (torture.kills < mostKills && rounds.length < mostRounds && Date.now() - began < mostSeconds * 1000) {
  const round = await torture.round();
  rounds.push(round);
  const { number, after, recovery, fallen } = round;
  const line =
    `${number}: ${round.operation}, ${round.disruption} after ${after} ms, well again in ${recovery} ms` +
    fallen.map(({ kind, what }) => `\n  ${kind}: ${what}`).join('');
  appendFileSync(log, `${line}\n`);
  if (fallen.length > 0) console.log(line);
}
await torture.close();

const count = (kind: string) => rounds.flatMap(({ fallen }) => fallen).filter((one) => one.kind === kind).length;
const slowest = Math.max(0, ...rounds.map(({ recovery }) => recovery));
console.log(
  `${rounds.length} rounds, ${torture.kills} kills in ${Math.round((Date.now() - began) / 1000)} s; ` +
    `${torture.acknowledged.toLocaleString('en')} things answered as done, ${count('missing')} of them missing; ` +
    `${count('wedged') + count('silent')} times stuck, ${count('database')} times a database that is not whole, ` +
    `${count('flash')} times a flash that was not told of or does not boot; well again in at most ` +
    `${(slowest / 1000).toFixed(1)} s. Rounds: ${log}`,
);
process.exit(rounds.some(({ fallen }) => fallen.length > 0) ? 1 : 0);
