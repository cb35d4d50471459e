// `nimble drive`: a table of vectors on the hardware, and pulses, as a script asks for them.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { nimbleCommand } from '../support/command.ts';
import { describe, expect, test } from 'vitest';

const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const { at, nimble } = nimbleCommand();

const FLIP_FLOP = `module ff(input clk, en, input [7:0] d, output reg [7:0] q = 0);
  always @(posedge clk) if (en) q <= d;
endmodule
`;

/** Sources, pins and a table in a folder that is no project. */
function folderOf(name: string, table: string): string {
  mkdirSync(at(name), { recursive: true });
  for (const [file, text] of [
    ['ff.v', FLIP_FLOP],
    ['pins.csv', 'clk,P1\n'],
    ['ff.csv', table],
  ] as const)
    writeFileSync(at(`${name}/${file}`), text);
  return at(name);
}

/** A plan for a table in a folder. */
const planned = (folder: string, table: string, ...more: string[]) =>
  nimble('drive', 'plan', `${folder}/ff.v`, '--top', 'ff', '--vectors', `${folder}/${table}`, ...more, '--json');

/** A table in a folder, run. */
const run = (folder: string, ...more: string[]) =>
  nimble('drive', 'run', `${folder}/ff.nbits`, '--vectors', `${folder}/ff.csv`, ...more, ...BENCH);

/** A build with the plan for its table. */
function built(folder: string): string {
  const plan = planned(folder, 'ff.csv', '--out', `${folder}/ff.plan.json`);
  expect(plan.json).toMatchObject({ clock: 'clk', rows: 4 });
  const build = nimble(
    ...['build', `${folder}/ff.v`, '--top', 'ff', '--part', 'CV25', '--pins', `${folder}/pins.csv`],
    ...['--plan', `${folder}/ff.plan.json`, '--out', `${folder}/ff.nbits`, '--json'],
  );
  expect(build.status).toBe(0);
  return `${folder}/ff.nbits`;
}

const TABLE = 'en,d,=q\n0,5,0\n1,5,5\n0,9,5\n1,9,9\n';

describe('nimble drive', () => {
  test('plan, build, run: the same document as sim, in one call, beside the simulation of a folder of sources', () => {
    const folder = folderOf('good', TABLE);
    built(folder);
    const probes = ['--probes', `${folder}/ff.probes.json`];
    const ran = run(folder, ...probes);
    expect([ran.status, ran.json]).toEqual([0, { passed: 4, failed: 0, failures: [] }]);
    const simulated = nimble('sim', `${folder}/ff.v`, '--top', 'ff', '--vectors', `${folder}/ff.csv`, '--json');
    expect(simulated.json).toEqual(ran.json);
    const compared = run(folder, '--compare-with-simulation', folder);
    expect([compared.status, compared.json]).toEqual([0, { passed: 4, failed: 0, failures: [], differences: [] }]);
  });

  test('what is wrong is told by row, exit code 1; sources that are others differ from the hardware', () => {
    const folder = folderOf('bad', TABLE.replace('0,9,5', '0,9,6'));
    built(folder);
    const ran = run(folder);
    expect([ran.status, ran.json]).toEqual([
      1,
      { passed: 3, failed: 1, failures: [{ row: 3, port: 'q', expected: '6', actual: '5' }] },
    ]);
    const stopped = run(folder, '--stop-at-first');
    expect([stopped.status, stopped.json]).toMatchObject([1, { passed: 2, failed: 1, stopped: 'difference', rows: 3 }]);
    mkdirSync(at('other'), { recursive: true });
    writeFileSync(at('other/ff.v'), FLIP_FLOP.replace('q <= d', 'q <= d + 1'));
    const other = run(folder, '--compare-with-simulation', at('other'));
    expect(other.json.differences).toContainEqual({ row: 2, port: 'q', simulation: '6', hardware: '5' });
  });

  test('a table for an instance: planned, run and simulated on its ports inside another design', () => {
    const folder = folderOf('inside', TABLE);
    writeFileSync(
      `${folder}/top.v`,
      "module top(input clk, output [7:0] q); ff u_ff(.clk(clk), .en(1'b1), .d(8'd3), .q(q)); endmodule\n",
    );
    const inside = ['--top', 'top', '--instance', 'u_ff'];
    const sources = [`${folder}/top.v`, `${folder}/ff.v`];
    const plan = nimble(
      ...['drive', 'plan', ...sources, ...inside, '--vectors', `${folder}/ff.csv`],
      ...['--out', `${folder}/ff.plan.json`, '--json'],
    );
    expect(plan.status).toBe(0);
    const build = nimble(
      ...['build', ...sources, '--top', 'top', '--part', 'CV25', '--pins', `${folder}/pins.csv`],
      ...['--plan', `${folder}/ff.plan.json`, '--out', `${folder}/ff.nbits`, '--json'],
    );
    expect(build.status).toBe(0);
    const ran = run(folder, '--compare-with-simulation', folder, ...inside);
    expect([ran.status, ran.json]).toEqual([0, { passed: 4, failed: 0, failures: [], differences: [] }]);
    const none = run(folder, '--compare-with-simulation', folder, '--top', 'top', '--instance', 'u_none');
    expect([none.status, none.stderr]).toEqual([1, expect.stringContaining('no instance "u_none"')]);
  });

  test('a table that does not fit, and calls that are wrong', () => {
    const folder = folderOf('wrong', TABLE);
    const bits = built(folder);
    writeFileSync(`${folder}/more.csv`, 'en,more,=q\n0,5,0\n');
    const more = nimble('drive', 'run', bits, '--vectors', `${folder}/more.csv`, ...BENCH);
    expect([more.status, more.json]).toMatchObject([1, { problem: { code: 'vectors' } }]);
    const column = planned(folder, 'more.csv');
    expect([column.status, column.json]).toMatchObject([1, { problem: { code: 'vectors' } }]);
    const instance = planned(folder, 'ff.csv', '--instance', 'u_no');
    expect(instance.json).toMatchObject({ problem: { code: 'no-instance' } });
    expect(run(folder, '--seed', 'many').status).toBe(2);
    expect(nimble('drive', 'set', bits, 'ff.en=1', '--pulse', '0', ...BENCH).status).toBe(2);
    expect(nimble('drive', 'set', bits, 'ff.en=1', '--pulse', '3', ...BENCH).json).toMatchObject({
      problem: { code: 'no-pulse' },
    });
  });

  test('levers of a .nbits with its map, without a build', () => {
    const folder = folderOf('levers', TABLE);
    const bits = built(folder);
    writeFileSync(at('map.json'), readFileSync(`${folder}/ff.probes.json`));
    const set = nimble('drive', 'set', bits, 'ff.d=0x5A', 'ff.en=1', '--probes', at('map.json'), ...BENCH);
    expect([set.status, set.json]).toMatchObject([
      0,
      { panel: 'table', levers: { 'ff.d': { value: '90', released: false } }, gauges: { 'ff.q': '0' } },
    ]);
  });
});
