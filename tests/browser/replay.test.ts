// The second way of docs/walkthrough.md: the ports of two instances recorded, everything in them seen, the torn level
// found by asking why, and taken to simulation.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, did, ended, station, step } from '../support/workbench.ts';

const bench = workbench((made) => all(made, 'scan', 'build'));

const done = (pattern: RegExp) =>
  bench.page.getByTestId('job-line').getByText(pattern).first().waitFor({ timeout: 60_000 });
const panel = (name: string) =>
  bench.page.getByRole('tablist', { name: 'About the record' }).getByRole('tab', { name }).click();
const value = (name: string) => bench.page.getByTestId(`value-lockhouse.${name}`);
const shot = async (name: string) => {
  if (process.env.SHOTS) await bench.page.screenshot({ path: `${process.env.SHOTS}/${name}.png` });
};

/** Sends boats up and down until something holds. */
async function boats(until: () => Promise<boolean>): Promise<boolean> {
  for (let i = 0; i < 200; i++) {
    await bench.page
      .getByRole('button', { name: i % 2 === 0 ? 'Button B0, upper boat' : 'Button B1, lower boat' })
      .click({ delay: 40 });
    const came = await expect
      .poll(until, { timeout: 250 })
      .toBe(true)
      .then(
        () => true,
        () => false,
      );
    if (came) return true;
  }
  return false;
}

async function captureWith(condition: string, until: () => Promise<boolean>): Promise<void> {
  const { page } = bench;
  await station(page, 'Load');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await done(/DONE is high/);
  await station(page, 'Capture');
  await page.getByLabel('Condition', { exact: true }).fill(condition);
  await page.getByTestId('trigger-position').click({ position: { x: 180, y: 16 } });
  await page.getByRole('button', { name: 'Arm' }).click();
  if (condition === '') return;
  await page
    .getByTestId('waiting')
    .getByText(/replay: waiting/)
    .waitFor();
  expect(await boats(until), 'it triggered').toBe(true);
}

describe('a gate that opens too early, seen from its ports alone', () => {
  test('everything inside is computed, why leads to the torn level, the testbench agrees', {
    timeout: 600_000,
  }, async () => {
    const { page } = bench;
    await step('two instances are ticked, the least to record is worked out, and goes into the build', async () => {
      await station(page, 'Replay');
      await page.getByRole('checkbox', { name: 'u_levels' }).check();
      await page.getByRole('checkbox', { name: 'u_sequencer' }).check();
      for (const name of ['u_sequencer.state', 'u_levels.chamber']) {
        await page.getByLabel('Record in any case: a signal').fill(name);
        await page.getByLabel('Record in any case: a signal').press('Enter');
      }
      const stored = async () =>
        Number(/(\d+) bits? a sample/.exec(await page.getByTestId('proposal').innerText())?.[1] ?? 999);
      await page.getByTestId('proposal').waitFor();
      await shot('record-1');
      const slider = page.getByRole('slider');
      for (let i = 0; i < 5 && (await stored()) > 40; i++) await slider.press('ArrowRight');
      expect(await stored()).toBeLessThanOrEqual(40);
      await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
      await shot('record-2');
      await page.getByRole('button', { name: 'Put it into the build' }).click();
      await page.getByText('The plan replay is on the shelf').waitFor();
      await station(page, 'Probe');
      await ended(page, /for CV25: [\d,]+ LUTs/, () => page.getByRole('button', { name: 'Build with probes' }).click());
    });

    await step('it is captured when the gate is open and the level is far', async () => {
      await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
      await captureWith(
        'state == LOWER_OPEN and chamber > 20',
        async () => (await value('u_levels.chamber').count()) > 0,
      );
      await shot('capture');
      await page.getByRole('button', { name: 'See what follows from it' }).click();
      await value('u_sequencer.gate_lower').waitFor({ timeout: 10_000 });
      await shot('signals-1');
    });

    await step('why the gate is open leads to the level that was torn', async () => {
      await value('u_sequencer.gate_lower').click();
      const why = page.getByRole('list', { name: 'Why' });
      await why.getByText('u_sequencer.gate_lower').waitFor();
      await shot('why-1');
      for (const cause of ['u_sequencer.state', 'u_sequencer.empty', 'u_levels.chamber'])
        await why
          .getByRole('listitem')
          .last()
          .getByRole('button', { name: new RegExp(cause) })
          .click();
      // The high byte of a new level, before the low one has come.
      await why.getByRole('listitem').last().getByRole('button', { name: /u_levels\.data/ }).waitFor();
      await shot('why-2');
    });

    await step('the record runs in simulation and agrees', async () => {
      await panel('What is known');
      await shot('known');
      await panel('Into simulation');
      await shot('simulation-0');
      await page.getByRole('button', { name: 'Run it in simulation' }).click();
      await page.waitForTimeout(9000);
      await shot('simulation-1');
      await page.getByTestId('simulation').waitFor({ timeout: 5000 });
      await shot('simulation');
      console.log(await page.getByTestId('simulation').innerText());
    });
  });
});
void readFileSync;
void did;
void panel;
