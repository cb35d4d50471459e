// `npm run demo`: from a fresh checkout to a running workbench with the demo board. Needs Node.js 20 and nothing else.
// Options by environment: PORT (3210), NIMBLE_HOME (var).
import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
process.chdir(root);
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';

const [major] = process.versions.node.split('.').map(Number);
if (major < 20) {
  console.error(`Node.js 20 or newer is needed; this is ${process.version}.`);
  process.exit(1);
}
if (!isInstalled()) run('Installing packages', npm, ['ci', '--no-audit', '--no-fund']);
if (isStale())
  run('Building the web application', process.execPath, [join('node_modules', 'next', 'dist', 'bin', 'next'), 'build']);

const home = process.env.NIMBLE_HOME ?? join(root, 'var');
mkdirSync(home, { recursive: true });
const port = await freePort(Number(process.env.PORT ?? 3210));
const podPort = await freePort(4711);
const token = randomBytes(16).toString('hex');
const address = `ws://127.0.0.1:${podPort}`;
const children = [];
let stopping = false;

// Each child leads a group of its own, so that ending the group leaves nothing behind.
start(
  'pod',
  [
    'cli/pod.mjs',
    '--bench',
    'demo/benches/lockhouse.bench.json',
    '--port',
    String(podPort),
    '--state',
    join(home, 'lockhouse'),
  ],
  { NIMBLE_POD_TOKEN: token },
);
start('web', ['cli/web.mjs', '--port', String(port)], {
  NIMBLE_HOME: home,
  NIMBLE_POD_ADDRESS: address,
  NIMBLE_POD_TOKEN: token,
});
process.on('SIGINT', () => stop(0));
process.on('SIGTERM', () => stop(0));
process.on('SIGHUP', () => stop(0));
process.on('exit', () => kill('SIGKILL'));
await ready(`http://127.0.0.1:${port}/bench`);
console.log(
  `\nNimble Signal is ready: http://127.0.0.1:${port}\nPod at ${address}, token ${token}\nCtrl-C stops both.\n`,
);

function run(what, command, args) {
  console.log(`${what} ...`);
  const { status } = spawnSync(command, args, { stdio: 'inherit' });
  if (status !== 0) {
    console.error(`${what} failed; see the lines above.`);
    process.exit(1);
  }
}

function isInstalled() {
  if (!existsSync(join('node_modules', 'next', 'package.json'))) return false;
  try {
    // The database driver is compiled at install; loading it tells whether that worked for this Node.js.
    new (createRequire(import.meta.url)('better-sqlite3'))(':memory:').close();
    return true;
  } catch {
    return false;
  }
}

/** Whether a source is newer than the built application. */
function isStale() {
  const mark = join('.next', 'BUILD_ID');
  if (!existsSync(mark)) return true;
  const built = statSync(mark).mtimeMs;
  const newer = (path) =>
    statSync(path).isDirectory()
      ? readdirSync(path).some((name) => newer(join(path, name)))
      : statSync(path).mtimeMs > built;
  return ['app', 'ui', 'server', 'core', 'bench', 'package-lock.json', 'next.config.ts'].some(newer);
}

function freePort(wanted) {
  const attempt = (port) =>
    new Promise((resolve) => {
      const probe = createServer();
      probe.once('error', () => resolve(null));
      probe.listen(port, '127.0.0.1', () => {
        const found = probe.address().port;
        probe.close(() => resolve(found));
      });
    });
  return attempt(wanted).then((port) => port ?? attempt(0));
}

function start(name, args, env) {
  const child = spawn(process.execPath, args, {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit'],
    detached: process.platform !== 'win32',
  });
  children.push(child);
  child.on('exit', (code) => {
    if (stopping) return;
    console.error(`The ${name} process ended by itself (${code}).`);
    stop(1);
  });
}

function kill(signal) {
  for (const child of children) {
    if (child.exitCode !== null || child.signalCode !== null) continue;
    try {
      if (process.platform === 'win32') child.kill(signal);
      else process.kill(-child.pid, signal);
    } catch {
      // it has ended in between
    }
  }
}

function stop(code) {
  if (stopping) return;
  stopping = true;
  kill('SIGTERM');
  const deadline = setTimeout(() => {
    kill('SIGKILL');
    process.exit(code);
  }, 3000);
  const poll = setInterval(() => {
    if (children.some((child) => child.exitCode === null && child.signalCode === null)) return;
    clearInterval(poll);
    clearTimeout(deadline);
    process.exit(code);
  }, 50);
}

async function ready(url) {
  for (let tries = 0; tries < 300; tries++) {
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      // not listening yet
    }
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  console.error(`The web application does not answer at ${url}.`);
  stop(1);
}
