// Probe and Capture as a user drives them: finding signals, several plans, a plan that does not fit, two recorders on one axis, chosen samples, segments,
// decoders, and what goes wrong while a recorder waits.
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openWorkbench, station, type Workbench } from '../support/workbench.ts';

let bench: Workbench;
beforeAll(async () => {
  bench = await openWorkbench();
  bench.page.setDefaultTimeout(Number(process.env.PATIENCE ?? 60_000));
}, 120_000);
afterAll(() => bench?.stop());

const done = (pattern: RegExp) => bench.page.getByTestId('job-line').getByText(pattern).first().waitFor({ timeout: 60_000 });
const view = (of: string, name: string) => bench.page.getByRole('navigation', { name: of }).getByRole('link', { name: new RegExp(`^${name}`) }).click();
const panel = (name: string) => bench.page.getByRole('navigation', { name: 'About the record' }).getByRole('button', { name }).click();
const filter = () => bench.page.getByLabel('Filter signals');
const use = (what: string, name: string) => bench.page.getByRole('button', { name: `${what} lockhouse.${name}`, exact: true });
const json = (name: string, data: unknown) => ({ name, mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(data)) });

/** Flips a fault of the practice drawer and waits until the board has it. */
async function fault(name: string, on: boolean): Promise<void> {
  const { page } = bench;
  await station(page, 'Bench');
  await view('Bench', 'Practice');
  const toggle = page.locator(`#fault-${name}`);
  await toggle.click();
  await page.locator(`#fault-${name}[data-state="${on ? 'checked' : 'unchecked'}"]`).waitFor();
}

async function buildAndLoad(): Promise<void> {
  const { page } = bench;
  await station(page, 'Probe');
  await page.getByRole('button', { name: 'Build with probes' }).click();
  await done(/for CV25: \d+ LUTs/);
  await page.getByText('The plan is newer than the build').waitFor({ state: 'detached' });
  await station(page, 'Load');
  await page.getByRole('button', { name: 'Load', exact: true }).click();
  await done(/DONE is high/);
  await station(page, 'Capture');
}

/** Puts the caret into the first place in the open source where a word stands. */
async function caretOn(word: string): Promise<void> {
  await bench.page.waitForTimeout(500);
  const place = await bench.page.evaluate((wanted) => {
    const walker = document.createTreeWalker(document.querySelector('.cm-content') as Element, NodeFilter.SHOW_TEXT);
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      const at = node.textContent?.indexOf(wanted) ?? -1;
      if (at < 0) continue;
      node.parentElement?.scrollIntoView({ block: 'center' });
      const range = document.createRange();
      range.setStart(node, at);
      range.setEnd(node, at + wanted.length);
      const { x, y, width, height } = range.getBoundingClientRect();
      return { x: x + width / 2, y: y + height / 2 };
    }
    return null;
  }, word);
  if (!place) throw new Error(`"${word}" is not in sight`);
  await bench.page.mouse.click(place.x, place.y);
}

const condition = (text: string) => bench.page.getByLabel('Condition', { exact: true }).fill(text);
const waiting = (text: RegExp) => bench.page.getByTestId('waiting').getByText(text).first().waitFor();

import { afterEach } from 'vitest';
afterEach(async ({ task }) => { if (process.env.PATIENCE && task.result?.state === 'fail') await bench.page.screenshot({ path: '/tmp/shots/failed.png' }); });
describe('finding signals', () => {
  test('by wildcard, by module, with width, clock and driver', async () => {
    const { page } = bench;
    await station(page, 'Design');
    // A register that nothing reads, to be found as removed.
    await page.getByRole('button', { name: 'rtl/levels.v' }).click();
    const editor = page.getByLabel('Source rtl/levels.v');
    const text = readFileSync('demo/lockhouse/rtl/levels.v', 'utf8');
    await editor.fill(text.replace('endmodule', '  reg [3:0] count = 0;\n  always @(posedge clk) if (arrives) count <= count + 1;\nendmodule'));
    await page.getByRole('button', { name: 'Build', exact: true }).click();
    await done(/for CV25/);
    await station(page, 'Probe');
    await filter().fill('u_seq*want');
    await page.getByText(/^2 of \d+ rows$/).waitFor();
    await filter().fill('');
    await page.getByRole('list', { name: 'Modules' }).getByRole('button', { name: 'u_levels' }).click();
    const row = page.getByRole('row').filter({ has: use('Record', 'u_levels.chamber') });
    expect(await row.innerText()).toMatch(/chamber\s+12\s+register\s*clk/);
    expect(await row.getByRole('button', { name: 'Driver of lockhouse.u_levels.chamber' }).getAttribute('title')).toMatch(/decided by u_levels\.arrived, .*; set at rtl\/levels\.v, line \d+/);
  });

  test('one that optimisation removed says why, and is kept with a click', async () => {
    const { page } = bench;
    await page.getByRole('button', { name: 'Why lockhouse.u_levels.count was removed' }).click();
    await page.getByText(/What reads it reaches no output|Nothing reads it/).waitFor();
    await page.getByRole('button', { name: 'Keep it: record it' }).click();
    await page.getByRole('textbox', { name: 'Name of the recorder' }).waitFor();
    await page.getByRole('button', { name: 'all signals' }).click();
    await page.getByRole('button', { name: 'Remove recorder main' }).click();
    await page.getByText('Press Record on a signal.').waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Remove recorder main' }).waitFor();
    await page.getByRole('button', { name: 'Delete plan' }).click();
    await page.getByText('Press Record on a signal.').waitFor();
  });

  test('from the source under the caret, from a message, from the drawing', async () => {
    const { page } = bench;
    const found = async (name: string) => {
      await page.getByRole('heading', { name: 'Probe' }).waitFor();
      await expect.poll(() => filter().inputValue()).toBe(name);
    };
    await filter().fill('gate_upper');
    await page.getByRole('button', { name: 'Driver of lockhouse.gate_upper', exact: true }).click();
    await page.getByLabel('Source rtl/sequencer.v').waitFor();
    await caretOn('patience');
    await page.getByRole('button', { name: 'Probe patience' }).click();
    await found('lockhouse.u_sequencer.patience');
    await page.getByRole('button', { name: 'Draw what drives lockhouse.u_sequencer.patience' }).click();
    await page.locator('[data-box]').first().waitFor();
    await page.locator('[data-box]').filter({ hasText: 'patience' }).first().click();
    await page.getByRole('button', { name: 'Probe it' }).click();
    await found('lockhouse.u_sequencer.patience');
    await station(page, 'Design');
    await view('Design', 'Messages');
    await page.getByRole('row').filter({ hasText: 'u_converter.low' }).first().click();
    await page.getByRole('button', { name: 'Probe chamber' }).click();
    await found('lockhouse.u_levels.chamber');
  });
});

