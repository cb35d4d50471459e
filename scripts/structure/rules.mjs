// What the structure must obey (docs/architecture.md, section 1): direction, order, faces, circles, exports. Pure:
// takes what was read of all files and gives complaints.
import { dirname } from 'node:path';

/** For each top folder: the folders it may import from, besides itself. `type:` allows types alone. */
const MAY = {
  core: [],
  bench: ['core'],
  pod: ['core'],
  server: ['core'],
  ui: ['core', 'type:server'],
  door: ['core'],
  app: ['core', 'ui', 'server', 'door'],
  cli: ['core', 'bench', 'pod', 'door'],
};

/** Inside core the order of this list is the order of dependence (docs/architecture.md, section 1). */
export const CORE_ORDER = [
  ...['lists.ts', 'result.ts', 'words.ts', 'cells.ts', 'progress.ts', 'json-file.ts', 'json-integers.ts'],
  ...['bits', 'jtag', 'chain', 'svf', 'bsdl', 'boundary', 'images', 'flash'],
  ...[
    'netlist',
    'clocking',
    'families',
    'hdl',
    'constraints',
    'parts',
    'sim',
    'vectors',
    'checks',
    'schematic',
    'mapping',
  ],
  ...['serial', 'board', 'pod', 'probes', 'trigger', 'wave', 'replay', 'build', 'operations'],
];
const OUTSIDE_CORE = /^(node:|react|next|knex|ws$|better-sqlite3)/;
/** Folders that only hold others, so that they have no face of their own. */
const HOLDERS = new Set(['', 'core', 'core/sim', 'ui', 'tests', 'tests/support', 'scripts', 'scripts/structure']);
/**
 * The device's half of a family stands in bench and shares tables of opcodes, lengths and pads with the host's half.
 */
const FAMILY_FACE = /^core\/families\/\w+\/index\.ts$/;
const isTest = (file) => /\.test\.tsx?$/.test(file) || file.startsWith('tests/');
/** Files that run or are loaded by name: nobody imports what they export. */
const isEntry = (file) =>
  /^(app\/|instrumentation|next\.config|vitest|scripts\/|cli\/(main|pod)\.ts$|postcss)/.test(file) ||
  /\.d\.ts$/.test(file) ||
  /migrations\/\d|\/workers\/\w+\.mjs$/.test(file);

const folderOf = (file) => (dirname(file) === '.' ? '' : dirname(file));

