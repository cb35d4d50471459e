// Drive: one table in simulation and on the hardware, side by side, and a clock that is held between its edges.
import { strToU8 } from 'fflate';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, ended, imported, openView, step } from '../support/workbench.ts';

const settings = (top: string, clocks: Readonly<Record<string, number>>) =>
  strToU8(
    JSON.stringify({
      ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [] },
      ...{ name: top, part: 'CV25', top, pins: 'pins.csv', clocks },
    }),
  );

const ADDER = {
  'nimble.json': settings('adder', {}),
  'adder.v': strToU8('module adder(input [2:0] a, b, output [3:0] s);\n  assign s = a + b;\nendmodule\n'),
  'adder.csv': strToU8(
    `a,b,=s\n${Array.from({ length: 64 }, (_, i) => `${i >> 3},${i & 7},${(i >> 3) + (i & 7)}`).join('\n')}\n`,
  ),
  'pins.csv': strToU8(''),
};

/** Eleven rows of a flip-flop with enable and a count of its clock, by hand; the sixth expects what never comes. */
const FLIP_FLOP = {
  'nimble.json': settings('ff', { clk: 12e6 }),
  'ff.v': strToU8(
    'module ff(input clk, en, input [7:0] d, output reg [7:0] q = 0, output reg [15:0] n = 0);\n' +
      '  always @(posedge clk) begin if (en) q <= d; n <= n + 1; end\nendmodule\n',
  ),
  'ff.csv': strToU8(
    'en,d,cycles,=q,=n\n0,17,1,0,1\n1,17,1,17,2\n0,99,3,17,5\n1,99,0,17,5\n1,99,1,99,6\n1,100,1,101,7\n' +
      '0,1,250,100,257\n1,1,1,1,258\n1,2,1,2,259\n1,3,1,3,260\n0,255,5,3,265\n',
  ),
  'pins.csv': strToU8('clk,P1\n'),
};

const bench = workbench(async (made) => {
  await all(made, 'scan');
});
const press = (name: string) => bench.page.getByRole('button', { name, exact: true }).click();
const outcome = () => bench.page.getByTestId('table-outcome').textContent();

async function tableOf(files: Readonly<Record<string, Uint8Array>>): Promise<void> {
  const { page } = bench;
  await imported(bench, files);
  await page.reload();
  await all(bench, 'build');
  await openView(page, 'Drive', 'Table');
  await ended(page, /for CV25: [\d,]+ LUTs/, () => press('Make the plan, build'));
  await ended(page, /passed/, () => press('Load and run'));
}

describe('a table of vectors on the hardware', () => {
  test('a 3-bit adder: 64 rows, as in simulation', { timeout: 180_000 }, async () => {
    await tableOf(ADDER);
    await expect.poll(outcome).toMatch(/64 passed, 0 failed, as in simulation/);
    expect(await bench.page.getByTestId('first-difference').count()).toBe(0);
  });

  test('all combinations in one go, against an expression: the rows that differ', { timeout: 180_000 }, async () => {
    const { page } = bench;
    await imported(bench, ADDER);
    await page.reload();
    await all(bench, 'build');
    await openView(page, 'Drive', 'Table');
    const wanted = page.getByLabel('What outputs are wanted to be');
    await wanted.fill('s = a + c');
    await press('Table of all combinations');
    await page.getByText(/"s = a \+ c" cannot be computed/).waitFor();
    await wanted.fill("s = (a + b) & 4'd7");
    await press('Table of all combinations');
    await expect.poll(() => page.getByLabel('Table', { exact: true }).inputValue()).toBe('truth.csv');
    await ended(page, /for CV25: [\d,]+ LUTs/, () => press('Make the plan, build'));
    await ended(page, /passed/, () => press('Load and run'));
    // Of all sums of two numbers below eight, 28 have a carry.
    await expect.poll(outcome).toMatch(/36 passed, 28 failed, as in simulation/);
    await page.getByLabel('only rows that differ').check();
    await page.getByText('28 rows', { exact: true }).waitFor();
  });

  test('a flip-flop with enable: the one row that is wrong is shown; its clock is held and stepped', {
    timeout: 240_000,
  }, async () => {
    const { page } = bench;
    await step('the rows', async () => {
      await tableOf(FLIP_FLOP);
      await expect.poll(outcome).toMatch(/10 passed, 1 failed, as in simulation/);
      expect(await page.getByTestId('first-difference').textContent()).toMatch(/row 6.*q is 100, expected 101/);
      expect(await page.getByRole('row', { name: /^6 failed/ }).isVisible(), 'it is in sight').toBe(true);
      // The waves of both.
      await page.getByText('q on hardware').first().waitFor();
      await page.getByText('q in simulation').first().waitFor();
    });
    await step('nothing behind the first difference where that is wanted', async () => {
      await page.getByLabel('stop at the first difference').check();
      await ended(page, /5 rows passed, 1 failed/, () => press('Load and run'));
      await page.getByText('6 of 11 rows were run').waitFor();
    });
    await step('the clock stands where the table left it, and goes on by steps', async () => {
      await openView(page, 'Drive', 'Panel');
      const count = () => page.getByTestId('gauge-ff.n').textContent();
      await expect.poll(() => page.getByTestId('stepper-state').textContent()).toBe('held');
      await expect.poll(count).toBe('7');
      await press('Step');
      await expect.poll(count).toBe('8');
      await page.getByLabel('Number of steps').fill('500');
      await press('steps');
      await expect.poll(count).toBe('508');
      await expect.poll(() => page.getByTestId('steps-made').textContent()).toMatch(/^501 steps/);
      await page.getByLabel('Value for ff.d').fill('0x5A');
      await page.getByLabel('Value for ff.d').press('Enter');
      await expect.poll(() => page.getByTestId('gauge-ff.q').textContent(), { message: 'it is held' }).toBe('100');
      await press('Step');
      await expect.poll(() => page.getByTestId('gauge-ff.q').textContent()).toBe('90');
      await press('Let go');
      await expect.poll(() => page.getByTestId('stepper-state').textContent()).toBe('runs');
      const now = await count();
      await expect.poll(count).not.toBe(now);
    });
  });
});
