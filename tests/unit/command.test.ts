// The `nimble` command as a script sees it: exit code, one JSON document, messages on standard error.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import referenceCrc from 'crc-32';
import { WebSocket } from 'ws';
import { type BundledCommand, bundleCommand } from '../support/command.ts';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const PLAN = ['--plan', 'demo/lockhouse/plans/passage.plan.json'];
let folder: string;
let command: BundledCommand;
const at = (name: string) => join(folder, name);

function nimble(...args: string[]): { status: number | null; json: Record<string, unknown>; stderr: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [command.file, ...args], { encoding: 'utf8' });
  return { status, json: stdout.trim() === '' ? {} : (JSON.parse(stdout) as Record<string, unknown>), stderr };
}

/** Resolves once somebody holds the pod's lease. */
function leased(address: string): Promise<void> {
  return new Promise((resolve) => {
    const socket = new WebSocket(address);
    socket.on('error', () => {});
    socket.on('open', () => {
      socket.send(JSON.stringify({ id: 1, method: 'hello', token: 'right', client: 'watcher', protocol: 2 }));
      socket.send(JSON.stringify({ id: 2, method: 'watch-panel' }));
    });
    socket.on('message', (data) => {
      const { panel } = JSON.parse(String(data)) as { panel?: { lease: string | null } };
      if (panel?.lease) resolve();
    });
  });
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-cli-'));
  command = await bundleCommand();
});
afterAll(() => {
  rmSync(folder, { recursive: true });
  command?.remove();
});

