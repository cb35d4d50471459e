// A design without any register has no clock to sample by: its panel is clocked by TCK. (DESIGN 6)
import { chainOn } from '../tests/support/chain-on.ts';
import { expect, test } from 'vitest';
import { build } from '../core/build/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { drive, loadBitstream } from '../core/operations/index.ts';
import { missingNames, type ProbePlan } from '../core/probes/index.ts';
import { unwatched } from '../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from './index.ts';

const TEXT =
  'module gates(input a, input b, output y, output z);\n  wire [3:0] free;\n  wire both = a & b;\n  assign y = ' +
  'both ^ free[0];\n  assign z = ^free;\nendmodule\n';
const file = {
  format: 'nimble-project' as const,
  version: 3 as const,
  name: 't',
  part: 'CV25',
  grade: 2 as const,
  pins: 'pins.csv',
  clocks: {},
  accepted: [],
};
const plan: ProbePlan = {
  recorders: [],
  panels: [
    { name: 'p', clock: '', levers: ['gates.free', 'gates.both'], gauges: ['gates.y', 'gates.z', 'gates.both'] },
  ],
};

test('a panel in a design without a clock is built, read and driven', async () => {
  const result = build({
    project: {
      file,
      files: [
        { name: 't.v', text: TEXT },
        { name: 'pins.csv', text: 'a,P1\nb,P2\ny,P3\nz,P4\n' },
      ],
    },
    plan,
  });
  expect(result.clocks).toEqual([]);
  expect(result.messages.filter(({ severity }) => severity === 'error')).toEqual([]);
  expect(result.messages.map(({ message }) => message).join('\n')).not.toContain('gates."');
  const bits = readBitstream(result.bitstream ?? new Uint8Array());
  const bench = readBenchFile(JSON.stringify({ chain: [{ kind: 'corvane', part: 'CV25' }] }), 'gates');
  if (!bits.ok || !bench.ok || !result.probes) throw new Error('not built');
  const cable = new BenchCable(new Bench(bench.value));
  await loadBitstream(chainOn(cable), bits.value, null, unwatched);
  const request = { part: 'CV25', device: null, map: result.probes };
  for (const [free, both] of [
    [0n, 1n],
    [1n, 1n],
    [7n, 0n],
    [14n, 1n],
  ] as const) {
    const driven = await drive(chainOn(cable), { ...request, set: { 'gates.free': free, 'gates.both': both } });
    expect(driven.ok ? null : driven.error.message).toBeNull();
    const read = await drive(chainOn(cable), { ...request, set: {} });
    const parity = [...free.toString(2)].filter((bit) => bit === '1').length % 2;
    expect(read.ok && read.value.reading.gauges).toEqual({
      'gates.y': both ^ (free & 1n),
      'gates.z': BigInt(parity),
      'gates.both': both,
    });
  }
});

test('the empty clock is no name the design could lack', () => {
  const known = new Set(['gates.free', 'gates.both', 'gates.y', 'gates.z']);
  expect(missingNames(plan, known)).toEqual([]);
  expect(
    missingNames(
      { recorders: [], panels: [{ name: 'p', clock: 'gates.clk', levers: [], gauges: ['gates.y'] }] },
      known,
    ),
  ).toEqual(['gates.clk']);
});
