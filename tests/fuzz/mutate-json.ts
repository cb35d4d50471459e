// JSON that is nearly right: one value of another kind, a name of another, a list too long, a tree too deep.
import type { Chance } from './chance.ts';
import { mutatedText } from './mutate-text.ts';

const VALUES: readonly unknown[] = [
  ...[null, true, false, 0, -1, 1, 1.5, 1e308, -1e308, 2 ** 53, 2 ** 31, -(2 ** 31), 1e-320],
  ...['', ' ', 'constructor', '__proto__', 'x'.repeat(100_000), '\ud800', '0', '1e999', 'P1'],
  ...[[], {}, [[]], [null], { constructor: 1 }, { $bigint: '1' }, { $bigint: 'x' }, { $bigint: '9'.repeat(10_000) }],
];
const MOST_CHANGES = 4;
const MOST_REPEATS = 3000;
const DEEP = 4000;
const LONGEST = 4 << 20;

/** One text of JSON out of those of a corpus; one in eight is broken as a text instead. */
export function mutatedJson(seeds: readonly string[], chance: Chance): string {
  if (chance.oneIn(8)) return mutatedText(seeds, chance);
  let tree: unknown = JSON.parse(chance.pick(seeds));
  for (let left = 1 + chance.below(MOST_CHANGES); left > 0; left--) tree = changed(tree, chance, 0);
  const text = JSON.stringify(tree) ?? 'null';
  // A call takes no more.
  return text.length > LONGEST ? text.slice(0, LONGEST) : text;
}

/** Goes down by chance, and changes what it ends at. */
function changed(value: unknown, chance: Chance, depth: number): unknown {
  const isTree = typeof value === 'object' && value !== null;
  if (!isTree || (depth > 0 && chance.oneIn(4))) return other(value, chance);
  const entries = Object.entries(value);
  if (entries.length === 0) return other(value, chance);
  const at = chance.below(entries.length);
  const [key, inner] = entries[at] ?? ['', null];
  const next = Array.isArray(value) ? changedList(value, at, inner, chance, depth) : null;
  if (next) return next;
  const what = chance.below(24);
  if (what < 3) entries.splice(at, 1);
  else if (what < 6) entries[at] = [chance.pick(['constructor', 'toString', '', 'x', key]), inner];
  else if (what < 8) entries.push([chance.pick(['more', 'constructor', 'version', 'format']), other(inner, chance)]);
  else entries[at] = [key, changed(inner, chance, depth + 1)];
  return Object.fromEntries(entries);
}

function changedList(list: readonly unknown[], at: number, inner: unknown, chance: Chance, depth: number): unknown[] {
  if (chance.oneIn(8)) return list.toSpliced(at, 1);
  if (chance.oneIn(10)) return list.toSpliced(at, 0, ...new Array(1 + chance.below(MOST_REPEATS)).fill(inner));
  if (chance.oneIn(8)) return list.toSpliced(at, 0, other(inner, chance));
  return list.with(at, changed(inner, chance, depth + 1));
}

function other(value: unknown, chance: Chance): unknown {
  if (typeof value === 'number' && chance.oneIn(2))
    return chance.pick([value + 1, value - 1, -value, value * 1e6, value + 0.5, value / 3]);
  if (typeof value === 'string' && chance.oneIn(2))
    return chance.pick([`${value}${value}`, value.slice(1), value.toUpperCase(), `${value}\0`]);
  if (chance.oneIn(40)) return deep(chance.below(DEEP));
  return chance.pick(VALUES);
}

function deep(levels: number): unknown {
  let tree: unknown = 0;
  for (let left = levels; left > 0; left--) tree = left % 2 === 0 ? [tree] : { a: tree };
  return tree;
}
