// Imports point one way (docs/architecture.md). Reads every import of the product's own files and fails on one that
// does not.
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

/** For each folder: the folders it may import from, besides itself. `type:` allows types alone. */
const MAY = {
  core: [],
  bench: ['core'],
  server: ['core'],
  ui: ['core', 'type:server'],
  app: ['core', 'ui', 'server'],
  cli: ['core', 'bench'],
};

/** Inside core the order of this list is the order of dependence. */
const CORE_ORDER = [
  'result.ts',
  'words.ts',
  'cells.ts',
  'progress.ts',
  'json-file.ts',
  'bits',
  'jtag',
  'chain',
  'svf',
  'bsdl',
  'boundary',
  'pod',
  'images',
  'flash',
  'hdl',
  'netlist',
  'fabric',
  'constraints',
  'sim',
  'vectors',
  'checks',
  'schematic',
  'mapping',
  'probes',
  'trigger',
  'wave',
  'build',
  'operations',
];
/** The front end makes netlists, so hdl stands above netlist although it is read first. */
const rank = (name) => (name === 'netlist' ? CORE_ORDER.indexOf('hdl') - 0.5 : CORE_ORDER.indexOf(name));
const OUTSIDE_CORE = /^(node:|react|next|knex|ws$|better-sqlite3)/;
const IMPORT = /(?:import|export)\s+(type\s+)?(?:[^'";]*?\sfrom\s+)?'([^']+)'|import\('([^']+)'\)/g;

const files = (folder) =>
  readdirSync(folder, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory()
      ? files(join(folder, entry.name))
      : /\.tsx?$/.test(entry.name)
        ? [join(folder, entry.name)]
        : [],
  );

let wrong = 0;
const complain = (file, text) => {
  wrong++;
  console.error(`${file}: ${text}`);
};
for (const [folder, may] of Object.entries(MAY)) {
  for (const file of files(folder)) {
    if (file.endsWith('.test.ts')) continue;
    for (const [, typeOnly, from, dynamic] of readFileSync(file, 'utf8').matchAll(IMPORT)) {
      const name = from ?? dynamic;
      if (!name.startsWith('.')) {
        if (folder === 'core' && OUTSIDE_CORE.test(name)) complain(file, `core may not import ${name}`);
        continue;
      }
      const target = relative('.', resolve(dirname(file), name)).split(/[\\/]/);
      const [top = ''] = target;
      if (top !== folder && !may.includes(top) && !(typeOnly && may.includes(`type:${top}`)))
        complain(file, `${folder} may not import ${target.join('/')}`);
      if (folder === 'core' && top === 'core') {
        const own = rank(relative('core', file).split(/[\\/]/)[0]);
        if (rank(target[1]) > own)
          complain(file, `${CORE_ORDER[Math.ceil(own)]} comes before ${target[1]} and may not import it`);
        if (rank(target[1]) < 0) complain(file, `core/${target[1]} has no place in the order`);
      }
      if (
        target.length > 3 &&
        top === folder &&
        folder === 'core' &&
        target[1] !== relative('core', file).split(/[\\/]/)[0] &&
        target.at(-1) !== 'index.ts'
      )
        complain(file, `${target.join('/')} is not the face of its folder`);
    }
  }
}
console.log(wrong === 0 ? 'imports point one way' : `${wrong} imports point the wrong way`);
process.exit(wrong === 0 ? 0 : 1);