describe('nimble', () => {
  test('the file the package names starts and tells its commands', () => {
    const { status, stdout } = spawnSync(process.execPath, ['cli/nimble.mjs', '--help'], { encoding: 'utf8' });
    expect(status).toBe(0);
    for (const name of ['chain', 'build', 'load', 'flash', 'capture', 'drive', 'sim', 'svf', 'bsdl', 'image']) expect(stdout).toMatch(new RegExp(`^ +${name}\\b`, 'm'));
  });

  test('chain scan', () => {
    const { status, json } = nimble('chain', 'scan', ...BENCH);
    expect(status).toBe(0);
    expect(json).toMatchObject({ devices: [{ index: 0, idcode: '0x1C010FFD', irLength: 6, part: 'CV10' }, { index: 1, part: 'CV25' }, { index: 2, irLength: 5, part: 'SP64' }], problems: [] });
    expect(json.tckCycles).toBeGreaterThan(0);
  });

  test('build, load, flash write with what a board keeps in a folder', () => {
    const built = nimble('build', 'demo/lockhouse', '--out', at('l.nbits'), '--json');
    expect(built.status).toBe(0);
    expect(built.json).toMatchObject({ part: 'CV25', fingerprint: expect.stringMatching(/^[0-9a-f]{32}$/), messages: [{ severity: 'warning', code: 'undriven', file: 'rtl/lockhouse.v', line: expect.any(Number), column: expect.any(Number) }] });
    const loaded = nimble('load', at('l.nbits'), ...BENCH);
    expect(loaded.status).toBe(0);
    expect(loaded.json).toMatchObject({ done: true, device: 1, problem: null, status: { done: true }, payloadBits: expect.any(Number), tckCycles: expect.any(Number) });
    const kept = nimble('flash', 'write', at('l.nbits'), ...BENCH, '--state', at('board'), '--rehearse');
    expect(kept.status).toBe(0);
    expect(kept.json).toMatchObject({ verified: true, sectorsErased: 0, rehearsal: { done: true, sameFingerprint: true } });
  });

  test('build tells timing, resources by instance and lamp rates; a clock can be given', () => {
    const { json } = nimble('build', 'demo/lockhouse', '--clock', 'clk=200e6', '--json');
    expect(json).toMatchObject({ timing: { clocks: [{ clock: 'clk', wanted: 200e6, highest: expect.any(Number), paths: expect.any(Array) }] }, lampRates: [{ port: 'lamp', bit: 6 }, { port: 'lamp', bit: 7 }] });
    expect((json.instances as { path: string }[]).map((use) => use.path)).toContain('lockhouse.u_sequencer');
    expect(nimble('build', 'demo/lockhouse', '--clock', 'clk', '--json').status).toBe(2);
  });

  test('sim: rows that pass, rows that fail, parameters, wrong calls', () => {
    const passed = nimble('sim', 'demo/lockhouse', '--top', 'chamber', '--vectors', 'demo/lockhouse/vectors/chamber.vectors.csv', '--out', at('chamber.vcd'), '--json');
    expect(passed).toMatchObject({ status: 0, json: { passed: 6, failed: 0, failures: [] } });
    expect(readFileSync(at('chamber.vcd'), 'utf8')).toMatch(/\$var wire 12 \S+ chamber\/level \[11:0\] \$end/);
    writeFileSync(at('add.v'), 'module add #(parameter W = 2) (input [W-1:0] a, b, output [W:0] s); assign s = a + b; endmodule');
    writeFileSync(at('add.csv'), 'a,b,=s\n3,3,6\n1,1,3\n');
    expect(nimble('sim', at('add.v'), '--top', 'add', '--vectors', at('add.csv'), '--json')).toMatchObject({ status: 1, json: { passed: 1, failed: 1, failures: [{ row: 2, port: 's', expected: '3', actual: '2' }] } });
    writeFileSync(at('wide.csv'), 'a,b,=s\n0xff,1,0x100\n');
    expect(nimble('sim', at('add.v'), '--top', 'add', '--param', 'W=8', '--vectors', at('wide.csv'), '--json')).toMatchObject({ status: 0, json: { passed: 1, failed: 0 } });
    const wrong = nimble('sim', at('add.v'), '--top', 'add', '--vectors', at('wide.csv'), '--json');
    expect(wrong).toMatchObject({ status: 1, json: { problem: { code: 'vectors' } } });
    expect(nimble('sim', at('add.v'), '--json').status).toBe(2);
    expect(nimble('sim', at('add.v'), '--param', 'W', '--vectors', at('add.csv')).status).toBe(2);
  });

  test('capture and drive', () => {
    const captured = nimble('capture', 'demo/lockhouse', ...PLAN, ...BENCH, '--when', 'want_upper == 1', '--before', '64', '--press', 'B0', '--out', at('c.vcd'));
    expect(captured.status).toBe(0);
    expect(captured.json).toMatchObject({ samples: 1024, triggerIndex: 64, sampleRate: 12_000_000, signals: expect.arrayContaining([{ name: 'lockhouse.level', width: 12, domain: 'lockhouse.clk' }]) });
    expect(readFileSync(at('c.vcd'), 'utf8')).toMatch(/^\$date/);
    const moved = nimble('drive', 'set', 'demo/lockhouse', 'lockhouse.level_trim=0x10', ...PLAN, ...BENCH);
    expect(moved.json).toMatchObject({ levers: { 'lockhouse.level_trim': { value: '16' } } });
    expect(nimble('drive', 'get', 'demo/lockhouse', ...PLAN, ...BENCH).json).toMatchObject({ gauges: { 'lockhouse.level': '0' } });
  });

  test('work that fails exits with 1 and says why', () => {
    writeFileSync(at('notes.nbits'), 'shopping list');
    expect(nimble('load', at('notes.nbits'), ...BENCH)).toMatchObject({ status: 1, json: { done: false, problem: { code: 'not-a-bitstream' } } });
    writeFileSync(at('short.nbits'), readFileSync(at('l.nbits')).subarray(0, 9000));
    expect(nimble('load', at('short.nbits'), ...BENCH)).toMatchObject({ status: 1, json: { problem: { code: 'bitstream-truncated' } } });
    const flipped = readFileSync(at('l.nbits'));
    flipped[200_000] = (flipped[200_000] as number) ^ 1;
    writeFileSync(at('flipped.nbits'), flipped);
    expect(nimble('load', at('flipped.nbits'), ...BENCH)).toMatchObject({ status: 1, json: { done: false, status: { crcError: true, done: false }, problem: { code: 'crc-error' } } });
    writeFileSync(at('bad.v'), 'module bad(output y);\n  assign y = 1 +;\nendmodule\n');
    const bad = nimble('build', at('bad.v'), '--part', 'CV25', '--json');
    expect(bad).toMatchObject({ status: 1, json: { messages: [{ severity: 'error', code: 'syntax', file: 'bad.v', line: 2, column: 17 }] } });
    expect(bad.stderr).toContain('bad.v:2:17: error');
    expect(nimble('chain', 'scan', '--pod', 'ws://127.0.0.1:9', '--json')).toMatchObject({ status: 1, json: { problem: { code: 'no-pod' } } });
    expect(nimble('capture', 'demo/lockhouse', ...PLAN, ...BENCH, '--when', 'state == 7', '--timeout', '0.2')).toMatchObject({ status: 1, json: { problem: { code: 'no-trigger' } } });
  });

  test('a pod: scanned with its token, refused with another, lost in the middle of a load, and good for the next one', async () => {
    const started = async () => {
      const pod = spawn(process.execPath, ['bench/pod.mjs', '--port', '0', '--token', 'right'], { stdio: ['ignore', 'pipe', 'inherit'] });
      const line = await new Promise<string>((resolve) => pod.stdout.once('data', (data) => resolve(String(data))));
      return { pod, address: /ws:\S+/.exec(line)?.[0] ?? '' };
    };
    const first = await started();
    expect(nimble('chain', 'scan', '--pod', first.address, '--token', 'right', '--json')).toMatchObject({ status: 0, json: { devices: [{}, {}, {}] } });
    expect(nimble('chain', 'scan', '--pod', first.address, '--token', 'wrong', '--json')).toMatchObject({ status: 1, json: { problem: { code: 'pod-token' } } });
    const loading = spawn(process.execPath, [command.file, 'load', at('l.nbits'), '--pod', first.address, '--token', 'right', '--json'], { stdio: ['ignore', 'pipe', 'pipe'] });
    let answer = '';
    loading.stdout.on('data', (data) => {
      answer += String(data);
    });
    await leased(first.address);
    first.pod.kill('SIGKILL');
    const status = await new Promise<number | null>((resolve) => loading.once('exit', resolve));
    expect([status, (JSON.parse(answer) as { problem: { code: string } }).problem.code]).toEqual([1, 'pod-lost']);
    const second = await started();
    expect(nimble('load', at('l.nbits'), '--pod', second.address, '--token', 'right', '--json')).toMatchObject({ status: 0, json: { done: true } });
    second.pod.kill('SIGKILL');
  });

  test('a wrong call exits with 2', () => {
    expect(nimble('chain', 'scan').status).toBe(2);
    expect(nimble('load', at('missing.nbits'), ...BENCH).status).toBe(2);
    expect(nimble('juggle').status).toBe(2);
    expect(nimble('load').status).toBe(2);
  });

  test('svf write and play: the export loads, a difference is told, exit code 1', () => {
    nimble('build', 'demo/lockhouse', '--out', at('s.nbits'), '--json');
    expect(nimble('svf', 'write', 'load', at('s.nbits'), '--chain', 'demo/lockhouse/board.chain.json', '--out', at('s.svf'), '--json')).toMatchObject({ status: 0, json: { device: 1 } });
    expect(nimble('svf', 'play', at('s.svf'), ...BENCH)).toMatchObject({ status: 0, json: { ok: true, line: null, mismatch: null, problem: null } });
    writeFileSync(at('bad.svf'), '! made up\nSTATE RESET;\nSDR 32 TDI (0)\n TDO (1C010FFC);\n');
    expect(nimble('svf', 'play', at('bad.svf'), ...BENCH)).toMatchObject({ status: 1, json: { ok: false, line: 3, mismatch: { expected: '1C010FFC', actual: '1C010FFD', mask: 'FFFFFFFF' }, commands: 2 } });
    writeFileSync(at('pio.svf'), 'STATE IDLE;\nPIO (HL);\n');
    expect(nimble('svf', 'play', at('pio.svf'), ...BENCH)).toMatchObject({ status: 1, json: { ok: false, line: 2, problem: { code: 'svf-pio' } } });
    expect(nimble('svf', 'play', at('none.svf'), ...BENCH).status).toBe(2);
  });

  test('bsdl check: good and bad files', () => {
    expect(nimble('bsdl', 'check', 'demo/devices/cv10.bsd', '--json')).toMatchObject({ status: 0, json: { valid: true, entity: 'CV10', irLength: 6, boundaryLength: 144, ports: 61, cellsByFunction: { INPUT: 48, OUTPUT3: 48, CONTROL: 48 }, problems: [] } });
    writeFileSync(at('bad.bsd'), readFileSync('demo/devices/cv10.bsd', 'utf8').replace('"000001"', '"000010"'));
    const bad = nimble('bsdl', 'check', at('bad.bsd'), '--json');
    expect(bad).toMatchObject({ status: 1, json: { valid: false, problems: [{ code: 'capture-bits' }] } });
  });

  test('chain diagnose, sweep, and a scan beside the expected chain', () => {
    expect(nimble('chain', 'diagnose', ...BENCH, '--chain', 'demo/lockhouse/board.chain.json').status).toBe(0);
    expect(nimble('chain', 'sweep', ...BENCH)).toMatchObject({ status: 0, json: { reliableHz: 20e6, chosenHz: 12.5e6 } });
    const yard = ['--bench', 'demo/benches/chain-yard.bench.json', '--json'];
    expect(nimble('chain', 'scan', ...yard)).toMatchObject({ status: 0, json: { devices: [{ index: 0, idcode: '0x2C010FFD', part: 'CV10' }, { idcode: null, irLength: 4, part: null, candidates: [] }, { candidates: ['CV25', 'CV25S'] }, {}, {}, {}, {}] } });
    expect(nimble('chain', 'scan', ...yard, '--chain', 'demo/lockhouse/board.chain.json').status).toBe(1);
  });

  test('image info, convert and compare; flash info, plan, read and erase', () => {
    writeFileSync(at('a.hex'), ':0300300002337A1E\n:00000001FF\n');
    expect(nimble('image', 'info', at('a.hex'), '--json')).toMatchObject({ status: 0, json: { valid: true, format: 'intel-hex', segments: [{ start: 0x30, length: 3 }], crc32: expect.stringMatching(/^[0-9a-f]{8}$/) as string, problems: [] } });
    expect(nimble('image', 'convert', at('a.hex'), at('a.s19'), '--offset', '0x10', '--json')).toMatchObject({ status: 0, json: { to: 's-record', segments: [{ start: 0x40, length: 3 }] } });
    expect(nimble('image', 'compare', at('a.hex'), at('a.s19'), '--json')).toMatchObject({ status: 1, json: { equal: false, count: 2 } });
    writeFileSync(at('bad.hex'), ':0300300002337A1F\n:00000001FF\n');
    expect(nimble('image', 'info', at('bad.hex'), '--json')).toMatchObject({ status: 1, json: { valid: false, problems: [{ line: 1, code: 'checksum' }] } });
    expect(nimble('image', 'convert', at('bad.hex'), at('bad.bin'), '--json')).toMatchObject({ status: 1, json: { problem: { code: 'checksum' } } });
    expect(nimble('image', 'convert', at('a.hex'), at('noending')).status).toBe(2);
    writeFileSync(at('two.layout.json'), JSON.stringify({ format: 'nimble-layout', version: 1, size: 65536, blocks: [{ name: 'a', address: 0, file: 'a.hex' }, { name: 'serial', address: '0x1000', text: 'LH-1' }] }));
    expect(nimble('image', 'compose', at('two.layout.json'), at('two.bin'), '--json')).toMatchObject({ status: 0, json: { blocks: [{ name: 'a', start: 0x30, end: 0x33 }, { name: 'serial', start: 0x1000, end: 0x1004 }] } });
    expect(readFileSync(at('two.bin')).subarray(0x1000).toString()).toBe('LH-1');
    const state = [...BENCH, '--state', at('flash')];
    expect(nimble('flash', 'info', ...state)).toMatchObject({ status: 0, json: { chip: 'Ledger LR32', identity: '4B 31 16', bytes: 4 << 20, protected: false } });
    expect(nimble('flash', 'write', at('a.hex'), '--plan', ...state)).toMatchObject({ status: 0, json: { sectorsToErase: 0, pagesToWrite: 1 } });
    expect(nimble('flash', 'write', at('a.hex'), ...state)).toMatchObject({ status: 0, json: { pagesWritten: 1, verified: true } });
    expect(nimble('flash', 'blank', '--length', '0x1000', ...state)).toMatchObject({ status: 1, json: { blank: false, firstByte: 0x30 } });
    expect(nimble('flash', 'read', '--out', at('r.bin'), '--length', '0x34', ...state).status).toBe(0);
    expect([...readFileSync(at('r.bin')).subarray(0x2f)]).toEqual([0xff, 0x02, 0x33, 0x7a, 0xff]);
    expect(nimble('flash', 'erase', '--length', '0x1000', ...state)).toMatchObject({ status: 0, json: { sectorsErased: 1, verified: true } });
  });

  test('flash: a layout of two images and board data, crc, fill, and what is refused', () => {
    const built = nimble('build', 'demo/lockhouse', '--out', at('two.nbits'), '--json');
    const layout = ['flash', 'write', 'demo/lockhouse/two-images.layout.json', ...BENCH, '--state', at('two')];
    expect(nimble(...layout).status).toBe(2);
    const without = nimble(...layout, '--build', at('two.nbits'));
    expect([without.status, (without.json.problem as { code: string }).code]).toEqual([1, 'board-data']);
    const given = [...layout, '--build', at('two.nbits'), '--table', 'demo/lockhouse/lockhouse.boards.csv', '--row', '2'];
    expect(nimble(...given, '--flash', 'QF32')).toMatchObject({ status: 1, json: { problem: { code: 'flash-other' } } });
    const { status, json } = nimble(...given, '--flash', 'LR32', '--reconfigure');
    expect(status).toBe(0);
    expect(json).toMatchObject({ golden: 'written', headerWritten: true, verified: true, boots: built.json.fingerprint, uniqueId: expect.stringMatching(/^[0-9a-f]{16}$/), rehearsal: { by: 'reconfigure', sameFingerprint: true, status: { fromUpdate: true } } });
    const serial = nimble('flash', 'read', ...BENCH, '--state', at('two'), '--address', '0x200000', '--length', '7', '--out', at('serial.bin'));
    expect([serial.status, readFileSync(at('serial.bin'), 'latin1')]).toEqual([0, 'LH-0042']);
    expect(nimble('flash', 'fill', ...BENCH, '--state', at('two'), '--address', '0x300000', '--length', '9', '--byte', '0x31')).toMatchObject({ status: 0, json: { pagesWritten: 1 } });
    // CRC-32/ISO-HDLC of "111111111", from the reference library crc-32.
    expect(nimble('flash', 'crc', ...BENCH, '--state', at('two'), '--address', '0x300000', '--length', '9')).toMatchObject({ status: 0, json: { crc32: (referenceCrc.str('1'.repeat(9)) >>> 0).toString(16).padStart(8, '0') } });
    expect(nimble('flash', 'write', at('two.nbits'), ...BENCH, '--state', at('two'), '--as', 'elsewhere').status).toBe(2);
  });
});
