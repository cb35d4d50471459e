// The `nimble` command as a script sees it: exit code, one JSON document, messages on standard error.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { WebSocket } from 'ws';
import { nimbleCommand } from '../support/command.ts';
import { describe, expect, test } from 'vitest';

const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const PLAN = ['--plan', 'demo/lockhouse/plans/passage.plan.json'];
const { at, file, nimble, run } = nimbleCommand();

/** Resolves once somebody holds the pod's lease. */
function leased(address: string): Promise<void> {
  return new Promise((resolve) => {
    const socket = new WebSocket(address);
    socket.on('error', () => {});
    socket.on('open', () => {
      socket.send(JSON.stringify({ id: 1, method: 'hello', token: 'right', client: 'watcher', protocol: 4 }));
      socket.send(JSON.stringify({ id: 2, method: 'watch' }));
    });
    socket.on('message', (data) => {
      const { status } = JSON.parse(String(data)) as { status?: { lease: string | null } };
      if (status?.lease) resolve();
    });
  });
}

/** An empty folder of a project, and what writes into it. */
function folderOf(name: string) {
  const folder = at(name);
  mkdirSync(folder, { recursive: true });
  return { folder, put: (path: string, text: string) => writeFileSync(`${folder}/${path}`, text) };
}

describe('nimble', () => {
  test('the file the package names starts and tells its commands', () => {
    const { status, stdout } = spawnSync(process.execPath, ['cli/nimble.mjs', '--help'], { encoding: 'utf8' });
    expect(status).toBe(0);
    for (const name of ['chain', 'build', 'load', 'flash', 'capture', 'drive', 'sim', 'svf', 'bsdl', 'image'])
      expect(stdout).toMatch(new RegExp(`^ +${name}\\b`, 'm'));
  });

  test('chain scan', () => {
    const { status, json } = nimble('chain', 'scan', ...BENCH);
    expect(status).toBe(0);
    expect(json).toMatchObject({
      devices: [
        { index: 0, idcode: '0x1C010FFD', irLength: 6, part: 'CV10' },
        { index: 1, part: 'CV25' },
        { index: 2, irLength: 5, part: 'SP64' },
      ],
      problems: [],
    });
    expect(json.tckCycles).toBeGreaterThan(0);
  });

  test('build, load, flash write with what a board keeps in a folder', () => {
    const built = nimble('build', 'demo/lockhouse', '--out', at('l.nbits'), '--json');
    expect(built.status).toBe(0);
    expect(built.json).toMatchObject({
      part: 'CV25',
      fingerprint: expect.stringMatching(/^[0-9a-f]{32}$/),
      messages: expect.arrayContaining([
        expect.objectContaining({
          severity: 'warning',
          code: 'undriven',
          file: 'rtl/lockhouse.v',
          line: expect.any(Number),
          column: expect.any(Number),
        }),
      ]),
    });
    const loaded = nimble('load', at('l.nbits'), ...BENCH);
    expect(loaded.status).toBe(0);
    expect(loaded.json).toMatchObject({
      done: true,
      device: 1,
      problem: null,
      status: { done: true },
      payloadBits: expect.any(Number),
      tckCycles: expect.any(Number),
    });
    const kept = nimble('flash', 'write', at('l.nbits'), ...BENCH, '--state', at('board'), '--rehearse');
    expect(kept.status).toBe(0);
    expect(kept.json).toMatchObject({
      verified: true,
      sectorsErased: 0,
      rehearsal: { done: true, sameFingerprint: true },
    });
  });

  test('build tells timing, resources by instance and lamp rates; a clock can be given', () => {
    const { json } = nimble('build', 'demo/lockhouse', '--clock', 'clk=200e6', '--json');
    expect(json).toMatchObject({
      timing: {
        clocks: expect.arrayContaining([
          expect.objectContaining({
            clock: 'clk',
            wanted: 200e6,
            highest: expect.any(Number),
            paths: expect.any(Array),
          }),
        ]),
      },
      lampRates: expect.arrayContaining([
        expect.objectContaining({ port: 'lamp', bit: 6 }),
        expect.objectContaining({ port: 'lamp', bit: 7 }),
      ]),
    });
    expect((json.instances as { path: string }[]).map((use) => use.path)).toContain('lockhouse.u_sequencer');
    expect(nimble('build', 'demo/lockhouse', '--clock', 'clk', '--json').status).toBe(2);
  });

  test('build goes by the timing table that lies with the project, and says what is wrong in it by line', () => {
    const { folder, put } = folderOf('timed');
    put(
      'top.v',
      'module top(input clk, go, output reg y); reg [15:0] n; always @(posedge clk) begin n <= n + go; y <= ^n; end endmodule',
    );
    put('pins.csv', 'port,pin\nclk,P1\ngo,P5\ny,P26\n');
    put(
      'nimble.json',
      JSON.stringify({ format: 'nimble-project', version: 3, name: 'Timed', part: 'CV25', clocks: { clk: 350e6 } }),
    );
    const built = () => nimble('build', folder, '--json');
    const slow = built();
    const codes = ({ json }: ReturnType<typeof built>) =>
      (json.messages as { code: string; file: string; line: number }[]).map(
        ({ code, file, line }) => `${code} ${file}:${line}`,
      );
    expect(codes(slow).some((one) => one.startsWith('clock-too-fast'))).toBe(true);
    put('timing.csv', 'kind,from,to,value\nmulticycle,n,*,3\noutput delay,y,clk,4 ns\nmulticycle,n\n');
    const ruled = built();
    expect(
      codes(ruled)
        .filter((one) => one.includes('timing.csv'))
        .sort(),
    ).toEqual(['port-too-slow timing.csv:3', 'timing-table timing.csv:4']);
    expect(codes(ruled).some((one) => one.startsWith('clock-too-fast'))).toBe(false);
    expect(ruled.json.fingerprint).toBe(slow.json.fingerprint);
    const text = spawnSync(process.execPath, ['cli/nimble.mjs', 'build', folder], { encoding: 'utf8' }).stdout;
    expect(text).toMatch(/clk: up to [\d.]+ MHz \(estimate\), wanted 350\.00 MHz, [\d.]+ ns to spare/);
    expect(text).toMatch(/timing\.csv: 0 ways left out, \d+ ways of several cycles/);
  });

  test('build and sim know the clock generator of the part: what it makes, and when it locks', () => {
    const { folder, put } = folderOf('made');
    put(
      'top.v',
      'module top(input clk, output reg [3:0] q, output ok); wire f;\n' +
        'corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8)) u_g (.clock_in(clk), .clock_a(f), .locked(ok));\n' +
        'always @(posedge f) q <= q + 1; endmodule',
    );
    put('pins.csv', 'port,pin\nclk,P1\nok,P5\nq[0],P26\n');
    put(
      'nimble.json',
      JSON.stringify({ format: 'nimble-project', version: 3, name: 'Made', part: 'CV25', clocks: { clk: 12e6 } }),
    );
    const built = nimble('build', folder, '--json');
    expect(built.status).toBe(0);
    expect(built.json).toMatchObject({
      generators: [{ path: 'u_g', input: 'clk', outputs: [{ clock: 'u_g.clock_a', divider: 8 }] }],
      timing: {
        clocks: [{ clock: 'u_g.clock_a', wanted: 48e6, made: { source: 'clk', times: 4, over: 1 } }],
        crossings: [],
      },
    });
    put('top.csv', 'cycles,=ok\n64,0\n1,1\n100,1\n');
    const run = nimble('sim', `${folder}/top.v`, '--top', 'top', '--vectors', `${folder}/top.csv`, '--json');
    expect([run.status, run.json]).toMatchObject([0, { passed: 3, failed: 0 }]);
    put('top.v', 'module top(input clk, output q); corvane_clock_generator g (.clock_in(clk), .clock_a(q)); endmodule');
    const wrong = nimble('build', folder, '--json');
    expect(wrong.status).toBe(1);
    const codes = (wrong.json.messages as { code: string }[]).map(({ code }) => code);
    expect(codes.filter((code) => code === 'generator-range')).toHaveLength(2);
  });

  test('sim: rows that pass, rows that fail, parameters, wrong calls', () => {
    const passed = nimble(
      'sim',
      'demo/lockhouse',
      '--top',
      'chamber',
      '--vectors',
      'demo/lockhouse/vectors/chamber.vectors.csv',
      '--out',
      at('chamber.vcd'),
      '--json',
    );
    expect(passed).toMatchObject({ status: 0, json: { passed: 6, failed: 0, failures: [] } });
    expect(readFileSync(at('chamber.vcd'), 'utf8')).toMatch(/\$var wire 12 \S+ chamber\/level \[11:0\] \$end/);
    writeFileSync(
      at('add.v'),
      'module add #(parameter W = 2) (input [W-1:0] a, b, output [W:0] s); assign s = a + b; endmodule',
    );
    writeFileSync(at('add.csv'), 'a,b,=s\n3,3,6\n1,1,3\n');
    expect(nimble('sim', at('add.v'), '--top', 'add', '--vectors', at('add.csv'), '--json')).toMatchObject({
      status: 1,
      json: { passed: 1, failed: 1, failures: [{ row: 2, port: 's', expected: '3', actual: '2' }] },
    });
    writeFileSync(at('wide.csv'), 'a,b,=s\n0xff,1,0x100\n');
    expect(
      nimble('sim', at('add.v'), '--top', 'add', '--param', 'W=8', '--vectors', at('wide.csv'), '--json'),
    ).toMatchObject({ status: 0, json: { passed: 1, failed: 0 } });
    const wrong = nimble('sim', at('add.v'), '--top', 'add', '--vectors', at('wide.csv'), '--json');
    expect(wrong).toMatchObject({ status: 1, json: { problem: { code: 'vectors' } } });
    expect(nimble('sim', at('add.v'), '--json').status).toBe(2);
    expect(nimble('sim', at('add.v'), '--param', 'W', '--vectors', at('add.csv')).status).toBe(2);
  });

  test('sim --testbench: what it prints and nothing else, a document, what makes it fail', () => {
    const demo = run('sim', 'demo/lockhouse', '--testbench', 'lockhouse_tb', '--plusarg', 'boats=1');
    expect(demo.status).toBe(0);
    expect(demo.stdout.split('\n').slice(-2)).toEqual(['2 gates opened, 1 passages, 0 faults', '']);
    expect(demo.stdout).toMatch(/^1 boats\n +129\.0 us {2}says: Lockhouse 7 ready\n/);
    writeFileSync(at('lib.vh'), '`define HALF 5\n');
    writeFileSync(
      at('dut.v'),
      'module dut(input clk, output reg [3:0] q = 0); always @(posedge clk) q <= q + 1; endmodule',
    );
    writeFileSync(
      at('tb.v'),
      '`timescale 1ns/1ns\n`include "lib.vh"\nmodule tb #(parameter N = 3); reg clk = 0; wire [3:0] q; dut u(clk, q); always #`HALF clk = ~clk;\n' +
        'initial begin repeat (N) @(posedge clk); #1 $display("q=%0d", q); if ($test$plusargs("BAD")) $error("bad"); $finish; end endmodule',
    );
    const files = [at('tb.v'), at('dut.v'), '--testbench', 'tb'];
    const good = nimble('sim', ...files, '--out', at('tb.vcd'), '--json');
    expect(good).toMatchObject({
      status: 0,
      json: { finished: '$finish', time: '26 ns', errors: 0, output: ['q=3'], problem: null },
    });
    expect(readFileSync(at('tb.vcd'), 'utf8')).toMatch(/\$timescale 1 ns \$end[\s\S]*#25\n/);
    expect(nimble('sim', ...files, '--param', 'N=7', '--json').json).toMatchObject({ output: ['q=7'] });
    expect(nimble('sim', ...files, '--plusarg', 'BAD', '--json')).toMatchObject({ status: 1, json: { errors: 1 } });
    expect(nimble('sim', ...files, '--until', '20ns', '--json')).toMatchObject({
      status: 1,
      json: { finished: 'limit', time: '20 ns', problem: { code: 'simulation-limit' } },
    });
    expect(nimble('sim', at('dut.v'), '--testbench', 'gone', '--json').status).toBe(1);
    expect(nimble('sim', ...files, '--until', 'soon').status).toBe(2);
  });

  test('build: a testbench beside the design breaks nothing, and parameters of the top', () => {
    const built = nimble('build', at('dut.v'), at('tb.v'), '--part', 'CV25', '--json');
    expect(built.json).toMatchObject({ top: 'dut' });
    expect(built.stderr).toContain('"tb" looks like a testbench');
    writeFileSync(
      at('wide.v'),
      'module wide #(parameter W = 2) (input [W-1:0] a, output [W-1:0] y); assign y = ~a; endmodule',
    );
    const wide = nimble('build', at('wide.v'), '--part', 'CV25', '--param', 'W=0x5', '--json');
    expect(wide.stderr).not.toContain('error: "W"');
    expect(nimble('build', at('wide.v'), '--part', 'CV25', '--param', 'W', '--json').status).toBe(2);
  });

  test('build: loose sources with what they include beside them and in folders of their own', () => {
    for (const folder of ['loose', 'loose/common']) mkdirSync(at(folder), { recursive: true });
    writeFileSync(
      at('loose/x.v'),
      '`include "y.vh"\n`include "z.vh"\nmodule x(input clk, output reg [`W-1:0] q);\n' +
        '  always @(posedge clk) q <= q + `STEP;\nendmodule\n',
    );
    writeFileSync(at('loose/y.vh'), '`define W 4\n');
    writeFileSync(at('loose/common/z.vh'), '`define STEP 3\n');
    const loose = ['build', at('loose/x.v'), '--part', 'CV10', '--json'];
    const built = nimble(...loose, '-I', at('loose/common'));
    expect(built.status).toBe(0);
    expect(built.json).toMatchObject({ top: 'x', resources: { registers: 4 } });
    const without = nimble(...loose);
    expect(without.status).toBe(1);
    expect(without.stderr).toContain('x.v:2:1: error: The included file "z.vh" is not among the project\'s files.');
  });

  test('capture and drive', () => {
    const captured = nimble(
      'capture',
      'demo/lockhouse',
      ...PLAN,
      ...BENCH,
      '--when',
      'want_upper == 1',
      '--before',
      '64',
      '--press',
      'B0',
      '--out',
      at('c.vcd'),
    );
    expect(captured.status).toBe(0);
    expect(captured.json).toMatchObject({
      samples: 1024,
      triggerIndex: 64,
      sampleRate: 12_000_000,
      signals: expect.arrayContaining([{ name: 'lockhouse.level', width: 12, domain: 'lockhouse.clk' }]),
    });
    expect(readFileSync(at('c.vcd'), 'utf8')).toMatch(/^\$date/);
    const moved = nimble('drive', 'set', 'demo/lockhouse', 'lockhouse.level_trim=0x10', ...PLAN, ...BENCH);
    expect(moved.json).toMatchObject({ levers: { 'lockhouse.level_trim': { value: '16' } } });
    expect(nimble('drive', 'get', 'demo/lockhouse', ...PLAN, ...BENCH).json).toMatchObject({
      gauges: { 'lockhouse.level': '0' },
    });
  });

  test('without a bench the one that the project names is used; what is switched off in a plan is not built; a recorder of another clock has its own rate', () => {
    const slow = {
      name: 'slow',
      clock: 'lockhouse.clk10',
      depth: 64,
      comparators: 1,
      signals: ['lockhouse.u_converter.at'],
    };
    const plan = {
      format: 'nimble-probe-plan',
      version: 1,
      name: 'two',
      recorders: [
        { name: 'gone', off: true, clock: 'lockhouse.clk', depth: 64, signals: ['lockhouse.nowhere'] },
        { name: 'fast', clock: 'lockhouse.clk', depth: 64, comparators: 1, signals: ['lockhouse.gate_upper'] },
        slow,
      ],
      panels: [],
    };
    writeFileSync(at('two.probes.json'), JSON.stringify(plan));
    const taken = run(
      'capture',
      'demo/lockhouse',
      '--plan',
      at('two.probes.json'),
      '--recorder',
      'slow',
      '--out',
      at('slow.vcd'),
      '--json',
    );
    expect(JSON.parse(taken.stdout)).toMatchObject({
      samples: 64,
      sampleRate: 10_000_000,
      signals: [{ name: 'lockhouse.u_converter.at', width: 14, domain: 'lockhouse.clk10' }],
    });
    const still = run('capture', 'demo/lockhouse', '--plan', at('two.probes.json'), '--json');
    expect(still.stderr).toContain(
      'lockhouse.gate_upper is 0 in the whole record. It is decided by u_sequencer.state.',
    );
    expect(nimble('drive', 'get', 'demo/lockhouse', '--plan', at('two.probes.json'), '--json').json).toMatchObject({
      problem: { code: expect.any(String) },
    });
  });

  test('wave: what a dump holds, a value at a time, and what is wrong with a broken one', () => {
    const captured = nimble('capture', 'demo/lockhouse', ...PLAN, ...BENCH, '--when', '', '--out', at('w.vcd'));
    expect(captured.status).toBe(0);
    const info = nimble('wave', 'info', at('w.vcd'), '--json');
    expect(info.json).toMatchObject({
      valid: true,
      timescale: '1ps',
      signals: 7,
      endTime: String(Math.round(1024e12 / 12e6)),
      problems: [],
    });
    expect(info.json.names).toContain('lockhouse.u_sequencer.state');
    const value = (...args: string[]) => run('wave', 'value', at('w.vcd'), ...args);
    expect(value('--signal', 'lockhouse.u_sequencer.state', '--at', '0').stdout).toBe('000\n');
    expect(value('--signal', 'lockhouse.level', '--at', '1us').stdout).toMatch(/^[01]{12}\n$/);
    expect([
      value('--signal', 'lockhouse.levl', '--at', '0').status,
      value('--signal', 'lockhouse.level', '--at', 'soon').status,
    ]).toEqual([1, 2]);
    writeFileSync(at('bad.vcd'), `${readFileSync(at('w.vcd'), 'utf8')}\n1?\n`);
    const bad = nimble('wave', 'info', at('bad.vcd'), '--json');
    expect([bad.status, bad.json.valid, (bad.json.problems as { code: string }[])[0]?.code]).toEqual([
      1,
      false,
      'vcd-unknown-code',
    ]);
  });

  test('work that fails exits with 1 and says why', () => {
    writeFileSync(at('notes.nbits'), 'shopping list');
    expect(nimble('load', at('notes.nbits'), ...BENCH)).toMatchObject({
      status: 1,
      json: { done: false, problem: { code: 'not-a-bitstream' } },
    });
    writeFileSync(at('short.nbits'), readFileSync(at('l.nbits')).subarray(0, 9000));
    expect(nimble('load', at('short.nbits'), ...BENCH)).toMatchObject({
      status: 1,
      json: { problem: { code: 'bitstream-truncated' } },
    });
    const flipped = readFileSync(at('l.nbits'));
    flipped[200_000] = (flipped[200_000] as number) ^ 1;
    writeFileSync(at('flipped.nbits'), flipped);
    expect(nimble('load', at('flipped.nbits'), ...BENCH)).toMatchObject({
      status: 1,
      json: { done: false, status: { crcError: true, done: false }, problem: { code: 'crc-error' } },
    });
    writeFileSync(at('bad.v'), 'module bad(output y);\n  assign y = 1 +;\nendmodule\n');
    const bad = nimble('build', at('bad.v'), '--part', 'CV25', '--json');
    expect(bad).toMatchObject({
      status: 1,
      json: { messages: [{ severity: 'error', code: 'syntax', file: 'bad.v', line: 2, column: 17 }] },
    });
    expect(bad.stderr).toContain('bad.v:2:17: error');
    expect(nimble('chain', 'scan', '--pod', 'ws://127.0.0.1:9', '--json')).toMatchObject({
      status: 1,
      json: { problem: { code: 'no-pod' } },
    });
    expect(
      nimble('capture', 'demo/lockhouse', ...PLAN, ...BENCH, '--when', 'state == 7', '--timeout', '0.2'),
    ).toMatchObject({ status: 1, json: { problem: { code: 'no-trigger' } } });
  });

  test('a pod: scanned with its token, refused with another, lost in the middle of a load, and good for the next one', async () => {
    const started = async () => {
      const pod = spawn(process.execPath, ['cli/pod.mjs', '--port', '0', '--token', 'right'], {
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      const line = await new Promise<string>((resolve) => pod.stdout.once('data', (data) => resolve(String(data))));
      return { pod, address: /ws:\S+/.exec(line)?.[0] ?? '' };
    };
    const first = await started();
    expect(nimble('chain', 'scan', '--pod', first.address, '--token', 'right', '--json')).toMatchObject({
      status: 0,
      json: { devices: [{}, {}, {}] },
    });
    expect(nimble('chain', 'scan', '--pod', first.address, '--token', 'wrong', '--json')).toMatchObject({
      status: 1,
      json: { problem: { code: 'pod-token' } },
    });
    const loading = spawn(
      process.execPath,
      [file(), 'load', at('l.nbits'), '--pod', first.address, '--token', 'right', '--json'],
      { stdio: ['ignore', 'pipe', 'pipe'] },
    );
    let answer = '';
    loading.stdout.on('data', (data) => {
      answer += String(data);
    });
    await leased(first.address);
    first.pod.kill('SIGKILL');
    const status = await new Promise<number | null>((resolve) => loading.once('exit', resolve));
    expect([status, (JSON.parse(answer) as { problem: { code: string } }).problem.code]).toEqual([1, 'pod-lost']);
    const second = await started();
    expect(nimble('load', at('l.nbits'), '--pod', second.address, '--token', 'right', '--json')).toMatchObject({
      status: 0,
      json: { done: true },
    });
    second.pod.kill('SIGKILL');
  });

  test('a wrong call exits with 2', () => {
    expect(nimble('chain', 'scan').status).toBe(2);
    expect(nimble('load', at('missing.nbits'), ...BENCH).status).toBe(2);
    expect(nimble('juggle').status).toBe(2);
    expect(nimble('load').status).toBe(2);
  });
});