export function complaints(sources) {
  const byFile = new Map(sources.map((one) => [one.file, one]));
  return [
    ...sources
      .filter(({ file }) => !isTest(file))
      .flatMap((one) => [...direction(one), ...order(one), ...faces(one, byFile)]),
    ...circles(sources, byFile),
    ...unused(sources, byFile),
    ...text(sources.filter(({ file }) => /^(core|bench|pod|server|door|app|ui|cli)\//.test(file) && !isTest(file))),
  ];
}

/** Casts that all the code together may hold. */
const MOST_CASTS = 266;
/** Lines of one function. */
const MOST_LINES = 125;

function text(sources) {
  const casts = sources.reduce((total, one) => total + one.casts.length, 0);
  return [
    ...sources.flatMap(({ file, wide }) => wide.map((line) => `${file}:${line}: over 120 characters`)),
    ...sources.flatMap(({ file, many }) =>
      many.map(({ name, count, line }) => `${file}:${line}: ${name} takes ${count} parameters: give it an object`),
    ),
    ...sources.flatMap(({ file, long }) =>
      long
        .filter(({ lines }) => lines > MOST_LINES)
        .map(({ name, lines, line }) => `${file}:${line}: ${name} has ${lines} lines; at most ${MOST_LINES}`),
    ),
    ...(casts > MOST_CASTS ? [`${casts} casts; at most ${MOST_CASTS}`] : []),
  ];
}

function direction({ file, imports }) {
  const [top] = file.split('/');
  if (!(top in MAY)) return [];
  return imports.flatMap(({ to, typeOnly, line }) => {
    const [other] = to.split('/');
    if (top === 'core' && OUTSIDE_CORE.test(to)) return [`${file}:${line}: core may not import ${to}`];
    if (!(other in MAY) || other === top || MAY[top].includes(other)) return [];
    return typeOnly && MAY[top].includes(`type:${other}`) ? [] : [`${file}:${line}: ${top} may not import ${to}`];
  });
}

function order({ file, imports }) {
  const [top, own] = file.split('/');
  if (top !== 'core') return [];
  const rank = CORE_ORDER.indexOf(own);
  if (rank < 0) return [`${file}: core/${own} has no place in the order`];
  return imports.flatMap(({ to, line }) => {
    const [other, part] = to.split('/');
    return other === 'core' && CORE_ORDER.indexOf(part) > rank
      ? [`${file}:${line}: core/${own} comes before core/${part} and may not import it`]
      : [];
  });
}

/** From outside a folder only its `index` is imported. */
function faces({ file, imports }, byFile) {
  return imports.flatMap(({ to, line }) => {
    if (!byFile.has(to)) return [];
    const [here, there] = [folderOf(file).split('/'), to.split('/')];
    let same = 0;
    while (same < there.length - 1 && here[same] === there[same]) same++;
    // The first folder on the way that is not shared: its face, or a folder that only holds others.
    let at = same;
    while (at < there.length - 1 && HOLDERS.has(there.slice(0, at + 1).join('/'))) at++;
    if (at >= there.length - 1) return [];
    const face = `${there.slice(0, at + 1).join('/')}/index`;
    if (here[0] === 'bench' && FAMILY_FACE.test(to)) return [];
    return to.replace(/\.tsx?$/, '') === face
      ? []
      : [`${file}:${line}: imports ${to}; the face of its folder is ${face}.ts`];
  });
}

/** Files that import each other in a circle, whatever they take (Tarjan, SIAM J. Comput. 1 (1972), 146). */
function circles(sources, byFile) {
  const found = [];
  const index = new Map();
  const low = new Map();
  const stack = [];
  const visit = (file) => {
    index.set(file, index.size);
    low.set(file, index.get(file));
    stack.push(file);
    for (const { to } of byFile.get(file).imports) {
      if (!byFile.has(to)) continue;
      if (!index.has(to)) {
        visit(to);
        low.set(file, Math.min(low.get(file), low.get(to)));
      } else if (stack.includes(to)) low.set(file, Math.min(low.get(file), index.get(to)));
    }
    if (low.get(file) !== index.get(file)) return;
    const circle = stack.splice(stack.indexOf(file));
    if (circle.length > 1) found.push(`a circle of imports: ${circle.reverse().join(', ')}`);
  };
  for (const { file } of sources) if (!index.has(file)) visit(file);
  return found;
}

/** Exports that nobody takes, and those that tests alone take. What a face hands on counts where the face is used. */
function unused(sources, byFile) {
  const takers = new Map();
  /** Follows a name through the faces that hand it on to where it is declared. */
  const mark = (file, name, taker, seen = new Set()) => {
    const key = `${file}#${name}`;
    if (seen.has(key)) return;
    seen.add(key);
    if (!takers.has(key)) takers.set(key, new Set());
    takers.get(key).add(isTest(taker) ? 'test' : 'code');
    const source = byFile.get(file);
    if (!source) return;
    for (const pass of source.passes) {
      if (name === '*' || pass.name === '*') mark(pass.to, pass.name === '*' ? name : pass.name, taker, seen);
      else if (pass.as === name) mark(pass.to, pass.name, taker, seen);
    }
    if (name === '*') for (const one of source.exports) mark(file, one.name, taker, seen);
  };
  for (const { file, imports, passes } of sources) {
    const handed = new Set(passes.map(({ to, name }) => `${to}#${name}`));
    for (const { to, names } of imports)
      for (const name of names) if (!handed.has(`${to}#${name}`)) mark(to, name, file);
  }
  return sources
    .filter(({ file }) => !isTest(file) && !isEntry(file))
    .flatMap(({ file, exports, passes }) =>
      [...exports, ...passes.filter(({ as }) => as !== '*').map(({ as, line }) => ({ name: as, line }))].flatMap(
        ({ name, line }) => {
          const who = takers.get(`${file}#${name}`);
          if (!who) return [`${file}:${line}: nobody imports ${name}`];
          return who.has('code') ? [] : [`${file}:${line}: only tests import ${name}`];
        },
      ),
    );
}
