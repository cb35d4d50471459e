// A flash on user pins of a foreign part, reached from inside its fabric.
import { beforeAll, describe, expect, test } from 'vitest';
import { marrowSvf } from '../../scripts/marrow/index.ts';
import { meet, type Piece, readFlash, verifyPieces, writePieces } from '../../core/flash/index.ts';
import { ChainLink, ScanQueue } from '../../core/jtag/index.ts';
import { playSvf } from '../../core/operations/index.ts';
import { BridgeClient, HubClient, takeAlong } from '../../core/probes/index.ts';
import { unwatched } from '../../core/progress.ts';
import { Bench, BenchCable, readBenchFile } from '../index.ts';
import { USER_PREFIX_BITS } from './facts.ts';
import { MARROW, MARROW_INSTRUCTION } from './index.ts';

const PRINT = '0123456789abcdef0123456789abcdef';
const SOURCE = `module top(input clk, output reg [3:0] lamp); always @(posedge clk) lamp <= lamp + 1; endmodule`;
const PINS = { cs_n: 'P40', sck: 'P41', mosi: 'P42', miso: 'P43' };

function made() {
  const plan = { recorders: [], panels: [], bridge: { name: 'flash' } };
  const taken = takeAlong([{ name: 't.v', text: SOURCE }], { top: 'top' }, plan, PRINT);
  if (!taken.ok) throw new Error(taken.error.message);
  const pins = ['clk,P1', ...Object.entries(PINS).map(([port, pin]) => `flash_${port},${pin}`)].join('\n');
  const svf = marrowSvf({ sources: [{ name: 't.v', text: taken.value.verilog }], top: 'top_probed', pins });
  if (!svf.ok) throw new Error(svf.error.message);
  return { svf: svf.value, map: taken.value.map, wrapper: taken.value.wrapper };
}

function desk(part = 'LR32') {
  const file = readBenchFile(
    JSON.stringify({
      tckHz: 10_000_000,
      chain: [{ kind: 'sprig' }, { kind: 'marrow', flash: { part, pins: PINS } }],
      board: { fpga: 1, oscillators: [{ name: 'X', pin: 'P1', hz: 100_000 }] },
    }),
    'm.bench.json',
  );
  if (!file.ok) throw new Error(file.error.message);
  const bench = new Bench(file.value);
  return { bench, cable: new BenchCable(bench) };
}

describe('the bridge', () => {
  let built: ReturnType<typeof made>;
  beforeAll(() => {
    built = made();
  });

  async function reached(cable: BenchCable) {
    const offsets = { towardsTdo: { irBits: 5, devices: 1 }, towardsTdi: { irBits: 0, devices: 0 } };
    const played = await playSvf(cable, [new TextEncoder().encode(built.svf)], unwatched, { offsets });
    expect(played.ok).toBe(true);
    const queue = new ScanQueue(cable);
    queue.reset();
    const link = new ChainLink(queue, [5, MARROW.irLength], 1);
    const hub = new HubClient(link, MARROW_INSTRUCTION.USER1, USER_PREFIX_BITS);
    const [map] = built.map.cores;
    if (map?.kind !== 'bridge') throw new Error('no bridge');
    return { port: new BridgeClient(hub, map), queue };
  }

  test.each(['LR32', 'QF32'])('meets the %s by its identity and its parameter table', async (part) => {
    const { cable } = desk(part);
    const { port } = await reached(cable);
    expect(await port.isKnown()).toEqual({ ok: true, value: null });
    const met = await meet(port);
    expect(met.ok && met.value.part.name).toBe(part);
    expect(met.ok && met.value.parameters).not.toBeNull();
  });

  test('plans, writes, verifies and reads back; what is written outlives power, the design does not', async () => {
    const { bench, cable } = desk();
    const { port, queue } = await reached(cable);
    const met = await meet(port);
    if (!met.ok) throw new Error(met.error.message);
    const bytes = Uint8Array.from({ length: 5000 }, (_, i) => (i * 31 + (i >> 7)) & 0xff);
    const pieces: Piece[] = [{ address: 0x12_345, bytes }];
    const before = queue.counts.tckCycles;
    const written = await writePieces(port, met.value.part, pieces, unwatched);
    expect(written.ok).toBe(true);
    expect(queue.counts.tckCycles).toBeGreaterThan(before);
    expect(await verifyPieces(port, pieces, unwatched)).toMatchObject({ ok: true });
    expect([...(await readFlash(port, 0x12_345 + 100, 300))]).toEqual([...bytes.subarray(100, 400)]);
    bench.setPower(false);
    bench.setPower(true);
    const again = await reached(cable);
    expect(await verifyPieces(again.port, pieces, unwatched)).toMatchObject({ ok: true });
    const start = again.queue.counts.tckCycles;
    await readFlash(again.port, 0x12_345, 4096);
    const cycles = (again.queue.counts.tckCycles - start) / (4096 * 8);
    console.info(`bridge: ${cycles.toFixed(2)} TCK cycles a bit that is read`);
    expect(cycles).toBeLessThan(2.1);
  });

  test('its four pins are ports of the module that is taken along, and of the wrapper', () => {
    for (const port of ['output flash_cs_n', 'output flash_sck', 'output flash_mosi', 'input flash_miso'])
      expect(built.wrapper).toContain(port);
  });
});
