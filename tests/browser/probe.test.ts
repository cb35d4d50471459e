// Probe and Capture as a user drives them: finding signals, several plans, a plan that does not fit, two recorders on
// one axis, chosen samples, segments, decoders, and what goes wrong while a recorder waits.
import { readFileSync } from 'node:fs';
import { beforeEach, describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, choose, openView, planned, station, type Workbench } from '../support/workbench.ts';

let bench: Workbench;

const done = (pattern: RegExp) =>
  bench.page.getByTestId('job-line').getByText(pattern).first().waitFor({ timeout: 60_000 });
const view = (of: string, name: string) => openView(bench.page, of, name);
const panel = (name: string) =>
  bench.page.getByRole('tablist', { name: 'About the record' }).getByRole('tab', { name }).click();
const filter = () => bench.page.getByLabel('Filter signals');
const use = (what: string, name: string) =>
  bench.page.getByRole('button', { name: `${what} lockhouse.${name}`, exact: true });
const json = (name: string, data: unknown) => ({
  name,
  mimeType: 'application/json',
  buffer: Buffer.from(JSON.stringify(data)),
});

/** Flips a fault of the practice drawer and waits until the board has it. */
async function fault(name: string, on: boolean): Promise<void> {
  const { page } = bench;
  await station(page, 'Bench');
  await view('Bench', 'Practice');
  const toggle = page.locator(`#fault-${name}`);
  await toggle.click();
  await page.locator(`#fault-${name}[data-state="${on ? 'checked' : 'unchecked'}"]`).waitFor();
}

