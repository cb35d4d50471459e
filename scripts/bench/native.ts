// The compiled fabric against C that a person writes of the same design, cycle by cycle, with the machine's own compiler.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { CLOCK } from '../../tests/circuits/index.ts';
import type { Compared } from './compared.ts';
import { lockhouseInC } from './native-demo.ts';

const TAPS = [3, -7, 12, 25, -41, 88, 190, 301, 301, 190, 88, -41, 25, 12, -7, 3];
const each = (text: (i: number) => string): string => TAPS.map((_, i) => text(i)).join(' ');

const FIR: Compared = {
  name: 'FIR filter, 16 taps',
  verilog: `module m(input clk, output [31:0] x);
    reg [15:0] s = 1; reg signed [31:0] y = 0; reg [31:0] sum = 0;
    ${each((i) => `reg signed [15:0] t${i} = 0;`)}
    always @(posedge clk) begin
      s <= {s[14:0], s[15] ^ s[13] ^ s[12] ^ s[10]};
      ${each((i) => `t${i} <= ${i === 0 ? 's' : `t${i - 1}`};`)}
      y <= ${TAPS.map((tap, i) => `t${i} * (${tap})`).join(' + ')};
      sum <= sum + y;
    end
    assign x = sum;
  endmodule`,
  before: `uint16_t s = 1; int32_t y = 0; uint32_t sum = 0; ${each((i) => `int16_t t${i} = 0;`)}`,
  cycle: `sum += y; y = ${TAPS.map((tap, i) => `t${i} * (${tap})`).join(' + ')};
    ${[...TAPS.keys()]
      .reverse()
      .map((i) => `t${i} = ${i === 0 ? '(int16_t)s' : `t${i - 1}`};`)
      .join(' ')}
    s = (uint16_t)(s << 1 | ((s >> 15 ^ s >> 13 ^ s >> 12 ^ s >> 10) & 1)); x = sum;`,
  cycles: 30_000_000,
};

const SIX_DIGITS: Compared = {
  name: 'clock on six digits',
  verilog: `${CLOCK.replace('module m(', 'module six(').replace('count == 11999999', 'count == 999')}
    module m(input clk, output [31:0] x); wire [41:0] d; six s(clk, d); reg [31:0] sum = 0;
    always @(posedge clk) sum <= sum * 3 + d[31:0]; assign x = sum; endmodule`,
  before: `static const uint8_t seg[16] = {63, 6, 91, 79, 102, 109, 125, 7, 127, 111};
    uint32_t count = 0, sum = 0; unsigned v[3] = {0}, o[3] = {0}, t[3] = {0}, d[3] = {0};`,
  cycle: `sum = sum * 3 + (uint32_t)(d[0] | d[1] << 14 | (uint64_t)d[2] << 28);
    for (int k = 0; k < 3; k++) { d[k] = seg[t[k]] << 7 | seg[o[k]]; o[k] = v[k] % 10; t[k] = v[k] / 10; }
    int up = count == 999, min = up && v[0] == 59, hour = min && v[1] == 59;
    count = up ? 0 : count + 1;
    if (up) v[0] = v[0] == 59 ? 0 : v[0] + 1;
    if (min) v[1] = v[1] == 59 ? 0 : v[1] + 1;
    if (hour) v[2] = v[2] == 99 ? 0 : v[2] + 1;
    x = sum;`,
  cycles: 20_000_000,
};

