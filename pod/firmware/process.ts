import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Duplex, type Readable, type Writable } from 'node:stream';

const SOURCES = ['frames.c', 'pod.c', 'host/hal_host.c'];
const PINS = 3;

/**
 * The firmware as a program of this computer, compiled where it is older than its sources. `options` are the compiler's
 * own. Null where there is no C compiler; throws with what the compiler said where it refuses.
 */
export function compiledFirmware(folder: string, into: string, options: readonly string[] = []): string | null {
  const name = ['firmware', ...options.map((option) => option.replace(/\W/g, ''))].join('-');
  const program = join(into, name);
  const newest = Math.max(...['', 'host'].flatMap((sub) => timesIn(join(folder, sub))));
  if (existsSync(program) && statSync(program).mtimeMs >= newest) return program;
  if (spawnSync('cc', ['--version']).error) return null;
  mkdirSync(into, { recursive: true });
  const made = `${program}.${process.pid}`;
  const flags = ['-std=c99', '-Wall', '-Wextra', '-Wpedantic', '-Werror', '-Os', ...options];
  const built = spawnSync('cc', [...flags, ...SOURCES.map((file) => join(folder, file)), '-o', made], {
    encoding: 'utf8',
  });
  if (built.status !== 0) throw new Error(`The firmware does not compile:\n${built.stderr}`);
  // Beside the one that others may be starting from, then put in its place.
  const moved = spawnSync('mv', ['-f', made, program]);
  if (moved.status !== 0) throw new Error(`${program} could not be written.`);
  return program;
}

const timesIn = (folder: string): number[] =>
  readdirSync(folder)
    .filter((file) => /\.[ch]$/.test(file))
    .map((file) => statSync(join(folder, file)).mtimeMs);

/** A firmware that runs. */
interface Firmware {
  /** Of its pseudo-terminal; empty where its wire is `stdio`. */
  readonly path: string;
  readonly process: ChildProcess;
  /** The wire, where it is standard input and output. */
  readonly stdio: { readonly write: Writable; readonly read: Readable } | null;
  stop(): void;
}

/** Starts it; `pins` answers for what it does to its pins, request by request. */
export async function startFirmware(
  program: string,
  pins: { take(bytes: Uint8Array): Promise<Uint8Array> },
  wire: 'terminal' | 'stdio' = 'terminal',
): Promise<Firmware> {
  const child = spawn(program, wire === 'stdio' ? ['--stdio'] : [], { stdio: ['pipe', 'pipe', 'inherit', 'pipe'] });
  const { stdin, stdout } = child;
  const socket = child.stdio[PINS];
  if (!stdin || !stdout || !(socket instanceof Duplex))
    throw new Error('The firmware has no standard input and output.');
  for (const stream of [stdin, socket]) stream.on('error', () => {});
  let last: Promise<void> = Promise.resolve();
  socket.on('data', (bytes: Buffer) => {
    last = last.then(async () => {
      const answer = await pins.take(new Uint8Array(bytes));
      if (answer.length > 0 && socket.writable) socket.write(answer);
    });
  });
  const path =
    wire === 'stdio'
      ? ''
      : await new Promise<string>((resolve, reject) => {
          stdout.once('data', (text: Buffer) => resolve(String(text).trim()));
          child.once('exit', () => reject(new Error('The firmware ended before it said where its wire is.')));
        });
  return {
    path,
    process: child,
    stdio: wire === 'stdio' ? { write: stdin, read: stdout } : null,
    stop: () => child.kill('SIGKILL'),
  };
}