/** Puts the caret into the first place in the open source where a word stands. */
async function caretOn(word: string): Promise<void> {
  await bench.page.locator('.cm-content').getByText(word).first().waitFor();
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

/** Two recorders of two clocks, the first of which takes a signal of the other's clock through two registers. */
const CROSSING = {
  recorders: [
    {
      ...{ name: 'main', clock: 'lockhouse.clk', depth: 256, comparators: 1, qualifier: true, segments: 4 },
      signals: ['lockhouse.u_levels.arrives', 'lockhouse.chamber_level', 'lockhouse.u_converter.sent'],
      synchronised: ['lockhouse.u_converter.sent'],
    },
    {
      ...{ name: 'main 2', clock: 'lockhouse.clk10', depth: 1024, comparators: 1 },
      signals: ['sck', 'cs_n', 'mosi', 'miso', 'sent'].map((name) => `lockhouse.u_converter.${name}`),
    },
  ],
  panels: [],
};
/** A register that nothing reads, to be found as removed. */
const COUNTING = readFileSync('demo/lockhouse/rtl/levels.v', 'utf8').replace(
  'endmodule',
  '  reg [3:0] count = 0;\n  always @(posedge clk) if (arrives) count <= count + 1;\nendmodule',
);

describe('finding signals', () => {
  const each = workbench(async (made) => {
    await made.api.project.saveFile.mutate({ name: 'rtl/levels.v', text: COUNTING, read: null });
    await all(made, 'build');
  });
  beforeEach(async () => {
    bench = each;
    await station(bench.page, 'Probe');
  });

  test('by wildcard, by module, with width, clock and driver', async () => {
    const { page } = bench;
    await filter().fill('u_seq*want');
    await page.getByText(/^2 of \d+ rows$/).waitFor();
    await filter().fill('');
    await page.getByRole('list', { name: 'Modules' }).getByRole('button', { name: 'u_levels' }).click();
    const row = page.getByRole('row').filter({ has: use('Record', 'u_levels.chamber') });
    expect(await row.innerText()).toMatch(/chamber\s+12\s+register\s*clk/);
    expect(
      await row.getByRole('button', { name: 'Driver of lockhouse.u_levels.chamber' }).getAttribute('title'),
    ).toMatch(/decided by u_levels\.arrived, .*; set at rtl\/levels\.v, line \d+/);
  });

  test('one that optimisation removed says why, and is kept with a click', async () => {
    const { page } = bench;
    await filter().fill('u_levels.count');
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
  const each = workbench((made) => all(made, 'scan', 'build'));
  beforeEach(async () => {
    bench = each;
    await station(bench.page, 'Probe');
  });

  test('one from another design lists the names that are gone; shelved plans stay out of the build', async () => {
    const { page } = bench;
    await page.getByLabel('Plan file').setInputFiles(
      json('other.probes.json', {
        recorders: [
          { name: 'far', clock: 'lockhouse.clk', depth: 64, signals: ['lockhouse.level', 'mill.wheel', 'mill.sack'] },
        ],
        panels: [],
      }),
    );
    await page.getByText('2 names do not exist in this design').waitFor();
    await page.getByText('mill.wheel, mill.sack').waitFor();
    expect(await page.getByLabel('in the build').isChecked()).toBe(false);
    expect(await page.getByTitle('mill.wheel: the design has no such signal').innerText()).toBe('wheel');
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Export plan' }).click(),
    ]);
    expect(file.suggestedFilename()).toBe('other.probes.json');
    expect(JSON.parse(readFileSync((await file.path()) ?? '', 'utf8'))).toMatchObject({
      format: 'nimble-probe-plan',
      recorders: [{ signals: ['lockhouse.level', 'mill.wheel', 'mill.sack'] }],
    });
    await page
      .getByLabel('Plan file')
      .setInputFiles({ name: 'list.probes.json', mimeType: 'application/json', buffer: Buffer.from('shopping') });
    await page.getByText(/list\.probes\.json is no JSON/).waitFor();
  });

  test('two recorders of two clocks: the foreign signal is warned of and synchronised, the cost is told, and what does not fit has a way out', async () => {
    const { page } = bench;
    for (const name of ['u_levels.arrives', 'chamber_level', 'u_converter.sent'])
      await choose(page, 'Record', `lockhouse.${name}`);
    await page.getByText('sent belongs to another clock').waitFor();
    await page
      .getByRole('button', { name: /synchron|two registers/i })
      .first()
      .click();
    await page.getByText('sent come in through two registers').waitFor();
    await page.getByLabel('Depth').selectOption('8192');
    await page.getByLabel('Comparators').selectOption('5');
    await page.getByText('It does not fit.').waitFor();
    expect(await page.getByTestId('plan-cost').locator('[data-over]').first().innerText()).toMatch(
      /^(LUTs|Block RAMs)/,
    );
    await page.getByRole('button', { name: 'Do that' }).click();
    await page.getByText('It does not fit.').waitFor({ state: 'detached' });
    await page.getByLabel('Depth').selectOption('256');
    await page.getByLabel('Comparators').selectOption('1');
    await page.getByLabel('Qualifier').check();
    await page.getByLabel('Segments').selectOption('4');
    await page.getByRole('button', { name: 'Recorder', exact: true }).last().click();
    for (const name of [
      'u_converter.sck',
      'u_converter.cs_n',
      'u_converter.mosi',
      'u_converter.miso',
      'u_converter.sent',
    ])
      await choose(page, 'Record', `lockhouse.${name}`);
    await page.getByRole('button', { name: 'Remove lockhouse.u_levels.arrives' }).last().click();
    await page.getByText(/Most of its signals belong to clk10/).click();
    await page.getByLabel('Depth').last().selectOption('1024');
    await page.getByLabel('Comparators').last().selectOption('1');
    await page.getByTestId('plan-cost').getByText('LUTs').waitFor();
  });

  test('what was built can be taken along as plain Verilog', async () => {
    const { page } = bench;
    await planned(bench, CROSSING);
    await page.getByRole('button', { name: 'Build with probes' }).click();
    await page
      .getByTestId('state-probe')
      .getByText(/^\d+ probes?$/)
      .waitFor();
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Take it along' }).click(),
    ]);
    expect(readFileSync((await file.path()) ?? '', 'utf8')).toMatch(
      /^\/\/ lockhouse with its probes, build [0-9a-f]{32}[\s\S]*module lockhouse_probed \([\s\S]*jtag_tdo/,
    );
  });
});

/** What runs holds the recorders of `CROSSING`. */
function recording(): void {
  const each = workbench(async (made) => {
    await planned(made, CROSSING);
    await all(made, 'scan', 'build');
  });
  beforeEach(async () => {
    bench = each;
    await all(bench, 'scan', 'load');
    await station(bench.page, 'Capture');
  });
}