const constants = (text: string): string =>
  [...text.matchAll(/k = 32'h([0-9a-f]{8})/g)].map(([, hex]) => `0x${hex}`).join();

/** Block after block, each with the digest before it as its first half. FIPS 180-4. */
const sha256 = (text: string): Compared => ({
  name: 'SHA-256',
  verilog: `${text}
    module m(input clk, output [31:0] x); wire [255:0] d; wire done; reg started = 0; wire start = done | ~started;
    sha256 s(clk, 1'b0, start, {d, 256'd12345}, d, done);
    always @(posedge clk) started <= 1; assign x = d[31:0]; endmodule`,
  before: `static const uint32_t k[64] = {${constants(text)}};
    static const uint32_t h0[8] = {0x6a09e667, 0xbb67ae85, 0x3c6ef372, 0xa54ff53a, 0x510e527f, 0x9b05688c, 0x1f83d9ab, 0x5be0cd19};
    uint32_t r[8] = {0}, w[16] = {0}, dg[8] = {0}; int round = 0, done = 0, started = 0;
    #define ROT(v, n) ((v) >> (n) | (v) << (32 - (n)))`,
  cycle: `if (done || !started) {
      for (int i = 0; i < 8; i++) { r[i] = h0[i]; w[i] = dg[i]; w[i + 8] = i == 7 ? 12345 : 0; }
      round = 0; done = 0;
    } else if (round < 64) {
      uint32_t s0 = ROT(w[1], 7) ^ ROT(w[1], 18) ^ w[1] >> 3, s1 = ROT(w[14], 17) ^ ROT(w[14], 19) ^ w[14] >> 10;
      uint32_t t1 = r[7] + (ROT(r[4], 6) ^ ROT(r[4], 11) ^ ROT(r[4], 25)) + ((r[4] & r[5]) ^ (~r[4] & r[6])) + k[round] + w[0];
      uint32_t t2 = (ROT(r[0], 2) ^ ROT(r[0], 13) ^ ROT(r[0], 22)) + ((r[0] & r[1]) ^ (r[0] & r[2]) ^ (r[1] & r[2]));
      uint32_t next = s1 + w[9] + s0 + w[0];
      for (int i = 0; i < 15; i++) w[i] = w[i + 1];
      w[15] = next;
      r[7] = r[6]; r[6] = r[5]; r[5] = r[4]; r[4] = r[3] + t1; r[3] = r[2]; r[2] = r[1]; r[1] = r[0]; r[0] = t1 + t2;
      round++;
    } else if (round == 64) { for (int i = 0; i < 8; i++) dg[i] = h0[i] + r[i]; done = 1; round = 65; }
    started = 1; x = dg[7];`,
  cycles: 10_000_000,
});

const BATCH = 10_000;
const WARM_CALLS = 300;
const ROUNDS = 5;

interface Speed {
  readonly design: string;
  /** Time of the C against that of the fabric: 1 is as fast. */
  readonly ratio: number;
}

/** Null where the machine has no compiler. Fails where the two do not agree. */
export function againstC(): Speed[] | null {
  if (spawnSync('cc', ['--version']).status !== 0) return null;
  const designs = [sha256(readFileSync('tests/designs/sha256.v', 'utf8')), FIR, lockhouseInC(), SIX_DIGITS];
  return designs.map((design) => {
    const native = compiledC(design);
    try {
      const fabric = fabricOf(design);
      // A machine that others use too is slow now and then: each has its best run counted, taken by turns.
      const runs = Array.from({ length: ROUNDS }, () => ({ c: native.run(), own: fabric() }));
      for (const { c, own } of runs)
        if (c.x !== own.x) throw new Error(`${design.name}: C says ${c.x}, the fabric ${own.x}`);
      const best = (of: (run: (typeof runs)[number]) => Run) => Math.min(...runs.map((run) => of(run).seconds));
      return { design: design.name, ratio: best(({ c }) => c) / best(({ own }) => own) };
    } finally {
      native.remove();
    }
  });
}

interface Run {
  readonly x: number;
  readonly seconds: number;
}

function compiledC({ before, cycle, cycles }: Compared): { readonly run: () => Run; readonly remove: () => void } {
  const folder = mkdtempSync(join(tmpdir(), 'nimble-bench-'));
  const source = join(folder, 'a.c');
  writeFileSync(
    source,
    `#include <stdint.h>\n#include <stdio.h>\n#include <time.h>\nint main(void) { uint32_t x = 0;\n${before}\n` +
      `struct timespec a, b; clock_gettime(CLOCK_MONOTONIC, &a);\nfor (long n = 0; n < ${cycles}; n++) {\n${cycle}\n}\n` +
      'clock_gettime(CLOCK_MONOTONIC, &b);\n' +
      'printf("%u %.6f\\n", x, (b.tv_sec - a.tv_sec) + (b.tv_nsec - a.tv_nsec) / 1e9); return 0; }\n',
  );
  const made = spawnSync('cc', ['-O2', '-o', join(folder, 'a'), source], { encoding: 'utf8' });
  const remove = () => rmSync(folder, { recursive: true, force: true });
  if (made.status !== 0) {
    remove();
    throw new Error(made.stderr);
  }
  const run = () => {
    const [x = 0, seconds = 0] = spawnSync(join(folder, 'a'), { encoding: 'utf8' }).stdout.split(' ').map(Number);
    return { x, seconds };
  };
  return { run, remove };
}

function fabricOf({ verilog, cycles }: Compared): () => Run {
  const { netlist, messages } = elaborate([{ name: 'm.v', text: verilog }], { top: 'm' });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  const sim = new Simulator(optimise(netlist).netlist);
  const clock = sim.domain('clk');
  // The fast machine code is made while it runs, and taken at the next call; then from the beginning.
  for (let i = 0; i < WARM_CALLS; i++) sim.step(clock, BATCH);
  return () => {
    sim.powerUp();
    const start = performance.now();
    for (let i = 0; i < cycles; i += BATCH) sim.step(clock, BATCH);
    const seconds = (performance.now() - start) / 1000;
    return { x: Number(sim.getOutput('x')), seconds };
  };
}
