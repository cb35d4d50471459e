// Rows on something that is held between them: what is set, what is compared, where it stops.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fail, ok, problem } from '../result.ts';
import {
  differencesOf,
  type HardwareOptions,
  type HardwareRun,
  parseVectors,
  type RowTarget,
  runOnHardware,
  runVectors,
} from './index.ts';

const INPUTS = [
  { name: 'a', width: 4 },
  { name: 'b', width: 4 },
];
const OUTPUTS = [{ name: 's', width: 5 }];

/** Something that adds, and notes what it was told. */
function adder(wrongAt: number | null = null, lostAt: number | null = null) {
  const told: { inputs: Record<string, number>; cycles: number }[] = [];
  const now = { a: 0n, b: 0n };
  const target: RowTarget = {
    row: async (inputs, cycles) => {
      if (told.length === lostAt) return fail(problem('link-lost', 'It is gone.'));
      Object.assign(now, Object.fromEntries(inputs));
      told.push({ inputs: Object.fromEntries([...inputs].map(([name, value]) => [name, Number(value)])), cycles });
      const sum = now.a + now.b;
      return ok(new Map([['s', told.length - 1 === wrongAt ? sum ^ 1n : sum]]));
    },
  };
  return { told, target };
}

async function run(text: string, target: RowTarget, options: Partial<HardwareOptions> = {}): Promise<HardwareRun> {
  const vectors = parseVectors('t.csv', text, INPUTS, OUTPUTS);
  if (!vectors.ok) throw new Error(vectors.error.message);
  const ran = await runOnHardware(vectors.value, target, { clock: 'clk', ...options });
  if (!ran.ok) throw new Error(ran.error.code);
  return ran.value;
}

describe('rows on hardware', () => {
  test('set what the row says and leave the rest, with as many cycles as are asked for, one where nothing is', async () => {
    const { told, target } = adder();
    const ran = await run('a,b,cycles,=s\n3,4,,7\n,5,10,8\n0x9,,0,14\n', target);
    expect(told).toEqual([
      { inputs: { a: 3, b: 4 }, cycles: 1 },
      { inputs: { b: 5 }, cycles: 10 },
      { inputs: { a: 9 }, cycles: 0 },
    ]);
    expect(ran).toMatchObject({ passed: 3, failed: 0, stopped: null, notAsked: 0 });
    expect(ran.rows.map(({ set, actual }) => [set, actual])).toEqual([
      [
        ['3', '4', null, null],
        [null, null, null, '7'],
      ],
      [
        [null, '5', null, null],
        [null, null, null, '8'],
      ],
      [
        ['0x9', null, null, null],
        [null, null, null, '14'],
      ],
    ]);
    const still = adder();
    await run('a,b\n1,2\n', still.target, { clock: null });
    expect(still.told[0]?.cycles, 'without a clock there is no cycle').toBe(0);
  });

  test('each row that fails is told, in the notation of what was expected', async () => {
    const { target } = adder(1);
    const ran = await run('a,b,=s\n1,1,0x02\n2,2,0b00100\n3,3,6\n', target);
    expect(ran).toMatchObject({ passed: 2, failed: 1 });
    expect(ran.failures).toEqual([{ row: 2, port: 's', expected: '0b00100', actual: '0b00101' }]);
  });

  test('it stops at the first difference, where it is cancelled and where it is lost; rows so far are kept', async () => {
    const text = 'a,b,=s\n1,1,2\n2,2,4\n3,3,6\n4,4,8\n';
    const first = await run(text, adder(1).target, { stopAtFirst: true });
    expect([first.rows.length, first.stopped]).toEqual([2, 'difference']);
    const lost = await run(text, adder(null, 3).target);
    expect([lost.passed, lost.stopped]).toMatchObject([3, { code: 'link-lost' }]);
    let rows = 0;
    const watch = { report: () => void rows++, cancelled: () => rows >= 2 };
    const cancelled = await run(text, adder().target, { watch });
    expect([cancelled.passed, cancelled.stopped]).toEqual([2, 'cancelled']);
  });

  test('what cannot be driven is refused before anything is; what cannot be answered is not asked', async () => {
    const { told, target } = adder();
    await expect(run('a,b,=s\n1,1,2\n0bz000,1,2\n', target)).rejects.toThrow('floating-input');
    expect(told).toEqual([]);
    const ran = await run('a,b,=s\n1,1,0bz0u1x\n', target);
    // Of five bits one is to float, one to be unknown, and one asks nothing.
    expect([ran.failed, ran.notAsked]).toEqual([0, 2]);
  });

  test('open digits are filled in from a number: the same for the same, within the digits that are open', () =>
    fc.assert(
      fc.asyncProperty(fc.nat(1_000_000), fc.stringMatching(/^[01x]{4}$/), async (seed, digits) => {
        const text = `a,b\n0b${digits},0bxxxx\n0bxxxx,0b${digits}\n`;
        const [one, two] = [adder(), adder()];
        await run(text, one.target, { seed });
        await run(text, two.target, { seed });
        expect(one.told).toEqual(two.told);
        const bits = (one.told[0]?.inputs.a ?? 0).toString(2).padStart(4, '0');
        for (const [i, digit] of [...digits].entries()) if (digit !== 'x') expect(bits[i]).toBe(digit);
      }),
    ));
});

describe('differences from simulation', () => {
  const FILES = [
    {
      name: 't.v',
      text: `module t(input clk, input [3:0] a, b, output [4:0] s, output reg [3:0] held);
        assign s = a + b; always @(posedge clk) if (a[0]) held <= b; endmodule`,
    },
  ];

  test('are told by row and output; what nobody knows in simulation differs from nothing', async () => {
    const text = 'a,b,=s,=held\n2,1,,\n1,5,6,5\n2,9,11,\n';
    const simulation = runVectors(FILES, { name: 't.csv', text }, { top: 't' });
    if (!simulation.ok) throw new Error(simulation.error.message);
    expect(simulation.value.actual[0]?.[3], 'it was not loaded yet').toMatch(/x/);
    const vectors = parseVectors('t.csv', text, INPUTS, [...OUTPUTS, { name: 'held', width: 4 }]);
    if (!vectors.ok) throw new Error(vectors.error.message);
    const held = [0n, 5n, 4n];
    const sums = [3n, 6n, 11n];
    let row = -1;
    const target: RowTarget = {
      row: async () =>
        ok(
          new Map([
            ['s', sums[++row] ?? 0n],
            ['held', held[row] ?? 0n],
          ]),
        ),
    };
    const hardware = await runOnHardware(vectors.value, target, { clock: 'clk' });
    expect(hardware.ok && differencesOf(simulation.value, hardware.value)).toEqual([
      { row: 3, port: 'held', simulation: '0x5', hardware: '0x4' },
    ]);
  });
});