describe('capture', () => {
  recording();

  test('sentence and form say the same; what does not fit is told while it is written', async () => {
    const { page } = bench;
    await condition('arrives rises');
    await page.getByRole('button', { name: 'as a form' }).click();
    await page.getByLabel('Stage 1 samples').fill('3');
    await expect.poll(() => page.getByLabel('Condition', { exact: true }).innerText()).toBe('arrives rises 3 times');
    await page.getByRole('button', { name: 'as a sentence' }).click();
    for (const [text, answer] of [
      ['chamber_level == 5000', /^At 18: "5000" does not fit into the 12 bits/],
      ['chamber_lvl == 1', /does not store "chamber_lvl"/],
      [
        'arrives rises then arrives falls',
        /needs 2 comparators and 2 stages, the recorder "main" was built with 1 and 1\. Set its comparators to 2 and its stages to 2 under Probe/,
      ],
      ['arrives or chamber_level > 20', /needs 2 comparators, the recorder "main" was built with 1/],
    ] as const) {
      await condition(text);
      await page.getByTestId('checked').getByText(answer).waitFor();
      expect(await page.getByRole('button', { name: 'Arm' }).isDisabled()).toBe(true);
    }
    await condition('');
    await page.getByLabel('Condition', { exact: true }).click();
    await page.keyboard.type('cham');
    await page.getByRole('option', { name: /chamber_level/ }).waitFor();
    await page.keyboard.press('Escape');
  });

  test('chosen samples with their times, in segments, with gaps that are drawn short or true', async () => {
    const { page } = bench;
    await condition('arrives');
    await page.getByLabel('Store only when').fill('arrives');
    await page.getByLabel('Segments').selectOption('4');
    await page.getByRole('button', { name: 'Arm' }).click();
    await done(/^Capture 1: 256 samples of 3 signals/);
    await page
      .getByTestId('about')
      .getByText(/stored when arrives, 4 segments/)
      .waitFor();
    const long = async () =>
      Number((await page.getByTestId('waveform').getAttribute('aria-label'))?.replace(/.*rows, |,| ticks/g, ''));
    const short = await long();
    await page.getByLabel('Gaps').selectOption('true');
    await expect.poll(long).toBeGreaterThan(short * 20);
  });

  test('two recorders of two clocks on one axis, laid by the signal that crosses', async () => {
    const { page } = bench;
    await condition('arrives');
    await page.getByRole('button', { name: 'Arm' }).click();
    await done(/^Capture 1: 256 samples/);
    await page.getByLabel('Recorder', { exact: true }).selectOption('main 2');
    await condition('sent changes');
    await page.getByRole('button', { name: 'Arm' }).click();
    await done(/^Capture 2: 1,024 samples/);
    await page.getByTestId('about').getByText('1,024 samples at 10 MHz').waitFor();
    await page.getByLabel('On the same axis').selectOption({ index: 1 });
    await page
      .getByTestId('remarks')
      .getByText(/laid with their triggers upon each other/)
      .waitFor();
    await page.getByLabel('Laid').selectOption('shared');
    await page
      .getByTestId('remarks')
      .getByText(/By the edges of what both records hold, the trigger of the second stands [\d.]+ [µn]s (before|after)/)
      .waitFor();
    await page.getByLabel('Laid').selectOption('time');
    await page.getByLabel('Microseconds later').fill('2.5');
    await page.keyboard.press('Enter');
    await page
      .getByTestId('remarks')
      .getByText(/As set, the trigger of the second stands 2\.5 µs after/)
      .waitFor();
  });

  test('SPI frames as a row and a table; rows are grouped, cursors named, the view kept under a name', async () => {
    const { page } = bench;
    await page.getByLabel('Recorder', { exact: true }).selectOption('main 2');
    await condition('cs_n falls');
    await page.getByRole('slider', { name: 'Trigger position' }).press('Home');
    await page.getByRole('button', { name: 'Arm' }).click();
    await done(/^Capture 1/);
    await panel('Decode');
    await page.getByLabel('Spoken').selectOption('spi');
    await page.getByLabel('Bits of a word').fill('16');
    await page.getByRole('button', { name: 'Add row' }).click();
    await page.getByRole('columnheader', { name: 'Frame' }).waitFor();
    await page.getByText('2 rows', { exact: true }).waitFor();
    expect(await page.getByText('let go after').count()).toBe(0);
    await page.getByRole('button', { name: 'Cursor A', exact: true }).dblclick();
    await page.getByLabel('Name of the cursor').fill('start');
    await page.keyboard.press('Enter');
    await page
      .getByTestId('cursor')
      .getByText(/^start: sample/)
      .waitFor();
    const row = (name: string) =>
      page.getByRole('list', { name: 'Rows' }).getByRole('button', { name: new RegExp(`^${name}`) });
    await row('sck').click();
    await row('mosi').click({ modifiers: ['Shift'] });
    await page.getByRole('button', { name: 'Menu of lockhouse.u_converter.mosi' }).click();
    await page.getByRole('menuitem', { name: 'Group chosen rows' }).click();
    await page.getByRole('button', { name: /^Close / }).click();
    await page.getByTestId('value-lockhouse.u_converter.sck').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Views' }).click();
    await page.getByLabel('Name of the view').fill('converter');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('menuitem', { name: 'converter' }).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Take now' }).click();
    await done(/^Capture 2/);
    await page.getByTestId('value-lockhouse.u_converter.sck').waitFor();
    await page.getByRole('button', { name: 'Views' }).click();
    await page.getByRole('menuitem', { name: 'converter' }).click();
    await page.getByTestId('value-lockhouse.u_converter.sck').waitFor({ state: 'detached' });
  });

  test('arms again and again until it is cancelled, and keeps them all', async () => {
    const { page } = bench;
    await page.getByLabel('Recorder', { exact: true }).selectOption('main 2');
    await condition('cs_n falls');
    await page.getByLabel('Repeat').selectOption('every');
    await page.getByRole('button', { name: 'Arm' }).click();
    await waiting(/[3-9] taken before/);
    await page.getByTestId('waiting').getByRole('button', { name: 'Cancel' }).click();
    await done(/^Ended by hand: \d+ captures kept/);
  });
});

