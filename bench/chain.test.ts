import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Bits, bigIntOf, bitsFromBigInt, constantBits } from '../core/bits/index.ts';
import { type Cable, type CableOp, ChainLink, discoverChain, ScanQueue } from '../core/jtag/index.ts';
import { Chain } from './chain.ts';
import { TapDevice } from './tap.ts';

/** A device that has IDCODE (opcode 2) and BYPASS only. */
class Plain extends TapDevice {
  protected override get idcodeOpcode(): number {
    return 2;
  }
}

function cableTo(...devices: TapDevice[]): { cable: Cable; chain: Chain; cycles: () => number } {
  let cycles = 0;
  const chain = new Chain(devices, { powered: () => true, pass: (count) => void (cycles += count), wait: () => {} });
  chain.powerUp();
  const cable: Cable = {
    run: async (ops: readonly CableOp[]) => ops.flatMap((op) => chain.run(op) ?? []),
    state: async () => ({ attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1e3, mostHz: 1e7 }),
    setFrequency: async (hz) => hz,
    tckHz: 1e6,
  };
  return { cable, chain, cycles: () => cycles };
}

// IEEE 1149.1: BYPASS is one bit and captures 0; all ones selects it; Capture-IR loads ...01 (values from memory).
describe('scans', () => {
  test('after reset the IDCODE comes out, least significant bit first', async () => {
    const { cable } = cableTo(new Plain(4, 0x12345fff));
    const queue = new ScanQueue(cable);
    queue.reset();
    expect(bigIntOf(await queue.exchangeDr(constantBits(32, 0)))).toBe(0x12345fffn);
  });

  test('BYPASS delays by one bit and begins with 0', async () => {
    const { cable } = cableTo(new Plain(4, 0x12345fff));
    const queue = new ScanQueue(cable);
    queue.reset();
    expect(bigIntOf(await queue.exchangeIr(constantBits(4, 1))) & 3n).toBe(1n);
    expect(bigIntOf(await queue.exchangeDr(bitsFromBigInt(0b1011n, 4)))).toBe(0b0110n);
  });

  test('a device without IDCODE has BYPASS after reset', async () => {
    const { cable } = cableTo(new TapDevice(3, null));
    const queue = new ScanQueue(cable);
    queue.reset();
    expect(bigIntOf(await queue.exchangeDr(bitsFromBigInt(0b11n, 2)))).toBe(0b10n);
  });

  test('an unknown instruction selects BYPASS', async () => {
    const { cable } = cableTo(new Plain(4, 0x12345fff));
    const queue = new ScanQueue(cable);
    queue.reset();
    queue.ir(bitsFromBigInt(9n, 4));
    expect(bigIntOf(await queue.exchangeDr(bitsFromBigInt(1n, 3)))).toBe(0b010n);
  });

  test('what the queue counts is what the cable clocks', async () => {
    const { cable, cycles } = cableTo(new Plain(4, 0x12345fff), new Plain(7, 0x22222003));
    const queue = new ScanQueue(cable);
    queue.reset();
    queue.ir(constantBits(11, 1));
    queue.dr(constantBits(1000, 1));
    queue.clock(17);
    queue.goto('Pause-IR');
    await queue.flush();
    expect(cycles()).toBe(queue.counts.tckCycles);
  });

  test('a long scan gives the same bits whether moved in bulk or one by one', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 3, maxLength: 60 }), fc.integer({ min: 1, max: 6 }), (bytes, devices) => {
        const make = () =>
          cableTo(...Array.from({ length: devices }, (_, i) => new Plain(4, 0x10000001 | (i << 12)))).chain;
        const [bulk, single] = [make(), make()];
        for (const chain of [bulk, single]) chain.run({ kind: 'tms', count: 4, tms: Uint8Array.of(0b0010) });
        const count = bytes.length * 8;
        const all = bulk.run({ kind: 'shift', count, tdi: bytes, capture: true, exit: true }) as Uint8Array;
        for (let i = 0; i < count; i++) {
          const out = single.run({
            kind: 'shift',
            count: 1,
            tdi: Uint8Array.of(((bytes[i >> 3] as number) >> (i & 7)) & 1),
            capture: true,
            exit: i === count - 1,
          }) as Uint8Array;
          expect((out[0] as number) & 1).toBe(((all[i >> 3] as number) >> (i & 7)) & 1);
        }
      }),
      { numRuns: 40 },
    );
  });

  test('one device of a chain is reached while the others are in BYPASS', async () => {
    const parts = [new Plain(4, 0x1000a001), new Plain(6, 0x1000b001), new Plain(5, 0x1000c001)];
    const { cable } = cableTo(...parts);
    for (const [index, expected] of [0x1000a001n, 0x1000b001n, 0x1000c001n].entries()) {
      const queue = new ScanQueue(cable);
      queue.reset();
      const link = new ChainLink(queue, [4, 6, 5], index);
      link.select(2);
      expect(bigIntOf((await link.readNow(32)) as Bits)).toBe(expected);
    }
  });

  test('a cable that fails leaves the queue empty and ready to begin again', async () => {
    const { cable } = cableTo(new Plain(4, 0x12345fff));
    let broken = true;
    const queue = new ScanQueue({
      ...cable,
      run: (ops) => (broken ? Promise.reject(new Error('unplugged')) : cable.run(ops)),
    });
    queue.reset();
    queue.dr(constantBits(8, 1));
    await expect(queue.flush()).rejects.toThrow('unplugged');
    broken = false;
    queue.reset();
    expect(bigIntOf(await queue.exchangeDr(constantBits(32, 0)))).toBe(0x12345fffn);
  });
});

