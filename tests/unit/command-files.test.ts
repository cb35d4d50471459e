// The `nimble` command on files of other formats and on flash, as a script sees it.
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import referenceCrc from 'crc-32';
import { nimbleCommand } from '../support/command.ts';
import { describe, expect, test } from 'vitest';

const BENCH = ['--bench', 'demo/benches/lockhouse.bench.json', '--json'];
const { at, nimble } = nimbleCommand();

describe('nimble', () => {
  test('svf write and play: the export loads, a difference is told, exit code 1', () => {
    nimble('build', 'demo/lockhouse', '--out', at('s.nbits'), '--json');
    expect(
      nimble(
        'svf',
        'write',
        'load',
        at('s.nbits'),
        '--chain',
        'demo/lockhouse/board.chain.json',
        '--out',
        at('s.svf'),
        '--json',
      ),
    ).toMatchObject({ status: 0, json: { device: 1 } });
    expect(nimble('svf', 'play', at('s.svf'), ...BENCH)).toMatchObject({
      status: 0,
      json: { ok: true, line: null, mismatch: null, problem: null },
    });
    writeFileSync(at('bad.svf'), '! made up\nSTATE RESET;\nSDR 32 TDI (0)\n TDO (1C010FFC);\n');
    expect(nimble('svf', 'play', at('bad.svf'), ...BENCH)).toMatchObject({
      status: 1,
      json: {
        ok: false,
        line: 3,
        mismatch: { expected: '1C010FFC', actual: '1C010FFD', mask: 'FFFFFFFF' },
        commands: 2,
      },
    });
    writeFileSync(at('pio.svf'), 'STATE IDLE;\nPIO (HL);\n');
    expect(nimble('svf', 'play', at('pio.svf'), ...BENCH)).toMatchObject({
      status: 1,
      json: { ok: false, line: 2, problem: { code: 'svf-pio' } },
    });
    expect(nimble('svf', 'play', at('none.svf'), ...BENCH).status).toBe(2);
  });

  test('bsdl check: good and bad files', () => {
    expect(nimble('bsdl', 'check', 'demo/devices/cv10.bsd', '--json')).toMatchObject({
      status: 0,
      json: {
        valid: true,
        entity: 'CV10',
        irLength: 6,
        boundaryLength: 144,
        ports: 61,
        cellsByFunction: { INPUT: 48, OUTPUT3: 48, CONTROL: 48 },
        problems: [],
      },
    });
    writeFileSync(at('bad.bsd'), readFileSync('demo/devices/cv10.bsd', 'utf8').replace('"000001"', '"000010"'));
    const bad = nimble('bsdl', 'check', at('bad.bsd'), '--json');
    expect(bad).toMatchObject({ status: 1, json: { valid: false, problems: [{ code: 'capture-bits' }] } });
  });

  test('chain diagnose, sweep, and a scan beside the expected chain', () => {
    expect(nimble('chain', 'diagnose', ...BENCH, '--chain', 'demo/lockhouse/board.chain.json').status).toBe(0);
    expect(nimble('chain', 'sweep', ...BENCH)).toMatchObject({
      status: 0,
      json: { reliableHz: 20e6, chosenHz: 12.5e6 },
    });
    const yard = ['--bench', 'demo/benches/chain-yard.bench.json', '--json'];
    expect(nimble('chain', 'scan', ...yard)).toMatchObject({
      status: 0,
      json: {
        devices: [
          { index: 0, idcode: '0x2C010FFD', part: 'CV10' },
          { idcode: null, irLength: 4, part: null, candidates: [] },
          { candidates: ['CV25', 'CV25S'] },
          {},
          {},
          {},
          {},
        ],
      },
    });
    expect(nimble('chain', 'scan', ...yard, '--chain', 'demo/lockhouse/board.chain.json').status).toBe(1);
  });

  test('image info, convert and compare; flash info, plan, read and erase', () => {
    writeFileSync(at('a.hex'), ':0300300002337A1E\n:00000001FF\n');
    expect(nimble('image', 'info', at('a.hex'), '--json')).toMatchObject({
      status: 0,
      json: {
        valid: true,
        format: 'intel-hex',
        segments: [{ start: 0x30, length: 3 }],
        crc32: expect.stringMatching(/^[0-9a-f]{8}$/) as string,
        problems: [],
      },
    });
    expect(nimble('image', 'convert', at('a.hex'), at('a.s19'), '--offset', '0x10', '--json')).toMatchObject({
      status: 0,
      json: { to: 's-record', segments: [{ start: 0x40, length: 3 }] },
    });
    expect(nimble('image', 'compare', at('a.hex'), at('a.s19'), '--json')).toMatchObject({
      status: 1,
      json: { equal: false, count: 2 },
    });
    writeFileSync(at('bad.hex'), ':0300300002337A1F\n:00000001FF\n');
    expect(nimble('image', 'info', at('bad.hex'), '--json')).toMatchObject({
      status: 1,
      json: { valid: false, problems: [{ line: 1, code: 'checksum' }] },
    });
    expect(nimble('image', 'convert', at('bad.hex'), at('bad.bin'), '--json')).toMatchObject({
      status: 1,
      json: { problem: { code: 'checksum' } },
    });
    expect(nimble('image', 'convert', at('a.hex'), at('noending')).status).toBe(2);
    writeFileSync(
      at('two.layout.json'),
      JSON.stringify({
        format: 'nimble-layout',
        version: 1,
        size: 65536,
        blocks: [
          { name: 'a', address: 0, file: 'a.hex' },
          { name: 'serial', address: '0x1000', text: 'LH-1' },
        ],
      }),
    );
    expect(nimble('image', 'compose', at('two.layout.json'), at('two.bin'), '--json')).toMatchObject({
      status: 0,
      json: {
        blocks: [
          { name: 'a', start: 0x30, end: 0x33 },
          { name: 'serial', start: 0x1000, end: 0x1004 },
        ],
      },
    });
    expect(readFileSync(at('two.bin')).subarray(0x1000).toString()).toBe('LH-1');
    const state = [...BENCH, '--state', at('flash')];
    expect(nimble('flash', 'info', ...state)).toMatchObject({
      status: 0,
      json: { chip: 'Ledger LR32', identity: '4B 31 16', bytes: 4 << 20, protected: false },
    });
    expect(nimble('flash', 'write', at('a.hex'), '--plan', ...state)).toMatchObject({
      status: 0,
      json: { sectorsToErase: 0, pagesToWrite: 1 },
    });
    expect(nimble('flash', 'write', at('a.hex'), ...state)).toMatchObject({
      status: 0,
      json: { pagesWritten: 1, verified: true },
    });
    expect(nimble('flash', 'blank', '--length', '0x1000', ...state)).toMatchObject({
      status: 1,
      json: { blank: false, firstByte: 0x30 },
    });
    expect(nimble('flash', 'read', '--out', at('r.bin'), '--length', '0x34', ...state).status).toBe(0);
    expect([...readFileSync(at('r.bin')).subarray(0x2f)]).toEqual([0xff, 0x02, 0x33, 0x7a, 0xff]);
    expect(nimble('flash', 'erase', '--length', '0x1000', ...state)).toMatchObject({
      status: 0,
      json: { sectorsErased: 1, verified: true },
    });
  });

  test('flash write --plan refuses the wrong chip as the write does, in words and exit code, and warns of what would be written over', () => {
    expect(nimble('build', 'demo/lockhouse', '--out', at('over.nbits'), '--json').status).toBe(0);
    const state = [...BENCH, '--state', at('over')];
    writeFileSync(at('plain.hex'), ':0300300002337A1E\n:00000001FF\n');
    for (const file of [at('over.nbits'), at('plain.hex')])
      for (const plan of [['--plan'], []]) {
        const refused = nimble('flash', 'write', file, ...plan, '--flash', 'QF32', ...state);
        expect(refused).toMatchObject({
          status: 1,
          json: { problem: { code: 'flash-other', message: expect.stringContaining('QF32') } },
        });
      }
    expect(nimble('flash', 'write', at('over.nbits'), ...state).status).toBe(0);
    // Plain data over the image that boots.
    const planned = nimble('flash', 'write', at('plain.hex'), '--plan', ...state);
    expect(planned).toMatchObject({
      status: 0,
      json: { checks: expect.arrayContaining([expect.objectContaining({ name: 'replaced', state: 'warn' })]) },
    });
    expect(planned.stderr).toMatch(/warning: The image [0-9a-f]{8} at 0x0 would be written over/);
  });

  test('a bitstream that was built elsewhere is driven with the probe map beside it, and what is missing is named', () => {
    expect(
      nimble(
        'build',
        'demo/lockhouse',
        '--plan',
        'demo/lockhouse/plans/passage.plan.json',
        '--out',
        at('probed.nbits'),
        '--json',
      ).status,
    ).toBe(0);
    expect(nimble('drive', 'get', at('probed.nbits'), ...BENCH)).toMatchObject({
      status: 0,
      json: { gauges: expect.objectContaining({ 'lockhouse.state': expect.anything() }) },
    });
    copyFileSync(at('probed.nbits'), at('alone.nbits'));
    const alone = nimble('drive', 'get', at('alone.nbits'), ...BENCH);
    expect(alone.status).toBe(1);
    expect(`${alone.stderr} ${JSON.stringify(alone.json)}`).toMatch(
      /There is no alone\.probes\.json beside alone\.nbits/,
    );
    expect(nimble('drive', 'set', at('probed.nbits'), 'lockhouse.level_trim=0b1x0', ...BENCH)).toMatchObject({
      status: 2,
    });
  });

  test('wave value reads real variables, and times beyond 2^53 units to the unit', () => {
    writeFileSync(
      at('far.vcd'),
      '$timescale 1 fs $end\n$scope module top $end\n$var wire 1 ! clk $end\n$var real 64 % volts $end\n$upscope ' +
        '$end\n$enddefinitions $end\n#0\n0!\nr1.25 %\n#9007199254740993\n1!\nr-2.5e-3 %\n#9007199254740994\n0!\n',
    );
    const value = (signal: string, time: string) =>
      nimble('wave', 'value', at('far.vcd'), '--signal', signal, '--at', time, '--json').json.value;
    expect([
      value('top.volts', '0'),
      value('top.volts', '9007199254740992fs'),
      value('top.volts', '9007199254740993'),
    ]).toEqual(['1.25', '1.25', '-0.0025']);
    expect(
      ['9007199254740992', '9007199254740993', '9007199254740994', '9.007199254740993s'].map((time) =>
        value('top.clk', time),
      ),
    ).toEqual(['0', '1', '0', '1']);
    expect(nimble('wave', 'info', at('far.vcd'), '--json').json).toMatchObject({
      valid: true,
      endTime: '9007199254740994',
      problems: [],
    });
  });

  test('flash: a layout of two images and board data, crc, fill, and what is refused', () => {
    const built = nimble('build', 'demo/lockhouse', '--out', at('two.nbits'), '--json');
    const layout = ['flash', 'write', 'demo/lockhouse/two-images.layout.json', ...BENCH, '--state', at('two')];
    expect(nimble(...layout).status).toBe(2);
    const without = nimble(...layout, '--build', at('two.nbits'));
    expect([without.status, (without.json.problem as { code: string }).code]).toEqual([1, 'board-data']);
    const given = [
      ...layout,
      '--build',
      at('two.nbits'),
      '--table',
      'demo/lockhouse/lockhouse.boards.csv',
      '--row',
      '2',
    ];
    expect(nimble(...given, '--flash', 'QF32')).toMatchObject({
      status: 1,
      json: { problem: { code: 'flash-other' } },
    });
    const { status, json } = nimble(...given, '--flash', 'LR32', '--reconfigure');
    expect(status).toBe(0);
    expect(json).toMatchObject({
      golden: 'written',
      headerWritten: true,
      verified: true,
      boots: built.json.fingerprint,
      uniqueId: expect.stringMatching(/^[0-9a-f]{16}$/),
      rehearsal: { by: 'reconfigure', sameFingerprint: true, status: { fromUpdate: true } },
    });
    const serial = nimble(
      'flash',
      'read',
      ...BENCH,
      '--state',
      at('two'),
      '--address',
      '0x200000',
      '--length',
      '7',
      '--out',
      at('serial.bin'),
    );
    expect([serial.status, readFileSync(at('serial.bin'), 'latin1')]).toEqual([0, 'LH-0042']);
    expect(
      nimble(
        'flash',
        'fill',
        ...BENCH,
        '--state',
        at('two'),
        '--address',
        '0x300000',
        '--length',
        '9',
        '--byte',
        '0x31',
      ),
    ).toMatchObject({ status: 0, json: { pagesWritten: 1 } });
    // CRC-32/ISO-HDLC of "111111111", from the reference library crc-32.
    expect(
      nimble('flash', 'crc', ...BENCH, '--state', at('two'), '--address', '0x300000', '--length', '9'),
    ).toMatchObject({
      status: 0,
      json: { crc32: (referenceCrc.str('1'.repeat(9)) >>> 0).toString(16).padStart(8, '0') },
    });
    expect(nimble('flash', 'write', at('two.nbits'), ...BENCH, '--state', at('two'), '--as', 'elsewhere').status).toBe(
      2,
    );
  });
});
