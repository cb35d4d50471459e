// The second way of docs/walkthrough.md: the ports of two instances recorded, everything in them seen, the torn level
// found by asking why, taken to simulation, and mended.
import { describe, expect, test } from 'vitest';
import { boats } from '../support/boats.ts';
import { mendedProject } from '../support/demo.ts';
import { workbench } from '../support/each.ts';
import { all, ended, openView, station, step } from '../support/workbench.ts';

const bench = workbench((made) => all(made, 'scan', 'build'));

const done = (pattern: RegExp) =>
  bench.page.getByTestId('job-line').getByText(pattern).first().waitFor({ timeout: 60_000 });
const panel = (name: string) =>
  bench.page.getByRole('tablist', { name: 'About the record' }).getByRole('tab', { name }).click();
const value = (name: string) => bench.page.getByTestId(`value-lockhouse.${name}`);

async function buildAndLoad(): Promise<void> {
  const { page } = bench;
  await station(page, 'Probe');
  await ended(page, /for CV25: [\d,]+ LUTs/, () => page.getByRole('button', { name: 'Build with probes' }).click());
  await station(page, 'Load');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await done(/DONE is high/);
  await station(page, 'Capture');
}

/** Runs the record's testbench, and says how it ended. */
async function simulated(): Promise<string> {
  const { page } = bench;
  await panel('Into simulation');
  await page.getByLabel('Instance to simulate').selectOption('lockhouse.u_levels');
  await page.getByRole('button', { name: 'Run it in simulation' }).click();
  const outcome = page.getByTestId('simulation');
  await outcome.waitFor();
  return outcome.innerText();
}

describe('a gate that opens too early, seen from its ports alone', () => {
  test('all is computed, why leads to the torn level, the testbench agrees', { timeout: 600_000 }, async () => {
    await step('two instances are ticked, the least to record is worked out, and goes into the build', async () => {
      const { page } = bench;
      await station(page, 'Replay');
      await page.getByRole('checkbox', { name: 'u_levels' }).check();
      await page.getByRole('checkbox', { name: 'u_sequencer' }).check();
      for (const name of ['u_sequencer.state', 'u_levels.chamber']) {
        await page.getByLabel('Record in any case: a signal').fill(name);
        await page.getByLabel('Record in any case: a signal').press('Enter');
      }
      const proposal = page.getByTestId('proposal');
      await proposal.waitFor();
      const stored = async () => Number(/(\d+) bits? a sample/.exec(await proposal.innerText())?.[1] ?? 999);
      for (let i = 0; i < 5 && (await stored()) > 40; i++) await page.getByRole('slider').press('ArrowRight');
      expect(await stored()).toBeLessThanOrEqual(40);
      await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
      await page.getByRole('button', { name: 'Put it into the build' }).click();
      await page.getByText('The plan replay is on the shelf').waitFor();
      await buildAndLoad();
    });

    await step('it is captured when the gate is open and the level is far', async () => {
      const { page } = bench;
      await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
      await page.getByLabel('Condition', { exact: true }).fill('state == LOWER_OPEN and chamber > 20');
      await page.getByTestId('trigger-position').click({ position: { x: 180, y: 16 } });
      await page.getByRole('button', { name: 'Arm' }).click();
      await page
        .getByTestId('waiting')
        .getByText(/waiting/)
        .waitFor();
      expect(await boats(page, 200, async () => (await value('u_levels.chamber').count()) > 0), 'it triggered').toBe(
        true,
      );
      await page.getByRole('button', { name: 'See what follows from it' }).click();
      await value('u_sequencer.gate_lower').waitFor();
    });

    await step('why the gate is open leads to the level that was torn', async () => {
      await value('u_sequencer.gate_lower').click();
      const why = bench.page.getByRole('list', { name: 'Why' });
      await why.getByText('u_sequencer.gate_lower').waitFor();
      for (const cause of ['u_sequencer.state', 'u_sequencer.empty', 'u_levels.chamber'])
        await why
          .getByRole('listitem')
          .last()
          .getByRole('button', { name: new RegExp(cause) })
          .click();
      // The high byte of a new level, before the low one has come.
      await why
        .getByRole('listitem')
        .last()
        .getByRole('button', { name: /u_levels\.data/ })
        .waitFor();
    });

    await step('record and design agree, and so does the simulation of what was recorded', async () => {
      await panel('What is known');
      await bench.page.getByText('agree wherever both say something').waitFor();
      // What was neither recorded nor set in the meantime was read once, and counts backwards too.
      await bench.page.getByText(/bits? behind the trigger, in sample \d+/).waitFor();
      expect(await value('u_sequencer.passages').innerText()).toMatch(/^0x[0-9A-F]{4}$/);
      expect(await simulated()).toMatch(/agree in every bit[\s\S]*no difference from the hardware/);
    });

    await step('mended, its own record agrees as well, and the level is never torn', async () => {
      const { page } = bench;
      await openView(page, 'Design', 'Sources');
      await page.getByRole('button', { name: 'rtl/levels.v' }).click();
      await page
        .getByLabel('Source rtl/levels.v')
        .fill(mendedProject().files.find(({ name }) => name === 'rtl/levels.v')?.text ?? '');
      await page.getByTestId('state-design').getByText('stale').waitFor();
      await buildAndLoad();
      await page.getByRole('button', { name: 'Take now' }).click();
      await done(/^Capture 2/);
      await page.getByRole('button', { name: 'See what follows from it' }).click();
      await value('u_levels.high').waitFor();
      expect(await simulated()).toMatch(/agree in every bit/);
    });
  });
});
