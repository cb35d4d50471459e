// docs/walkthrough.md, followed: from "the gate sometimes opens too early" to the captured proof, and to the mended
// design that never triggers.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { probePlan } from '../../core/probes/index.ts';
import { boats } from '../support/boats.ts';
import { mendedProject } from '../support/demo.ts';
import { workbench } from '../support/each.ts';
import { all, did, ended, planned, station, step } from '../support/workbench.ts';

const bench = workbench((made) => all(made, 'scan', 'build'));

const LEVELS = probePlan.parse(JSON.parse(readFileSync('demo/lockhouse/plans/levels.plan.json', 'utf8')));

const done = (pattern: RegExp) =>
  bench.page.getByTestId('job-line').getByText(pattern).first().waitFor({ timeout: 60_000 });
const value = (name: string) => bench.page.getByTestId(`value-lockhouse.${name}`);
const panel = (name: string) =>
  bench.page.getByRole('tablist', { name: 'About the record' }).getByRole('tab', { name }).click();

async function load(): Promise<void> {
  await station(bench.page, 'Load');
  await bench.page.getByRole('button', { name: 'Load', exact: true }).click();
  await done(/DONE is high/);
  await station(bench.page, 'Capture');
}

async function arm(condition: string): Promise<void> {
  const { page } = bench;
  await page.getByLabel('Condition', { exact: true }).fill(condition);
  await page.getByText(/of 3 comparators, 2 of 2 stages/).waitFor();
  await page.getByTestId('trigger-position').click({ position: { x: 128, y: 16 } });
  await page.getByRole('button', { name: 'Arm' }).click();
  await page
    .getByTestId('waiting')
    .getByText(/levels: waiting/)
    .waitFor();
}