describe('plans', () => {
  test('one from another design lists the names that are gone; shelved plans stay out of the build', async () => {
    const { page } = bench;
    await station(page, 'Probe');
    await filter().fill('');
    await page.getByLabel('Plan file').setInputFiles(json('other.probes.json', { recorders: [{ name: 'far', clock: 'lockhouse.clk', depth: 64, signals: ['lockhouse.level', 'mill.wheel', 'mill.sack'] }], panels: [] }));
    await page.getByText('2 names do not exist in this design').waitFor();
    await page.getByText('mill.wheel, mill.sack').waitFor();
    expect(await page.getByLabel('in the build').isChecked()).toBe(false);
    expect(await page.getByTitle('mill.wheel: the design has no such signal').innerText()).toBe('wheel');
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export plan' }).click()]);
    expect(file.suggestedFilename()).toBe('other.probes.json');
    expect(JSON.parse(readFileSync((await file.path()) ?? '', 'utf8'))).toMatchObject({ format: 'nimble-probe-plan', recorders: [{ signals: ['lockhouse.level', 'mill.wheel', 'mill.sack'] }] });
    await page.getByLabel('Plan file').setInputFiles({ name: 'list.probes.json', mimeType: 'application/json', buffer: Buffer.from('shopping') });
    await page.getByText(/list\.probes\.json is no JSON/).waitFor();
  });

  test('two recorders of two clocks: the foreign signal is warned of and synchronised, the cost is told, and what does not fit has a way out', async () => {
    const { page } = bench;
    await page.getByRole('button', { name: 'New plan' }).click();
    await page.getByLabel('Name of the plan').fill('crossing');
    await page.keyboard.press('Enter');
    for (const name of ['u_levels.arrives', 'chamber_level', 'u_converter.sent']) await use('Record', name).click();
    await page.getByText('sent belongs to another clock').waitFor();
    await page.getByRole('button', { name: /synchron|two registers/i }).first().click();
    await page.getByText('sent come in through two registers').waitFor();
    await page.getByLabel('Depth').selectOption('8192');
    await page.getByLabel('Comparators').selectOption('5');
    await page.getByText('It does not fit.').waitFor();
    expect(await page.getByTestId('plan-cost').locator('[data-over]').first().innerText()).toMatch(/^(LUTs|Block RAMs)/);
    await page.getByRole('button', { name: 'Do that' }).click();
    await page.getByText('It does not fit.').waitFor({ state: 'detached' });
    await page.getByLabel('Depth').selectOption('256');
    await page.getByLabel('Comparators').selectOption('1');
    await page.getByLabel('Qualifier').check();
    await page.getByLabel('Segments').selectOption('4');
    await page.getByRole('button', { name: 'Recorder', exact: true }).last().click();
    for (const name of ['u_converter.sck', 'u_converter.cs_n', 'u_converter.mosi', 'u_converter.miso', 'u_converter.sent']) await use('Record', name).click();
    await page.getByRole('button', { name: 'Remove lockhouse.u_levels.arrives' }).last().click();
    await page.getByText(/Most of its signals belong to clk10/).click();
    await page.getByLabel('Depth').last().selectOption('1024');
    await page.getByLabel('Comparators').last().selectOption('1');
    await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
  });

  test('what was built can be taken along as plain Verilog', async () => {
    const { page } = bench;
    await buildAndLoad();
    await station(page, 'Probe');
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Take it along' }).click()]);
    expect(readFileSync((await file.path()) ?? '', 'utf8')).toMatch(/^\/\/ lockhouse with its probes, build [0-9a-f]{32}[\s\S]*module lockhouse_probed \([\s\S]*jtag_tdo/);
    await station(page, 'Capture');
  });
});
