// A real part on the desk: known by its BSDL file, loaded by an SVF that others' tools made, over a microcontroller on a
// serial line. Where there is no C compiler the same over the bench's own cable.
import { spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Bench, benchTarget, Pins, readBenchFile } from '../../bench/index.ts';
import { openSerial, servePod, startFirmware, wireTarget } from '../../pod/index.ts';
import { marrowSvf } from '../../scripts/marrow/index.ts';
import { nimbleCommand } from '../support/command.ts';
import { firmwareProgram } from '../support/firmware.ts';

const command = nimbleCommand();
const DESK = 'demo/marrow';
const PLAN = ['--plan', `${DESK}/plans/tide.plan.json`];
let port = 0;
let bench: Bench | null = null;
const ends: (() => unknown)[] = [];

beforeAll(async () => {
  const file = readBenchFile(readFileSync('demo/benches/marrow.bench.json', 'utf8'), 'marrow.bench.json');
  if (!file.ok) throw new Error(file.error.message);
  bench = new Bench(file.value);
  const target = benchTarget(bench);
  ends.push(() => target.stop());
  const program = firmwareProgram();
  let served: Parameters<typeof servePod>[0] = target;
  if (program !== null) {
    const firmware = await startFirmware(program, new Pins(target));
    const at = { path: firmware.path, baud: 1_000_000 };
    const wire = await wireTarget({ ...at, open: () => openSerial(at) });
    served = wire;
    ends.push(
      () => firmware.stop(),
      () => wire.stop(),
    );
  }
  const pod = await servePod(served, { host: '127.0.0.1', port: 0, token: 'right' });
  port = pod.port;
  ends.push(() => pod.close());
});
afterAll(async () => {
  for (const end of ends.reverse()) await end();
});

