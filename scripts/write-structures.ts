// Writes core/mapping/gates/structures.ts: for each class of functions of four inputs the fewest gates that make it.
//
//   npx tsx scripts/write-structures.ts
import { writeFileSync } from 'node:fs';
import { ALL_ONES, classOf, COLUMNS } from '../core/mapping/index.ts';

const cost = new Int32Array(1 << 16).fill(-1);
const depth = new Int32Array(1 << 16).fill(0);
/** The two functions that a function is made of, and whether they are xored. */
const made = new Map<number, { readonly f: number; readonly g: number; readonly xor: boolean }>();
const levels: number[][] = [[...COLUMNS, ...COLUMNS.map((c) => ~c & ALL_ONES)]];
for (const f of levels[0] ?? []) cost[f] = 0;

const offer = (truth: number, f: number, g: number, xor: boolean, level: number, found: number[]) => {
  if (truth === 0 || truth === ALL_ONES) return;
  const deep = 1 + Math.max(depth[f] ?? 0, depth[g] ?? 0);
  const known = cost[truth] ?? -1;
  if (known >= 0 && (known < level || (depth[truth] ?? 0) <= deep)) return;
  for (const one of [truth, ~truth & ALL_ONES]) {
    if (known < 0) {
      cost[one] = level;
      found.push(one);
    }
    depth[one] = deep;
  }
  made.set(truth, { f, g, xor });
  made.delete(~truth & ALL_ONES);
};

for (let level = 1; [...cost].some((c, f) => c < 0 && f !== 0 && f !== ALL_ONES); level++) {
  const found: number[] = [];
  for (let i = 0; i * 2 <= level - 1; i++)
    for (const f of levels[i] ?? [])
      for (const g of levels[level - 1 - i] ?? []) {
        offer(f & g, f, g, false, level, found);
        offer(f ^ g, f, g, true, level, found);
      }
  levels.push(found);
  process.stderr.write(`${level} gates: ${found.length} functions\n`);
}

/** Gates in order, equal ones once: kind, then two literals in base 36; `!` where the last one is turned round. */
function written(root: number): string {
  const gates: string[] = [];
  const known = new Map<number, number>(COLUMNS.map((c, i) => [c, i * 2]));
  const literal = (f: number): number => {
    const inverse = ~f & ALL_ONES;
    const have = known.get(f);
    if (have !== undefined) return have;
    const other = known.get(inverse);
    if (other !== undefined) return other ^ 1;
    const how = made.get(f);
    if (!how) return literal(inverse) ^ 1;
    const [x, y] = [literal(how.f), literal(how.g)];
    gates.push(`${how.xor ? '^' : '&'}${x.toString(36)}${y.toString(36)}`);
    known.set(f, (3 + gates.length) * 2);
    return (3 + gates.length) * 2;
  };
  const out = literal(root);
  return gates.join('') + ((out & 1) === 1 ? '!' : '');
}

const reps = [...new Set(Array.from({ length: 1 << 16 }, (_, f) => classOf(f)))]
  .filter((f) => f !== 0)
  .sort((a, b) => a - b);
const rows = reps.filter((f) => cost[f] !== 0).map((f) => `${f.toString(16)}:${written(f)}`);
const lines: string[] = [];
for (const row of rows) {
  const last = lines.at(-1);
  if (last !== undefined && last.length + row.length < 108) lines[lines.length - 1] = `${last} ${row}`;
  else lines.push(row);
}
writeFileSync(
  'core/mapping/gates/structures.ts',
  `// Made by scripts/write-structures.ts.\n\n/**\n * The fewest gates, as trees of and, xor and free inversion, for each class of functions of four inputs: the class in\n * hexadecimal, then its gates. A gate is its kind and two literals in base 36, of inputs 0 to 3 and gates from 4 on, as\n * twice the number plus one where it is turned round; \`!\` turns the last one round.\n */\nexport const STRUCTURES =\n${lines.map((line, i) => `  '${i === 0 ? '' : ' '}${line}'`).join(' +\n')};\n`,
);
