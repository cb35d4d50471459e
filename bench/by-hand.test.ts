import fc from 'fast-check';
import { expect, test } from 'vitest';
import { bigIntOf, bitsFromBigInt } from '../core/bits/index.ts';
import { readBsdl } from '../core/bsdl/index.ts';
import { familyOf } from '../core/families/index.ts';
import {
  handHex,
  handScansAsSvf,
  type HandStep,
  instructionsOf,
  playSvf,
  scanByHand,
  typedBits,
} from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { chainOn } from '../tests/support/chain-on.ts';
import { counterBench } from '../tests/support/counter.ts';

const entityOf = (part: string, packageName: string) => {
  const { entity } = readBsdl(familyOf(part)?.describe(part, packageName) ?? '');
  if (!entity) throw new Error(part);
  return entity;
};
const opcodeOf = (part: string, packageName: string, name: string): bigint => {
  const found = instructionsOf(entityOf(part, packageName)).find((one) => one.name === name);
  return BigInt(`0b${found?.opcode ?? ''}`);
};

test('instructions of a description come with their registers, lengths, and what they do to the pins', () => {
  const all = instructionsOf(entityOf('SP64', 'Q64'));
  const of = (name: string) => all.find((one) => one.name === name);
  // IEEE 1149.1: BYPASS is one bit, the device identification register thirty-two, SAMPLE selects the boundary register.
  expect(of('BYPASS')).toMatchObject({ register: 'BYPASS', length: 1, pins: null, opcode: '11111' });
  expect(of('IDCODE')).toMatchObject({ length: 32, pins: null });
  expect(of('SAMPLE')).toMatchObject({ register: 'BOUNDARY', length: entityOf('SP64', 'Q64').boundaryLength });
  expect(of('EXTEST')?.pins).toMatch(/drives the pins/);
  expect(of('HIGHZ')?.pins).toMatch(/lets go/);
});

test('one device is asked, the others are in BYPASS: its identity, and what Capture-IR loads', async () => {
  const { cable } = counterBench(1e6);
  const chain = chainOn(cable);
  const scan = await chain.rescan();
  for (const [place, part, pack] of [
    [0, 'SP64', 'Q64'],
    [1, 'CV25', 'Q100'],
  ] as const) {
    const asked = await scanByHand(chain, {
      place,
      opcode: opcodeOf(part, pack, 'IDCODE'),
      data: bitsFromBigInt(0n, 32),
    });
    if (!asked.ok) throw new Error(asked.error.message);
    const { captured, irCaptured } = asked.value;
    expect(captured && bigIntOf(captured)).toBe(BigInt(scan.devices[place]?.idcode ?? 0));
    // IEEE 1149.1: the two least significant bits that Capture-IR loads are 01.
    expect(bigIntOf(irCaptured) & 3n).toBe(1n);
  }
});

test('BYPASS is one bit that captures 0: what is shifted too far has passed the bit of every device', async () => {
  const { cable } = counterBench(1e6);
  const chain = chainOn(cable);
  await chain.rescan();
  const places = fc.constantFrom([0, 0b11111n] as const, [1, 0b111111n] as const);
  await fc.assert(
    fc.asyncProperty(places, fc.bigInt({ min: 0n, max: (1n << 40n) - 1n }), async ([place, opcode], value) => {
      const asked = await scanByHand(chain, { place, opcode, data: bitsFromBigInt(value, 40) });
      expect(asked.ok && asked.value.captured && bigIntOf(asked.value.captured)).toBe(BigInt.asUintN(40, value << 2n));
    }),
    { numRuns: 30 },
  );
});

test('what does not fit is refused before anything is shifted', async () => {
  const { cable } = counterBench(1e6);
  const chain = chainOn(cable);
  expect(await scanByHand(chain, { place: 0, opcode: 32n, data: null })).toMatchObject({
    error: { code: 'hand-opcode' },
  });
  expect(await scanByHand(chain, { place: 2, opcode: 1n, data: null })).toMatchObject({
    error: { code: 'hand-place' },
  });
  for (const text of ['', '0x', 'abc', '0b12', '1.5', '-1'])
    expect(typedBits(text, 8)).toMatchObject({ error: { code: 'hand-value' } });
  expect(typedBits('256', 8)).toMatchObject({
    error: { code: 'hand-value', message: expect.stringContaining('8 bits') },
  });
});

test('a value is taken in any radix', () => {
  for (const text of ['165', '0xa5', '0xA5', '0b1010_0101', '0o245']) {
    const bits = typedBits(text, 12);
    expect(bits.ok && handHex(bits.value)).toBe('0x0A5');
  }
});

test('written down as SVF they play again, and a board that answers otherwise is told by its line', async () => {
  const { cable } = counterBench(1e6);
  const chain = chainOn(cable);
  const scan = await chain.rescan();
  const steps: HandStep[] = [];
  for (const [place, opcode] of [
    [1, opcodeOf('CV25', 'Q100', 'IDCODE')],
    [0, opcodeOf('SP64', 'Q64', 'IDCODE')],
  ] as const) {
    const asked = await scanByHand(chain, { place, opcode, data: bitsFromBigInt(0n, 32) });
    if (!asked.ok) throw new Error(asked.error.message);
    const { irLength, captured } = asked.value;
    const data = bitsFromBigInt(0n, 32);
    steps.push({ place, opcode, data, irLength, captured, expects: true, remark: `device ${place}, IDCODE` });
  }
  const irLengths = scan.devices.map(({ irLength }) => irLength ?? 0);
  const text = handScansAsSvf(steps, irLengths);
  const play = (svf: string) => playSvf(cable, [new TextEncoder().encode(svf)], unwatched, {});
  expect(await play(text)).toMatchObject({ ok: true, mismatches: [] });
  const other = await play(text.replace(/TDO \((.)/g, (_, digit: string) => `TDO (${digit === '1' ? '2' : '1'}`));
  expect(other.mismatches.length).toBeGreaterThan(0);
});
