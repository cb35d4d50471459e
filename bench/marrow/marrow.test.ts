import { beforeAll, describe, expect, test } from 'vitest';
import { marrowSvf } from '../../scripts/marrow/index.ts';
import { bigIntOf } from '../../core/bits/index.ts';
import { readBsdl } from '../../core/bsdl/index.ts';
import { FAMILIES, foreignFamily, foreignSettings, knownFrom } from '../../core/families/index.ts';
import { captureNow, drive, instructionsOf, playSvf, scanByHand } from '../../core/operations/index.ts';
import { ScanQueue, ChainLink } from '../../core/jtag/index.ts';
import { HubClient, PanelClient, takeAlong } from '../../core/probes/index.ts';
import { unwatched } from '../../core/progress.ts';
import { valueAt } from '../../tests/support/captured.ts';
import { chainOn } from '../../tests/support/chain-on.ts';
import { Bench, BenchCable, readBenchFile } from '../index.ts';
import { USER_PREFIX_BITS } from './facts.ts';
import { MARROW, MARROW_INSTRUCTION, MARROW_STATE, marrowBsdl } from './index.ts';

const PRINT = 'fedcba98765432100123456789abcdef';
const SOURCE = `module top(input clk, output [3:0] lamp);
  reg [15:0] count = 0;
  wire [3:0] free;
  always @(posedge clk) count <= count + 1;
  assign lamp = count[15:12] ^ free;
endmodule`;
const PLAN = {
  recorders: [{ name: 'r', clock: 'top.clk', depth: 16, signals: ['top.count'] }],
  panels: [{ name: 'p', clock: 'top.clk', levers: ['top.free'], gauges: ['top.free', 'top.count'] }],
};

function made() {
  const taken = takeAlong([{ name: 't.v', text: SOURCE }], { top: 'top' }, PLAN, PRINT);
  if (!taken.ok) throw new Error(taken.error.message);
  const pins = ['clk,P1', ...Array.from({ length: 4 }, (_, i) => `lamp[${i}],P${20 + i}`)].join('\n');
  const svf = marrowSvf({ sources: [{ name: 'taken.v', text: taken.value.verilog }], top: 'top_probed', pins });
  if (!svf.ok) throw new Error(svf.error.message);
  return { svf: svf.value, map: taken.value.map };
}

function desk() {
  const file = readBenchFile(
    JSON.stringify({
      name: 'm',
      tckHz: 1_000_000,
      chain: [{ kind: 'sprig' }, { kind: 'marrow' }, { kind: 'sprig' }],
      board: { fpga: 1, oscillators: [{ name: 'X', pin: 'P1', hz: 250_000 }] },
    }),
    'm.bench.json',
  );
  if (!file.ok) throw new Error(file.error.message);
  const cable = new BenchCable(new Bench(file.value));
  const { entity } = readBsdl(marrowBsdl());
  const known = entity && knownFrom(entity);
  const chain = chainOn(cable, { memory: { answers: [], described: known ? [known] : [] } });
  return { cable, chain };
}

/** The maker's file is for the part alone. */
const AROUND = { towardsTdo: { irBits: 5, devices: 1 }, towardsTdi: { irBits: 5, devices: 1 } };
const play = (cable: BenchCable, svf: string) =>
  playSvf(cable, [new TextEncoder().encode(svf)], unwatched, { offsets: AROUND });

/** The product's half: a project names the user register and where it shows that a design runs. */
function foreign(settings: object = {}) {
  const { entity } = readBsdl(marrowBsdl());
  if (!entity) throw new Error('no description');
  return foreignFamily(entity, foreignSettings.parse({ bsdl: 'mw40.bsd', ...settings }));
}

const USER = { instruction: 'USER1', prefix: USER_PREFIX_BITS };
const STATE_BIT = { instruction: 'STATE', bit: MARROW_STATE.runs };

