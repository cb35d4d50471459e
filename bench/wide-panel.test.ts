// Panels as wide as the largest part takes: a gauge of 4,096 bits, a lever of 2,048. A lever takes two flip-flops a
// bit, so one of 4,096 bits fits no Corvane.
import { chainOn } from '../tests/support/chain-on.ts';
import { expect, test } from 'vitest';
import { build } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { drive, loadBitstream } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

/** A design that repeats a count over a wide word, and folds a free one to parities of 64 bits. */
function built(gauge: number, lever: number) {
  const folds = lever / 64;
  const text = `module t(input clk, output y);
    wire [${lever - 1}:0] lever;
    reg [7:0] count = 0;
    always @(posedge clk) count <= count + 1;
    wire [${gauge - 1}:0] gauge = {${gauge / 8}{count}};
    wire [${folds - 1}:0] folded;
    genvar i;
    generate for (i = 0; i < ${folds}; i = i + 1) begin : fold assign folded[i] = ^lever[64*i +: 64]; end endgenerate
    assign y = ^folded ^ count[7];
  endmodule`;
  const file = {
    format: 'nimble-project' as const,
    version: 3 as const,
    name: 't',
    part: 'CV60',
    grade: 2 as const,
    pins: 'pins.csv',
    clocks: { clk: 1e6 },
    accepted: [],
  };
  return build({
    project: {
      file,
      files: [
        { name: 't.v', text },
        { name: 'pins.csv', text: 'clk,A1\ny,A3\n' },
      ],
    },
    plan: {
      recorders: [],
      panels: [{ name: 'p', clock: 't.clk', levers: ['t.lever'], gauges: ['t.gauge', 't.folded'] }],
    },
  });
}

test.each([
  [4096, 64],
  [64, 2048],
])(
  'a gauge of %i bits is read in one coherent look, a lever of %i drives every bit of a free input',
  async (gauge, lever) => {
    const result = built(gauge, lever);
    expect(result.messages.filter(({ severity }) => severity === 'error').map(({ message }) => message)).toEqual([]);
    const bits = readBitstream(result.bitstream ?? new Uint8Array());
    const bench = readBenchFile(
      JSON.stringify({
        chain: [{ kind: 'corvane', part: 'CV60' }],
        board: { oscillators: [{ name: 'X', pin: 'A1', hz: 1_000_000 }] },
      }),
      'wide',
    );
    if (!bits.ok || !bench.ok || !result.probes) throw new Error('not built');
    const cable = new BenchCable(new Bench(bench.value));
    await loadBitstream(chainOn(cable), bits.value, null, unwatched);
    const value = Array.from(
      { length: lever / 32 },
      (_, i) => BigInt((Math.imul(i + 1, 2654435761) ^ (i << 7)) >>> 0) << BigInt(32 * i),
    ).reduce((a, b) => a | b);
    const request = { part: 'CV60', device: null, map: result.probes };
    const set = await drive(chainOn(cable), { ...request, set: { 't.lever': value } });
    expect(set.ok ? null : set.error.message).toBeNull();
    const read = await drive(chainOn(cable), { ...request, set: {} });
    if (!read.ok) throw new Error(read.error.message);
    const { gauges, levers } = read.value.reading;
    expect(levers['t.lever']?.value).toBe(value);
    const ones = (part: bigint) => part.toString(2).replaceAll('0', '').length;
    expect(gauges['t.folded']).toBe(
      Array.from(
        { length: lever / 64 },
        (_, i) => BigInt(ones(BigInt.asUintN(64, value >> BigInt(64 * i))) % 2) << BigInt(i),
      ).reduce((a, b) => a | b),
    );
    // Every repetition shows the same count: the word was taken at one edge.
    const byte = (gauges['t.gauge'] as bigint) & 0xffn;
    expect(gauges['t.gauge']).toBe(
      BigInt(
        `0x${byte
          .toString(16)
          .padStart(2, '0')
          .repeat(gauge / 8)}`,
      ),
    );
  },
);

test('a lever of 4,096 bits is refused by the build, with what takes most', () => {
  const messages = built(64, 4096)
    .messages.filter(({ severity }) => severity === 'error')
    .map(({ message }) => message);
  expect(messages[0]).toMatch(/(LUTs|flip-flops); a CV60 has 6000\. To cut: probes\.nimble_debug\.core_1/);
});
