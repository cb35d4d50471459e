// Takes one picture of every station with the demo's own data. Writes docs/screenshots/; a folder as argument takes
// them there.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { choose, openView, openWorkbench, station } from '../tests/support/workbench.ts';

const folder = process.argv[2] ?? join('docs', 'screenshots');

/** The torn level, found from the ports of two instances. */
async function replay(page: Page, ended: (text: RegExp) => Promise<void>): Promise<void> {
  await station(page, 'Replay');
  for (const name of ['u_levels', 'u_sequencer']) await page.getByRole('checkbox', { name }).check();
  for (const name of ['u_sequencer.state', 'u_levels.chamber']) {
    await page.getByLabel('Record in any case: a signal').fill(name);
    await page.getByLabel('Record in any case: a signal').press('Enter');
  }
  const proposal = page.getByTestId('proposal');
  await proposal.waitFor();
  const stored = async () => Number(/(\d+) bits? a sample/.exec(await proposal.innerText())?.[1] ?? 0);
  for (let i = 0; i < 5 && (await stored()) > 40; i++) await page.getByRole('slider').press('ArrowRight');
  await page.getByTestId('plan-cost').waitFor();
  await page.getByRole('button', { name: 'Put it into the build' }).click();
  await page.getByText('The plan replay is on the shelf').waitFor();
  await station(page, 'Probe');
  await page.getByRole('button', { name: 'Build with probes' }).click();
  await ended(/^Build [0-9a-f]{8}/);
  await station(page, 'Load');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await ended(/DONE is high/);
  await station(page, 'Capture');
  await page.getByLabel('Recorder', { exact: true }).selectOption('replay');
  await page.getByLabel('Condition', { exact: true }).fill('state == LOWER_OPEN and chamber > 20');
  await page.getByTestId('trigger-position').click({ position: { x: 180, y: 16 } });
  await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
  await page.getByRole('button', { name: 'Arm' }).click();
  const chamber = page.getByTestId('value-lockhouse.u_levels.chamber');
  for (let i = 0; i < 200 && (await chamber.count()) === 0; i++) {
    await page
      .getByRole('button', { name: i % 2 === 0 ? 'Button B0, upper boat' : 'Button B1, lower boat' })
      .click({ delay: 40 });
    await page.waitForTimeout(250);
  }
  await page.getByRole('button', { name: 'See what follows from it' }).click();
  await page.getByTestId('value-lockhouse.u_sequencer.gate_lower').click();
  const why = page.getByRole('list', { name: 'Why' });
  for (const cause of [/u_sequencer\.state/, /u_sequencer\.empty/])
    await why.getByRole('listitem').last().getByRole('button', { name: cause }).click();
  await why.scrollIntoViewIfNeeded();
}

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
      ['Record', 'lockhouse.u_upper.steady'],
      ['Lever', 'lockhouse.level_trim'],
      ['Lever', 'lockhouse.u_sequencer.hold'],
      ['Gauge', 'lockhouse.level'],
      ['Gauge', 'lockhouse.passages'],
      ['Gauge', 'lockhouse.u_sequencer.state'],
    ] as const) {
      await choose(page, use, name);
    }
    // A second recorder on the converter's clock, for its SPI.
    await page.getByRole('button', { name: 'Recorder', exact: true }).last().click();
    for (const name of ['sck', 'cs_n', 'mosi', 'miso']) await choose(page, 'Record', `lockhouse.u_converter.${name}`);
    await page.getByRole('button', { name: 'Remove lockhouse.u_sequencer.state' }).nth(1).click();
    await page.getByText(/Most of its signals belong to clk10/).click();
    await page.getByLabel('Comparators').last().selectOption('1');
    await page.getByRole('textbox', { name: 'Name of the recorder' }).last().fill('bus');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Recorder', exact: true }).first().click();
    await page.waitForTimeout(1500);
    await page.getByRole('button', { name: 'Build with probes' }).click();
    await page.waitForTimeout(300);
    await ended(/^Build [0-9a-f]{8}.*[1-9]\d* block RAMs/);
    await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
    await shoot('probe');
    await station(page, 'Design');
    await page.getByRole('button', { name: 'rtl/sequencer.v' }).click();
    await shoot('design');
    for (const view of ['Messages', 'Pins', 'Schematic']) {
      await page
        .getByRole('navigation', { name: 'Design' })
        .getByRole('link', { name: new RegExp(`^${view}`) })
        .click();
      if (view === 'Schematic') await page.locator('[data-box="lockhouse.u_sequencer"]').waitFor();
      await page.waitForTimeout(800);
      await shoot(`design-${view.toLowerCase()}`);
    }
    await station(page, 'Load');
    await page.getByRole('button', { name: 'Load', exact: true }).click();
    await ended(/DONE is high/);
    await page.waitForTimeout(3500);
    await shoot('load');
    await station(page, 'Bench');
    const view = (name: string) =>
      page.getByRole('navigation', { name: 'Bench' }).getByRole('link', { name, exact: true }).click();
    await view('TCK');
    await page.getByRole('button', { name: 'Sweep TCK' }).click();
    await ended(/Reliable up to/);
    await view('Pins');
    await page.getByRole('button', { name: 'Look at the pins' }).click();
    await page.waitForTimeout(2500);
    await page.locator('[data-pin="P27"]').click();
    await page.getByRole('button', { name: 'Drive 1' }).click();
    await page.waitForTimeout(1500);
    await shoot('bench-pins');
    await page.getByRole('button', { name: 'Release all pins' }).click();
    await page.getByRole('button', { name: 'Stop looking' }).click();
    await view('SVF');
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'load', exact: true }).click(),
    ]);
    await file.saveAs(join(bench.home, 'lockhouse-load.svf'));
    await page.getByTestId('svf-file').setInputFiles(join(bench.home, 'lockhouse-load.svf'));
    await page.getByLabel('Pause at line').fill('16');
    await page.waitForTimeout(700);
    await page.getByRole('button', { name: 'Play' }).click();
    await page
      .getByTestId('svf-where')
      .getByText(/paused/)
      .waitFor();
    await page.getByRole('button', { name: 'Next command' }).click();
    await page.waitForTimeout(700);
    await page.getByRole('button', { name: 'Go on' }).click();
    await ended(/no difference/);
    const fault = async (name: string) => {
      await view('Practice');
      await page.locator(`#fault-${name}`).click();
      await page.waitForTimeout(400);
    };
    await fault('net-short-and');
    await view('Wiring');
    await page.getByRole('button', { name: /^Take the pins over/ }).click();
    await page.getByTestId('wiring').waitFor();
    await view('Parts');
    await page.getByRole('button', { name: 'Take from the description' }).click();
    await page.getByLabel('Label of L0').fill('sluice');
    await page.getByLabel('Label of L0').press('Enter');
    await page.waitForTimeout(5000);
    await shoot('bench-parts');
    await fault('net-short-and');
    await fault('device-in-reset');
    await view('Diagnosis');
    await page.getByRole('button', { name: 'Climb the ladder' }).click();
    await page.locator('[data-state="fail"]').waitFor();
    await shoot('bench-diagnosis');
    await fault('device-in-reset');
    await station(page, 'Keep');
    const keepView = (name: string) =>
      page.getByRole('navigation', { name: 'Keep' }).getByRole('link', { name, exact: true }).click();
    await keepView('Layout');
    await page.getByRole('button', { name: 'Let Keep write this layout' }).click();
    await page.waitForTimeout(500);
    await shoot('keep-layout');
    await keepView('Board data');
    await page.getByRole('button', { name: 'lockhouse.boards.csv' }).click();
    await page.getByRole('row', { name: /LH-0042/ }).click();
    await keepView('Write');
    await page.getByRole('button', { name: 'Write flash' }).click();
    await page.getByRole('button', { name: 'Erase and write' }).click();
    await ended(/boots by itself/);
    await page.getByRole('button', { name: 'Look first' }).click();
    await ended(/sectors as they should be/);
    await shoot('keep');
    await keepView('Steps');
    await page.getByLabel('from').fill('0x140000');
    await page.getByLabel('length').fill('200');
    await page.getByLabel('Byte to fill with').fill('0x5A');
    await page.getByRole('button', { name: 'Fill', exact: true }).click();
    await page.getByRole('button', { name: 'Fill it' }).click();
    await ended(/200 bytes filled with 0x5A/);
    await keepView('Compare');
    await page.getByRole('button', { name: 'Compare', exact: true }).click();
    await page
      .getByTestId('comparison')
      .getByText(/bytes differ/)
      .waitFor();
    await keepView('Write');
    await page.getByRole('button', { name: 'Write flash' }).click();
    await page.getByRole('button', { name: 'Erase and write' }).click();
    await ended(/boots by itself/);
    await station(page, 'Capture');
    await page.getByLabel('Condition', { exact: true }).fill('want_upper rises or call_upper rises');
    await page.getByRole('button', { name: 'Arm' }).click();
    await page
      .getByTestId('waiting')
      .getByText(/waiting,/)
      .waitFor();
    await page.waitForTimeout(1500);
    await shoot('capture-waiting');
    await page.getByRole('button', { name: 'Button B0, upper boat' }).click({ delay: 200 });
    await ended(/^Capture 1/);
    await page.getByTestId('value-lockhouse.level').waitFor();
    await page.getByRole('button', { name: 'Trigger', exact: true }).click();
    for (let i = 0; i < 2; i++) await page.getByRole('button', { name: 'Zoom in' }).click();
    await page.getByRole('button', { name: 'Cursor', exact: true }).click();
    await page.getByTestId('waveform').click({ position: { x: 240, y: 60 } });
    await page.getByTestId('value-lockhouse.level').click();
    await page.getByTestId('between').scrollIntoViewIfNeeded();
    await page.waitForTimeout(800);
    await shoot('capture');
    await station(page, 'Drive');
    await page.getByLabel('Value for lockhouse.level_trim').fill('5');
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await page.waitForTimeout(1200);
    await page.mouse.move(640, 400);
    await page.mouse.wheel(0, -2000);
    await page.waitForTimeout(300);
    await shoot('drive');
    await openView(page, 'Drive', 'Serial line');
    const speed = page.getByLabel('Speed in bits a second');
    const sent = page.getByLabel('What is sent');
    for (const command of ['s', 'x']) {
      await sent.fill(command);
      await sent.press('Enter');
      await page.waitForTimeout(400);
    }
    await speed.fill('19200');
    await speed.press('Enter');
    for (const _ of 'again') {
      await sent.fill('s');
      await sent.press('Enter');
      await page.waitForTimeout(250);
    }
    await page.getByText(/115 200 8N1 fits/).waitFor();
    await shoot('drive-line');
    await page.getByRole('button', { name: 'Take it' }).click();
    await station(page, 'Design');
    await page.getByRole('navigation', { name: 'Design' }).getByRole('link', { name: 'Simulate', exact: true }).click();
    await page.getByLabel('Plusargs', { exact: true }).fill('leak');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await ended(/^lockhouse_tb: /);
    await page.getByTestId('waveform').waitFor();
    await page.getByTitle('Look at it in the waves').first().click();
    await page.waitForTimeout(800);
    await shoot('design-simulate');
    await station(page, 'Logbook');
    await shoot('logbook');
    await replay(page, ended);
    await shoot('replay');
  } catch (error) {
    await page.screenshot({ path: join(folder, 'failed.png') });
    throw error;
  } finally {
    await bench.stop();
  }
}

void main();
