import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { firmwareProgram, firmwareWith } from '../../tests/support/firmware.ts';
import { framed } from '../wire/frames.ts';
import { wireTarget } from '../wire/index.ts';

const HERE = 'pod/firmware';
const own = readdirSync(HERE).filter((file) => /\.[ch]$/.test(file));
const text = (file: string) => readFileSync(join(HERE, file), 'utf8');
const hasCompiler = firmwareProgram() !== null;

describe('the firmware', () => {
  test('is 600 lines at most, of 120 columns, without a heap', () => {
    const lines = own.flatMap((file) => text(file).trimEnd().split('\n'));
    expect(lines.length).toBeLessThanOrEqual(600);
    expect(lines.filter((line) => line.length > 120)).toEqual([]);
    expect(own.filter((file) => /\b(malloc|calloc|realloc|free)\b|<stdlib/.test(text(file)))).toEqual([]);
  });

  test('asks ten functions of a chip at most', () => {
    const asked = text('hal.h').match(/^(void|bool|int|uint\d+_t) hal_\w+\(/gm) ?? [];
    expect(asked.length).toBeLessThanOrEqual(10);
    expect(asked.length).toBeGreaterThan(5);
  });

  test.skipIf(!hasCompiler)('is C99 that needs no library, and takes 4 KiB of memory with its stack', () => {
    const into = mkdtempSync(join(tmpdir(), 'nimble-firmware-'));
    const sources = own.filter((file) => file.endsWith('.c'));
    const flags = ['-std=c99', '-ffreestanding', '-Os', '-Wall', '-Wextra', '-Wpedantic', '-Werror', '-fstack-usage'];
    for (const file of sources) {
      const built = spawnSync('cc', [...flags, '-c', join(HERE, file), '-o', join(into, `${file}.o`)]);
      expect(String(built.stderr)).toBe('');
    }
    // Sections of memory that is written: as `size` counts them, text, data, bss.
    const sizes = spawnSync(
      'size',
      sources.map((file) => join(into, `${file}.o`)),
    )
      .stdout.toString()
      .split('\n')
      .slice(1);
    const memory = sizes.reduce((sum, line) => {
      const [, data = 0, bss = 0] = line.trim().split(/\s+/).map(Number);
      return sum + data + bss;
    }, 0);
    // All functions at once are more than any of their calls within one another, as none calls itself.
    const stacks = readdirSync(into)
      .filter((file) => file.endsWith('.su'))
      .flatMap((file) => readFileSync(join(into, file), 'utf8').trimEnd().split('\n'))
      .map((line) => Number(line.split('\t')[1]));
    const stack = stacks.reduce((sum, one) => sum + one, 0);
    console.info(`firmware: ${memory} bytes of memory, at most ${stack} of stack`);
    expect(stacks.length).toBeGreaterThan(10);
    expect(memory).toBeGreaterThan(3000);
    expect(memory + stack).toBeLessThanOrEqual(4096);
    const symbols = spawnSync('nm', ['-u', ...sources.map((file) => join(into, `${file}.o`))]).stdout.toString();
    const needed = [...new Set(symbols.match(/U \w+/g))].map((one) => one.slice(2));
    expect(needed.filter((name) => !/^(hal_|heard|frames_|work_|answer_)/.test(name))).toEqual([]);
  });
});

describe.skipIf(!hasCompiler)('whatever comes over its wire', () => {
  // Address and undefined-behaviour sanitizers end the program where it steps aside.
  const program = (): string => {
    try {
      return firmwareProgram(['-fsanitize=address,undefined', '-fno-sanitize-recover=all', '-g']) ?? '';
    } catch {
      console.info('This compiler has no sanitizers: what the firmware does wrong here may go unseen.');
      return firmwareProgram() ?? '';
    }
  };
  const chanceFrom = (seed: number) => () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };

  test.each([1, 2, 3])(
    'it stands, and answers the next hello (%i)',
    async (seed) => {
      const chance = chanceFrom(seed);
      const nat = (most: number) => Math.floor(chance() * (most + 1));
      const bytes = (most: number) => Uint8Array.from({ length: nat(most) }, () => nat(255));
      /** Commands that make sense, some with counts that do not. */
      const command = (): number[] => {
        const kind = nat(7);
        const short = [nat(40), 0, 0, 0];
        if (kind === 0) return [nat(31), ...bytes(4)];
        if (kind === 1) return [0x20 | nat(31), nat(255), nat(2), ...bytes(40)];
        if (kind === 2) return [0x40, ...short];
        if (kind === 3) return [0x60, ...short];
        return [(kind << 5) | nat(31), ...bytes(6)];
      };
      const ware = await firmwareWith(program());
      let ended = '';
      ware.firmware.process.once('exit', (code, signal) => {
        ended = `${code ?? signal}`;
      });
      for (let round = 0; round < 12; round++) {
        const pod = await wireTarget({ path: 'fuzz', baud: 1_000_000, open: ware.open });
        const { port } = ware.wire();
        for (let i = 0; i < 60; i++) {
          const kind = nat(5);
          if (kind === 0) port.write(bytes(600));
          else if (kind === 1) port.write(framed(Uint8Array.of(1 + nat(4), ...bytes(14))));
          else if (kind === 2) port.write(framed(Uint8Array.of(3, nat(255), nat(255), nat(2))));
          else if (kind === 3) port.write(framed(Uint8Array.of(2, nat(255), nat(255), ...bytes(700))));
          else {
            const body = Array.from({ length: 1 + nat(8) }, command).flat();
            port.write(framed(Uint8Array.of(2, nat(12), nat(12), ...body.slice(0, 395))));
          }
          if (nat(9) === 0) await new Promise((resolve) => setTimeout(resolve, 1));
        }
        await new Promise((resolve) => setTimeout(resolve, 5));
        pod.stop();
        expect(ended).toBe('');
      }
      const pod = await wireTarget({ path: 'fuzz', baud: 1_000_000, open: ware.open });
      ware.pins.cycles.length = 0;
      const [answer] = await pod.cable.run([
        { kind: 'shift', count: 24, tdi: Uint8Array.of(0xa5, 0x3c, 0x81), capture: true, exit: false },
      ]);
      expect(ware.pins.cycles.length).toBe(24);
      expect(answer?.length).toBe(3);
      expect(ended).toBe('');
      pod.stop();
      ware.stop();
    },
    60_000,
  );
});