function nimble(...args: string[]): Promise<{ status: number | null; json: Record<string, unknown>; stderr: string }> {
  const at = args[0] === 'build' ? [] : ['--pod', `ws://127.0.0.1:${port}`, '--token', 'right'];
  const child = spawn(process.execPath, [command.file(), ...args, ...at, '--json'], {
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let [stdout, stderr] = ['', ''];
  child.stdout.on('data', (data) => {
    stdout += String(data);
  });
  child.stderr.on('data', (data) => {
    stderr += String(data);
  });
  return new Promise((resolve) =>
    child.on('close', (status) => resolve({ status, json: stdout ? JSON.parse(stdout) : {}, stderr })),
  );
}

/** What a person does with the wrapper, and then their tools with both files. */
function builtByTheirTools(verilog: string, wrapper: string, svf: string): void {
  const filled = readFileSync(wrapper, 'utf8').replace(
    /^.*FILL IN.*\n(\s*\/\/.*\n)+/m,
    '  marrow_user u_user (.TCK(jtag_tck), .TDI(jtag_tdi), .CAPTURE(jtag_capture), .SHIFT(jtag_shift),\n' +
      '    .UPDATE(jtag_update), .TDO(jtag_tdo));\n',
  );
  const made = marrowSvf({
    sources: [
      { name: 'probed.v', text: readFileSync(verilog, 'utf8') },
      { name: 'on_board.v', text: filled },
    ],
    top: 'tide_lamp_on_board',
    pins: readFileSync(`${DESK}/pins.csv`, 'utf8'),
  });
  if (!made.ok) throw new Error(made.error.message);
  writeFileSync(svf, made.value);
}

test('from a box with a board to captured signals: scan, take along, play their SVF, drive, capture', async () => {
  expect(await nimble('chain', 'scan')).toMatchObject({
    status: 0,
    json: { devices: [{ idcode: '0x1A040FFD', part: null }] },
  });
  expect(
    await nimble('chain', 'shift', '--device', '0', '--instruction', 'STATE', '--bsdl', `${DESK}/mw40.bsd`),
  ).toMatchObject({ status: 0, json: { captured: '0x01' } });

  const [verilog, wrapper, map] = ['probed.v', 'on_board.v', 'tide.probes.json'].map((name) => command.at(name));
  const files = ['--verilog', verilog ?? '', '--wrapper', wrapper ?? '', '--map', map ?? ''];
  const built = await nimble('build', DESK, ...PLAN, ...files);
  expect(built).toMatchObject({
    status: 0,
    json: { part: 'MW40', resources: null, timing: null, bitstreamBytes: null },
  });
  expect(JSON.parse(readFileSync(map ?? '', 'utf8'))).toMatchObject({ fingerprint: built.json.fingerprint });
  expect(await nimble('build', DESK, ...PLAN, '--out', command.at('no.nbits'))).toMatchObject({
    status: 1,
    json: { problem: { code: 'foreign-out' } },
  });

  // Nothing runs yet.
  expect(await nimble('drive', 'get', DESK, ...PLAN)).toMatchObject({
    status: 1,
    json: { problem: { code: 'done-low' } },
  });
  const svf = command.at('tide.svf');
  builtByTheirTools(verilog ?? '', wrapper ?? '', svf);
  expect(await nimble('svf', 'play', svf)).toMatchObject({ status: 0, json: { ok: true } });
  const set = await nimble('drive', 'set', DESK, 'tide_lamp.offset=240', ...PLAN);
  expect(set).toMatchObject({ status: 0 });
  expect(JSON.stringify(set.json.levers)).toMatch(/240/);
  const vcd = command.at('tide.vcd');
  const captured = await nimble('capture', DESK, ...PLAN, '--when', 'tide >= 3', '--before', '10', '--out', vcd);
  expect([captured.status, captured.stderr]).toEqual([0, expect.any(String)]);
  expect(readFileSync(vcd, 'utf8')).toMatch(/\$var \w+ 8 \S+ tide/);
}, 120_000);

test('its flash is reached through the bridge in that design: identity, plan, write, verify, after power too', async () => {
  const through = ['--bridge', DESK, '--bridge-plan', `${DESK}/plans/tide.plan.json`];
  expect(await nimble('flash', 'info', ...through)).toMatchObject({
    status: 0,
    json: { chip: 'Ledger LR32', parameters: {}, bootSource: null },
  });
  const image = command.at('image.bin');
  writeFileSync(
    image,
    Uint8Array.from({ length: 3000 }, (_, i) => (i * 7) & 0xff),
  );
  const at = ['--address', '0x2000'];
  expect(await nimble('flash', 'write', image, ...at, '--plan', ...through)).toMatchObject({
    status: 0,
    json: { pagesToWrite: 12, sectorsToErase: 0 },
  });
  expect(await nimble('flash', 'write', image, ...at, '--flash', 'QF32', ...through)).toMatchObject({
    status: 1,
    json: { problem: { code: 'other-chip' } },
  });
  expect(await nimble('flash', 'write', image, ...at, ...through)).toMatchObject({
    status: 0,
    json: { pagesWritten: 12, problem: null },
  });
  bench?.setPower(false);
  bench?.setPower(true);
  expect(await nimble('svf', 'play', command.at('tide.svf'))).toMatchObject({ status: 0 });
  expect(await nimble('flash', 'verify', image, ...at, ...through)).toMatchObject({
    status: 0,
    json: { verified: true },
  });
  expect(await nimble('flash', 'write', image, ...at, '--rehearse', ...through)).toMatchObject({
    json: { problem: { code: 'bridge-rehearse' } },
  });
}, 120_000);

test('a design that was built from other sources is told by its fingerprint', async () => {
  const other = await nimble('drive', 'get', DESK, '--plan', command.at('other.plan.json'));
  expect(other.status).not.toBe(0);
  writeFileSync(
    command.at('other.plan.json'),
    JSON.stringify({
      recorders: [],
      panels: [{ name: 'd', clock: 'tide_lamp.clk', levers: [], gauges: ['tide_lamp.tide'] }],
    }),
  );
  expect(await nimble('drive', 'get', DESK, '--plan', command.at('other.plan.json'))).toMatchObject({
    status: 1,
    json: { problem: { code: 'fingerprint-differs' } },
  });
}, 60_000);