describe('a gate that opens too early', () => {
  test('is caught, looked at, kept and compared', { timeout: 600_000 }, async () => {
    await step('a plan is imported, its cost is told, and the build takes it in', async () => {
      const { page } = bench;
      await station(page, 'Probe');
      await page.getByLabel('Plan file').setInputFiles('demo/lockhouse/plans/levels.plan.json');
      await page.getByLabel('in the build').check();
      await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
      expect(await page.getByTestId('plan-cost').locator('[data-over]').count()).toBe(0);
      await ended(page, /for CV25: [\d,]+ LUTs/, () => page.getByRole('button', { name: 'Build with probes' }).click());
      await load();
    });

    await step('the condition waits through good passages and triggers at a torn level', async () => {
      const { page } = bench;
      await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
      await arm('gate_lower rises then chamber_level > 20 within 400');
      const taken = await boats(
        page,
        200,
        async () => (await page.getByTestId('value-lockhouse.chamber_level').count()) > 0,
      );
      expect(taken, 'it triggered').toBe(true);
      // The board remembers the last gate alone, which may be that of a later boat, and its picture comes after the
      // record.
      await expect
        .poll(() => page.getByTestId('lock').getAttribute('data-surge'), { timeout: 5000 })
        .toMatch(/^(lower 2|upper 1)\d\d$/);
    });

    await step(
      'the record shows the old low byte beside the new high one, for eight bits of the converter',
      async () => {
        const { page } = bench;
        await page.getByRole('button', { name: 'Menu of lockhouse.chamber_level' }).click();
        await page.getByRole('menuitemcheckbox', { name: 'unsigned' }).click();
        const level = () => value('chamber_level').innerText();
        expect(Number(await level())).toBeGreaterThan(200);
        await value('chamber_level').click();
        await page.getByRole('button', { name: 'Previous edge' }).click();
        await page.getByRole('button', { name: 'Cursor', exact: true }).click();
        // The second cursor goes to where the level was still the torn one, and from there to its other end.
        await page.getByRole('button', { name: 'Cursor B', exact: true }).click();
        await page.getByRole('button', { name: 'Previous edge' }).click();
        await panel('Measure');
        await page
          .getByTestId('between')
          .getByText(/samples/)
          .waitFor();
        await panel('Find');
        await page.getByLabel('Sentence to find').fill('chamber_level < 20');
        await page.getByRole('button', { name: 'Find', exact: true }).last().click();
        await page
          .getByTestId('found')
          .getByText(/Holds in \d+ place/)
          .waitFor();
        expect(Number(await level())).toBeLessThan(20);
        await page
          .getByRole('cell', { name: /^15[345] samples, 12\.\d+ µs$/ })
          .first()
          .waitFor();
        await page.getByLabel('Sentence to find').fill('whenever gate_lower rises, chamber_level > 20');
        await page.getByRole('button', { name: 'Find', exact: true }).last().click();
        await page.getByTestId('found').getByText('Broken in 1 place.').waitFor();
        await page.getByRole('button', { name: 'Keep', exact: true }).last().click();
        await page
          .getByTestId('remarks')
          .getByText(/1 place marked/)
          .waitFor();
        await panel('Notes');
        await page.getByLabel('Note', { exact: true }).fill('new high byte, old low byte');
        await page.getByRole('button', { name: /^Pin at/ }).click();
        await page.getByRole('listitem').getByText('new high byte, old low byte').waitFor();
      },
    );

    await step('how it was looked at is there again after a reload; the record leaves as CSV', async () => {
      const { page } = bench;
      const kept = async () =>
        JSON.stringify(
          (await bench.api.capture.read.query({ id: (await bench.api.capture.list.query())?.captures[0]?.id ?? 0 }))
            .view,
        );
      await expect.poll(kept).toContain('new high byte');
      await page.reload();
      await value('chamber_level').waitFor();
      expect(await value('chamber_level').innerText()).toMatch(/^\d+$/);
      await page
        .getByTestId('remarks')
        .getByText(/1 place marked/)
        .waitFor();
      const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('csv').click()]);
      expect(readFileSync((await download.path()) ?? '', 'utf8')).toMatch(
        /^sample,seconds,lockhouse\.u_sequencer\.state,/,
      );
    });

    await step('a simulation is laid beside the capture, cycle by cycle', async () => {
      const { page } = bench;
      const run = { testbench: 'lockhouse_tb', parameters: {}, plusargs: [], until: '400us' };
      const job = await did(bench, { kind: 'simulation', ...run });
      expect(job).toMatchObject({ state: 'done' });
      await panel('Compare');
      const simulated = page.getByRole('option', { name: /^simulated: lockhouse_tb/ });
      await page.getByLabel('Other capture').selectOption((await simulated.getAttribute('value')) ?? '');
      await page.getByLabel('Alignment').selectOption('best');
      expect(await page.getByLabel('Counted in').inputValue()).toBe('clock');
      await page.getByRole('button', { name: 'Compare', exact: true }).last().click();
      await page
        .getByTestId('compared')
        .getByText(/moved by [\d,-]+ cycles, of the instance lockhouse_tb\.dut/)
        .waitFor();
    });

    await step(
      'a second record is compared with the first as reference, and a dump from elsewhere is opened',
      async () => {
        const { page } = bench;
        await page.getByRole('button', { name: 'Make reference' }).click();
        await page.getByRole('button', { name: 'Reference', exact: true }).waitFor();
        await page.getByRole('button', { name: 'Take now' }).click();
        await done(/^Capture 2: 1,024 samples/);
        await page
          .getByTestId('about')
          .getByText(/trigger at 0,/)
          .waitFor();
        await panel('Compare');
        await page.getByLabel('Alignment').selectOption('best');
        await page.getByRole('button', { name: 'Compare', exact: true }).last().click();
        await page
          .getByTestId('compared')
          .getByText(/difference/)
          .waitFor();
        await page.getByLabel('VCD file').setInputFiles({
          name: 'other.vcd',
          mimeType: 'text/plain',
          buffer: Buffer.from(
            '$timescale 1 us $end $scope module top $end $var wire 1 ! tx $end $var wire 8 " data $end $upscope $end ' +
              '$enddefinitions $end #0 1! b0 " #100 0! b101 " #200 1! #300 0! #1400',
          ),
        });
        await page.getByTestId('value-top.data').waitFor();
        await page.getByRole('button', { name: 'Back to the captures' }).click();
      },
    );
  });

  test('mended as the walkthrough says, the same condition sees every gate open, and never triggers', async () => {
    const { page } = bench;
    await planned(bench, LEVELS);
    await all(bench, 'scan', 'build', 'load');
    await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
    await station(page, 'Design');
    await page.getByRole('button', { name: 'rtl/levels.v' }).click();
    const editor = page.getByLabel('Source rtl/levels.v');
    await editor.waitFor();
    await editor.fill(mendedProject().files.find(({ name }) => name === 'rtl/levels.v')?.text ?? '');
    await page.getByTestId('state-design').getByText('stale').waitFor();
    const before = await page.getByText(/^Fingerprint/).innerText();
    await page.getByRole('button', { name: 'Build', exact: true }).click();
    await expect.poll(() => page.getByText(/^Fingerprint/).innerText(), { timeout: 30_000 }).not.toBe(before);
    await page.getByTestId('state-design').getByText('built').waitFor();
    await station(page, 'Capture');
    await page.getByText(/The board runs build [0-9a-f]{8}, this recorder belongs to build [0-9a-f]{8}/).waitFor();
    await load();
    await arm('gate_lower rises then chamber_level > 20 within 400');
    const opened = async () =>
      Number(
        /true in ([\d,]+)/
          .exec(
            await page.getByTestId('conditions').getByRole('row').filter({ hasText: 'gate_lower rises' }).innerText(),
          )?.[1]
          ?.replace(',', '') ?? 0,
      );
    expect(await boats(page, 80, async () => (await opened()) >= 3), 'the lower gate opened again and again').toBe(
      true,
    );
    await page
      .getByTestId('waiting')
      .getByText(/levels: waiting/)
      .waitFor();
    expect(await page.getByTestId('lock').getAttribute('data-surge'), 'no gate opened at unequal levels').toBe('');
    await page.getByTestId('waiting').getByRole('button', { name: 'Cancel' }).click();
    await done(/Cancelled while waiting; the recorder is disarmed/);
  }, 240_000);
});
