import type { Chance } from '../fuzz/index.ts';

const LEAVES: readonly unknown[] = [
  ...[null, true, false, 0, -1, 1, 1.5, 1e308, 2 ** 53, -(2 ** 31), 1e-320, 4_294_967_296],
  ...[
    '',
    ' ',
    'constructor',
    '__proto__',
    'main',
    'top',
    '../../etc/passwd',
    'nimble.json',
    '\ud800',
    '\0',
    'a'.repeat(300),
  ],
  ...['state == constructor', '('.repeat(3000), 'a and '.repeat(3000), `${'9'.repeat(3000)}`, 'ws://127.0.0.1:1'],
  ...['jtag', 'flash', 'build', 'scan', 'x'.repeat(100_000)],
  ...[[], {}, { $bigint: '1' }, { $bigint: '9'.repeat(5000) }, { $bigint: 'x' }, { $bigint: '-1' }],
];
/** Names that calls ask for: what is said under them is looked at. */
const NAMES = [
  ...['id', 'name', 'text', 'read', 'files', 'kind', 'recorder', 'when', 'keep', 'before', 'segments', 'repeat', 'set'],
  ...[
    'address',
    'token',
    'hz',
    'index',
    'part',
    'irLength',
    'pin',
    'place',
    'level',
    'control',
    'on',
    'source',
    'file',
  ],
  ...['action', 'pauseAt', 'steps', 'verify', 'device', 'layout', 'image', 'values', 'plan', 'others', 'recorders'],
  ...['panels', 'view', 'path', 'expanded', 'signal', 'step', 'what', 'length', 'sources', 'by', 'boot', 'limit'],
  ...[
    'from',
    'to',
    'clocks',
    'pins',
    'top',
    'grade',
    'message',
    'reason',
    'fix',
    'insertions',
    'constructor',
    '__proto__',
  ],
];

/** A text of JSON that is no call anybody means, or nearly one. */
export function nasty(chance: Chance): string {
  const tree = treeOf(chance, 0);
  return JSON.stringify(tree) ?? 'null';
}

function treeOf(chance: Chance, depth: number): unknown {
  const kind = depth > 4 ? 0 : chance.below(10);
  if (kind < 3) return chance.pick(LEAVES);
  if (kind < 4) {
    const one = treeOf(chance, depth + 1);
    return new Array(chance.pick([0, 1, 3, 3, 500])).fill(JSON.stringify(one)?.length > 300 ? 0 : one);
  }
  const pairs = Array.from({ length: 1 + chance.below(6) }, () => [chance.pick(NAMES), treeOf(chance, depth + 1)]);
  return Object.fromEntries(pairs);
}