describe('a part known by its description', () => {
  let built: ReturnType<typeof made>;
  beforeAll(() => {
    built = made();
  });
  const session = (settings: object) => {
    const family = foreign(settings);
    if (!family.ok) throw new Error(family.error.message);
    const { cable } = desk();
    return { cable, chain: chainOn(cable, { families: [...FAMILIES, family.value] }) };
  };
  const request = { part: MARROW.name, device: null };

  test('captures and drives as any: its levers, gauges and recorder are asked through the register that is named', async () => {
    const { cable, chain } = session({ user: USER, done: STATE_BIT });
    await play(cable, built.svf);
    const driven = await drive(chain, { ...request, map: built.map, set: { 'top.free': 5n } });
    expect(driven.ok && driven.value.reading.gauges['top.free']).toBe(5n);
    const captured = await captureNow(chain, {
      ...{ ...request, map: built.map, recorder: null, when: 'count == 0x1234', before: 4 },
      ...{ tckHz: 1e6, clocks: { clk: 250_000 } },
    });
    if (!captured.ok) throw new Error(captured.error.message);
    const [signal] = captured.value.capture.signals;
    if (signal)
      for (let i = 0; i < 16; i++) expect(valueAt(captured.value.capture, signal, i)).toBe(BigInt(0x1234 - 4 + i));
  });

  test('that runs nothing is told by the bit, or the pin, that is named; without either by the missing hub', async () => {
    const bit = session({ user: USER, done: STATE_BIT });
    expect(await drive(bit.chain, { ...request, map: built.map, set: {} })).toMatchObject({
      error: { code: 'done-low' },
    });
    const none = session({ user: USER });
    expect(await drive(none.chain, { ...request, map: built.map, set: {} })).toMatchObject({
      error: { code: 'no-hub' },
    });
    // A lamp that is lit when nothing drives it low stands for DONE: it is pulled up while the part is empty.
    const pin = session({ user: USER, done: { pin: 'P1', level: 1 } });
    const asked = await drive(pin.chain, { ...request, map: built.map, set: {} });
    expect(['done-low', 'no-hub']).toContain(asked.ok ? 'fine' : asked.error.code);
  });

  test('another build than the map’s is refused by its fingerprint, as on any part', async () => {
    const { cable, chain } = session({ user: USER, done: STATE_BIT });
    await play(cable, built.svf);
    const map = { ...built.map, fingerprint: '0'.repeat(32) };
    expect(await drive(chain, { ...request, map, set: {} })).toMatchObject({ error: { code: 'fingerprint-differs' } });
  });

  test('a prefix that was misread is told with the right one; a wrong register with what to check', async () => {
    const off = session({ user: { instruction: 'USER1', prefix: 0 }, done: STATE_BIT });
    await play(off.cable, built.svf);
    expect(await drive(off.chain, { ...request, map: built.map, set: {} })).toMatchObject({
      error: { code: 'no-hub', about: { said: 0, answers: 1 } },
    });
    const other = session({ user: { instruction: '0b01110111' } });
    await play(other.cable, built.svf);
    expect(await drive(other.chain, { ...request, map: built.map, set: {} })).toMatchObject({
      error: { code: 'no-hub', message: expect.stringContaining('the project names') },
    });
  });

  test('what its description does not have is named with what it has', () => {
    const wrong = (settings: object) => {
      const made = foreign(settings);
      return made.ok ? 'fine' : made.error;
    };
    expect(wrong({ user: { instruction: 'USER7' } })).toMatchObject({
      code: 'foreign-instruction',
      message: expect.stringContaining('USER1'),
    });
    expect(wrong({ user: { instruction: '0b101' } })).toMatchObject({ message: expect.stringContaining('8 bits') });
    expect(wrong({ user: { instruction: '0b00100010' } })).toBe('fine');
    expect(wrong({ done: { pin: 'TCK' } })).toMatchObject({ code: 'foreign-pin' });
    expect(wrong({ done: { instruction: 'STATE', bit: 9 } })).toMatchObject({ code: 'foreign-bit' });
    expect(wrong({ done: { instruction: 'USER1', bit: 0 } })).toMatchObject({
      message: expect.stringContaining('not known'),
    });
  });

  test('whose user register nobody named is told as that', async () => {
    const { chain } = session({});
    expect(await drive(chain, { ...request, map: built.map, set: {} })).toMatchObject({
      error: { code: 'no-user-register' },
    });
  });

  test('is drawn with all its pins, wherever they really are', () => {
    const family = foreign();
    const drawing = family.ok ? family.value.drawing('') : null;
    expect(drawing?.pins.filter(({ kind }) => kind === 'config').length).toBe(4);
    expect(new Set(drawing?.pins.map(({ x, y }) => `${x} ${y}`)).size).toBe(drawing?.pins.length);
  });
});

