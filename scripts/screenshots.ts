// Takes one picture of every station with the demo's own data. Writes docs/screenshots/; a folder as argument takes them there.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openWorkbench, station } from '../tests/support/workbench.ts';

const folder = process.argv[2] ?? join('docs', 'screenshots');

async function main(): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const bench = await openWorkbench();
  const { page } = bench;
  const shoot = async (name: string) => {
    await page.waitForTimeout(700);
    await page.screenshot({ path: join(folder, `${name}.png`) });
  };
  const ended = (text: RegExp) => page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
  try {
    await page.getByTestId('lamp-power').waitFor();
    await page.getByRole('button', { name: 'Scan' }).click();
    await ended(/3 devices/);
    await shoot('bench');
    await station(page, 'Design');
    await page.getByRole('button', { name: 'Build', exact: true }).click();
    await ended(/^Build [0-9a-f]{8}/);
    await station(page, 'Probe');
    for (const [use, name] of [
      ['Record', 'lockhouse.u_sequencer.state'],
      ['Record', 'lockhouse.u_sequencer.call_upper'],
      ['Record', 'lockhouse.u_sequencer.want_upper'],
      ['Record', 'lockhouse.sluice_upper'],
      ['Record', 'lockhouse.level'],
      ['Record', 'lockhouse.u_upper.quiet'],
      ['Lever', 'lockhouse.level_trim'],
      ['Lever', 'lockhouse.u_sequencer.hold'],
      ['Gauge', 'lockhouse.level'],
      ['Gauge', 'lockhouse.passages'],
      ['Gauge', 'lockhouse.u_sequencer.state'],
    ]) {
      await page.getByRole('button', { name: `${use} ${name}`, exact: true }).click();
    }
    await page.getByRole('button', { name: 'Build with probes' }).click();
    await page.waitForTimeout(300);
    await ended(/^Build [0-9a-f]{8}.*[1-9]\d* block RAMs/);
    await shoot('probe');
    await station(page, 'Design');
    await page.getByRole('button', { name: 'rtl/sequencer.v' }).click();
    await shoot('design');
    for (const view of ['Messages', 'Pins', 'Clocks', 'Schematic', 'Resources', 'Timing', 'Builds', 'Vectors']) {
      await page.getByRole('navigation', { name: 'Design' }).getByRole('link', { name: new RegExp(`^${view}`) }).click();
      if (view === 'Schematic') await page.locator('[data-box="lockhouse.u_sequencer"]').waitFor();
      if (view === 'Vectors') {
        await page.getByRole('button', { name: 'Run' }).click();
        await ended(/6 rows passed/);
      }
      await page.waitForTimeout(800);
      await shoot(`design-${view.toLowerCase()}`);
    }
    await station(page, 'Load');
    await page.getByRole('button', { name: 'Load', exact: true }).click();
    await ended(/DONE is high/);
    await page.waitForTimeout(3500);
    await shoot('load');
    await station(page, 'Keep');
    await page.getByRole('button', { name: 'Write flash' }).click();
    await shoot('keep-asking');
    await page.getByRole('button', { name: 'Erase and write' }).click();
    await page.waitForTimeout(2500);
    await shoot('keep-writing');
    await ended(/boots by itself/);
    await shoot('keep');
    await station(page, 'Capture');
    await page.getByLabel('Condition').fill('want_upper == 1');
    await page.getByRole('button', { name: 'Arm' }).click();
    await page.getByText(/^waiting:/).waitFor();
    await shoot('capture-waiting');
    await page.getByRole('button', { name: 'Button B0, upper boat' }).click({ delay: 200 });
    await ended(/^Capture 1/);
    await page.getByTestId('value-lockhouse.level').waitFor();
    await page.getByRole('button', { name: 'Trigger', exact: true }).click();
    for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Zoom in' }).click();
    await shoot('capture');
    await station(page, 'Drive');
    await page.getByLabel('Value for lockhouse.level_trim').fill('5');
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await page.waitForTimeout(1200);
    await shoot('drive');
    await station(page, 'Logbook');
    await shoot('logbook');
  } catch (error) {
    await page.screenshot({ path: join(folder, 'failed.png') });
    throw error;
  } finally {
    await bench.stop();
  }
}

void main();
