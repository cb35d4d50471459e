// npm leaves optional packages of other systems out of a lock file when the registry at hand does not serve them, and
// `npm ci` then refuses the file. Run this after every change of package-lock.json: it enters them by name and version.
import { readFileSync, writeFileSync } from 'node:fs';

const SYSTEMS = ['android', 'darwin', 'linux', 'win32', 'freebsd', 'netbsd', 'openbsd', 'sunos', 'aix', 'openharmony'];
const PROCESSORS = ['arm64', 'x64', 'ia32', 'arm', 'wasm32', 'ppc64', 's390x', 'riscv64', 'loong64', 'mips64el'];

const lock = JSON.parse(readFileSync('package-lock.json', 'utf8'));
const packages = { ...lock.packages };
let added = 0;
for (const [path, entry] of Object.entries(lock.packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const nested = path === '' ? `node_modules/${name}` : `${path}/node_modules/${name}`;
    if (packages[nested] || packages[`node_modules/${name}`]) continue;
    const words = name.split(/[/-]/);
    const cpu = PROCESSORS.find((processor) => words.includes(processor));
    const os = SYSTEMS.filter((system) => words.includes(system));
    packages[`node_modules/${name}`] = {
      version,
      ...(cpu ? { cpu: [cpu] } : {}),
      ...(entry.dev ? { dev: true } : {}),
      ...(words.includes('musl') ? { libc: ['musl'] } : {}),
      optional: true,
      ...(os.length > 0 ? { os } : {}),
    };
    added++;
  }
}
lock.packages = Object.fromEntries(Object.entries(packages).sort(([a], [b]) => (a < b ? -1 : 1)));
writeFileSync('package-lock.json', `${JSON.stringify(lock, null, 2)}\n`);
console.log(`${added} entries added`);