describe('what goes wrong', () => {
  recording();

  const armForNever = async () => {
    const { page } = bench;
    await station(page, 'Capture');
    await page.getByLabel('Recorder', { exact: true }).selectOption('main');
    await condition('chamber_level == 4095');
    await page.getByRole('button', { name: 'Arm' }).click();
    await waiting(/main: waiting/);
  };

  test('the sampling clock stops while it waits: said so; armed on a dead clock: refused', async () => {
    const { page } = bench;
    await armForNever();
    await fault('clock-stopped', true);
    await station(page, 'Capture');
    await waiting(/sampling clock not answering/);
    await page.getByTestId('waiting').getByRole('button', { name: 'Cancel' }).click();
    await done(/Cancelled while waiting/);
    await condition('arrives');
    await page.getByRole('button', { name: 'Arm' }).click();
    await page
      .getByRole('alert')
      .getByText(/The sampling clock lockhouse\.clk stands still/)
      .first()
      .waitFor();
  });

  test('the connection is lost while it waits: the recorder goes on, and what it took is fetched', async () => {
    const { page } = bench;
    await armForNever();
    await station(page, 'Bench');
    await view('Bench', 'Practice');
    await page.locator('#fault-pod-lost').click();
    await station(page, 'Capture');
    await waiting(/The connection is lost\. The recorder goes on by itself/);
    await waiting(/main: waiting/);
    const before = await page.getByTestId('state-capture').innerText();
    await page.getByRole('button', { name: 'Trigger now' }).click();
    await expect.poll(() => page.getByTestId('state-capture').innerText(), { timeout: 20_000 }).not.toBe(before);
    await page.getByTestId('about').getByText('256 samples at 12 MHz').waitFor();
    expect(
      await page.getByLabel('Condition', { exact: true }).innerText(),
      'what was written stands after a look at another station',
    ).toBe('chamber_level == 4095');
  });

  test('the board is switched off and on under an armed recorder: explained, and the condition stands', async () => {
    const { page } = bench;
    await armForNever();
    await page.getByRole('button', { name: 'Power off' }).click();
    await page.getByRole('button', { name: 'Power on' }).click();
    await page
      .getByRole('alert')
      .getByText(/is not armed any more: the board was switched off and on/)
      .first()
      .waitFor();
    expect(await page.getByLabel('Condition', { exact: true }).innerText()).toBe('chamber_level == 4095');
  });
});