function linkTo(cable: BenchCable) {
  const queue = new ScanQueue(cable);
  queue.reset();
  return { queue, link: new ChainLink(queue, [5, MARROW.irLength, 5], 1) };
}

describe('a Marrow', () => {
  let built: ReturnType<typeof made>;
  beforeAll(() => {
    built = made();
  });

  test('is known by its description, which keeps quiet about how it is fed', async () => {
    const { entity, problems } = readBsdl(marrowBsdl());
    expect(problems.filter(({ severity }) => severity === 'error')).toEqual([]);
    const names = (entity ? instructionsOf(entity) : []).map(({ name }) => name);
    expect(names).toEqual(['BYPASS', 'EXTEST', 'HIGHZ', 'IDCODE', 'PRELOAD', 'SAMPLE', 'STATE', 'USER1']);
    const { chain } = desk();
    const scan = await chain.rescan();
    expect(scan.devices.map(({ part }) => part)).toEqual(['SP64', MARROW.name, 'SP64']);
  });

  test('runs what its maker’s file feeds it, and the file sees that it does', async () => {
    const { cable, chain } = desk();
    await chain.rescan();
    expect(await play(cable, built.svf)).toMatchObject({ ok: true, mismatches: [] });
    const state = await scanByHand(chain, {
      place: 1,
      opcode: BigInt(MARROW_INSTRUCTION.STATE),
      data: { length: MARROW_STATE.length, bytes: new Uint8Array(1) },
    });
    expect(state.ok && state.value.captured && bigIntOf(state.value.captured)).toBe(0b1001n);
  });

  test('a damaged file is refused by the part, and found by what the file compares', async () => {
    const { cable, chain } = desk();
    await chain.rescan();
    const at = built.svf.indexOf('SDR 32768');
    const damaged = `${built.svf.slice(0, at + 60)}${built.svf[at + 60] === '0' ? '1' : '0'}${built.svf.slice(at + 61)}`;
    const played = await play(cable, damaged);
    expect(played.ok).toBe(false);
    expect(played.mismatches).toHaveLength(1);
  });

  test('its user register is the hub’s, behind one bit more: fingerprint, levers and gauges', async () => {
    const { cable, chain } = desk();
    await chain.rescan();
    await play(cable, built.svf);
    const { link } = linkTo(cable);
    const hub = new HubClient(link, MARROW_INSTRUCTION.USER1, USER_PREFIX_BITS);
    expect(await hub.identify()).toEqual({ ok: true, value: { fingerprint: PRINT, cores: 2 } });
    const panel = built.map.cores.find(({ kind }) => kind === 'panel');
    if (panel?.kind !== 'panel') throw new Error('no panel');
    const client = new PanelClient(hub, panel);
    expect(await client.set({ 'top.free': 9n }, null)).toMatchObject({ ok: true });
    const first = await client.read();
    expect(first.ok && first.value.gauges['top.free']).toBe(9n);
    await cable.run([{ kind: 'wait', microseconds: 10_000 }]);
    const second = await client.read();
    expect(first.ok && second.ok && second.value.gauges['top.count']).not.toBe(
      first.ok && first.value.gauges['top.count'],
    );
  });

  test('without power, or pulled by its wire, it holds nothing', async () => {
    const { cable, chain } = desk();
    await chain.rescan();
    await play(cable, built.svf);
    const { link, queue } = linkTo(cable);
    link.select(MARROW_INSTRUCTION.FEED_BEGIN);
    await queue.flush();
    const hub = new HubClient(link, MARROW_INSTRUCTION.USER1, USER_PREFIX_BITS);
    expect(await hub.identify()).toMatchObject({ ok: false, error: { code: 'no-hub' } });
  });
});