describe('discovery', () => {
  const known = [
    { name: 'A', idcode: 0x0000a001, irLength: 4 },
    { name: 'B', idcode: 0x0000b001, irLength: 9 },
  ];

  test('names, IDCODEs and instruction lengths, whatever the version nibble; index 0 is nearest TDO', async () => {
    const { cable } = cableTo(new Plain(4, 0x7000a001), new Plain(9, 0x3000b001));
    const found = await discoverChain(new ScanQueue(cable), known);
    expect(found.problems).toEqual([]);
    expect(found.irTotal).toBe(13);
    expect(found.devices.map((d) => [d.part, d.irLength, d.idcode])).toEqual([
      ['A', 4, 0x7000a001],
      ['B', 9, 0x3000b001],
    ]);
  });

  test('one device without IDCODE gets the length that is left over', async () => {
    const { cable } = cableTo(new Plain(4, 0x0000a001), new TapDevice(6, null), new Plain(9, 0x0000b001));
    const found = await discoverChain(new ScanQueue(cable), known);
    expect(found.devices.map((d) => d.irLength)).toEqual([4, 6, 9]);
    expect(found.devices[1]).toMatchObject({ idcode: null, part: null });
  });

  test('any chain of up to thirty devices is counted right', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.constantFrom('A', 'B', 'none'), { minLength: 1, maxLength: 30 }), async (kinds) => {
        const make = {
          A: () => new Plain(4, 0x0000a001),
          B: () => new Plain(9, 0x0000b001),
          none: () => new TapDevice(5, null),
        };
        const { cable } = cableTo(...kinds.map((kind) => make[kind as 'A']()));
        const found = await discoverChain(new ScanQueue(cable), known);
        expect(found.devices.map((d) => d.part ?? 'none')).toEqual(kinds);
        expect(found.irTotal).toBe(kinds.reduce((sum, kind) => sum + { A: 4, B: 9, none: 5 }[kind as 'A'], 0));
      }),
      { numRuns: 30 },
    );
  });

  test('an instruction length that does not fit the part is noticed', async () => {
    const { cable } = cableTo(new Plain(8, 0x0000a001));
    expect((await discoverChain(new ScanQueue(cable), known)).problems.map((p) => p.code)).toEqual(['ir-length']);
  });

  test.each([
    [0xff, 'tdo-high'],
    [0x00, 'tdo-low'],
  ])('TDO stuck at %i is told as %s', async (level, code) => {
    const cable: Cable = {
      run: async (ops) =>
        ops.flatMap((op) =>
          op.kind === 'shift' && op.capture ? [new Uint8Array((op.count + 7) >> 3).fill(level)] : [],
        ),
      state: async () => ({ attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1e3, mostHz: 1e7 }),
      setFrequency: async (hz) => hz,
      tckHz: 1e6,
    };
    expect((await discoverChain(new ScanQueue(cable), known)).problems.map((p) => p.code)).toEqual([code]);
  });
});
