// Somebody's own small design without a description of the board, as it comes from a desk: an old project file, a stray
// byte, two tops, pins out of a spreadsheet, the clock's frequency from the bench, and a ready memory file for the
// flash.
import { zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../support/demo.ts';
import { workbench } from '../support/each.ts';
import { all, did, imported, openView, planned, station } from '../support/workbench.ts';

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const view = (name: string, place = 'Design') => openView(bench.page, place, name);
const press = (name: string | RegExp) =>
  bench.page
    .getByRole('button', { name, ...(typeof name === 'string' ? { exact: true } : {}) })
    .first()
    .click();
const latin1 = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0));

const BLINK =
  '// period 5 µs\nmodule blink(input clk, input enable, output lamp);\n  reg [23:0] count = 0;\n  always ' +
  '@(posedge clk) if (enable) count <= count + 1;\n  assign lamp = count[23];\nendmodule\n';
const OTHER = 'module bare(input a, output y); assign y = ~a; endmodule\n';

const OWN = {
  'own/rtl/blink.v': latin1(BLINK),
  'own/rtl/bare.v': latin1(OTHER),
  'own/nimble.json': latin1(JSON.stringify({ format: 'nimble-project', version: 1, name: 'Own', part: 'CV25' })),
};
const SPARE = BLINK.replace('output lamp', 'output lamp, output [1:0] spare');
const PINS = 'port,pin\nclk,P1\nenable,P5\nlamp,P26\n';

const bench = workbench(async (made) => {
  await all(made, 'scan');
  await imported(made, OWN);
});

/** Which of the tops it is, and pins; with them it can be built. */
async function settled(source = BLINK): Promise<void> {
  const { api } = bench;
  await api.project.change.mutate({ top: 'blink' });
  await api.project.saveFile.mutate({ name: 'rtl/blink.v', text: source, read: null });
  await api.project.addFiles.mutate({ files: [{ name: 'pins.csv', text: PINS }] });
}

/** Cells as a spreadsheet puts them on the clipboard. */
const paste = (label: string | null, text: string) =>
  bench.page.evaluate(
    ([wanted, cells]) => {
      const data = new DataTransfer();
      data.setData('text/plain', cells as string);
      const target =
        wanted === null ? document.body : (document.querySelector(`[aria-label="${wanted}"]`) as HTMLElement);
      target.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
    },
    [label, text],
  );

describe('sources as they come', () => {
  test('a Latin-1 byte in a comment is told, and so is the older project file', async () => {
    const { page } = bench;
    await station(page, 'Design');
    await view('Project');
    const zip = zipSync(OWN);
    await page
      .getByTestId('zip-picker')
      .setInputFiles({ name: 'own.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
    await page
      .getByText(/rtl\/blink\.v, line 1: the byte 0xb5 in a comment is not UTF-8 and was read as Latin-1/)
      .waitFor();
    await page
      .getByTestId('migrated')
      .getByText(/of version 1\. .* speed grade 2, no board description/)
      .waitFor();
  });

  test('of two tops one is chosen where the message stands; which module nobody uses is said', async () => {
    const { page } = bench;
    await station(page, 'Design');
    await view('Pins');
    await page
      .getByTestId('ports-note')
      .getByText(/Several modules could be the top/)
      .waitFor();
    await press('Build');
    await line(/1 error/);
    await view('Messages');
    await page.getByRole('row', { name: /Several modules could be the top/ }).click();
    await press(/Take as top: blink/);
    await press('Build');
    await line(/^Build [0-9a-f]{8}/);
    await page.getByRole('row', { name: /"bare" is not part of the design/ }).waitFor();
  });
});

describe('constraints from the sources as they stand', () => {
  test('the ports of an edit are there before it is built, and none is gone', async () => {
    const { page } = bench;
    await settled();
    await all(bench, 'build');
    await station(page, 'Design');
    await view('Pins');
    await page.getByLabel('Pin of lamp').waitFor();
    await bench.api.project.saveFile.mutate({ name: 'rtl/blink.v', text: SPARE, read: null });
    await page.getByLabel('Pin of spare[1]').waitFor();
    expect(await page.getByText('gone', { exact: true }).count()).toBe(0);
  });

  test('cells of a spreadsheet are taken into a field and with nothing chosen alike', async () => {
    const { page } = bench;
    await bench.api.project.change.mutate({ top: 'blink' });
    await bench.api.project.saveFile.mutate({ name: 'rtl/blink.v', text: SPARE, read: null });
    await station(page, 'Design');
    await view('Pins');
    await page.getByLabel('Pin of lamp').focus();
    await paste('Pin of lamp', 'clk\tP1\r\nenable\tP5\r\nlamp\tP26\r\n');
    await page.getByText(/3 lines read/).waitFor();
    expect(await page.getByLabel('Pin of lamp').inputValue()).toBe('');
    await press('Take them');
    await expect.poll(() => page.getByLabel('Pin of lamp').inputValue()).toBe('P26');
    await paste(null, 'spare[0];P27\nspare[1];P28\n');
    await page.getByText(/2 lines read/).waitFor();
    await press('Take them');
    await expect.poll(() => page.getByLabel('Pin of spare[1]').inputValue()).toBe('P28');
  });

  test('the frequency of the clock is taken from the oscillator that the bench has on its pin', async () => {
    const { page } = bench;
    await settled();
    await station(page, 'Design');
    await view('Clocks');
    await page
      .getByRole('table', { name: 'Clocks' })
      .getByText(/12 MHz, on the bench/)
      .waitFor();
    await press('Take 12 MHz');
    await expect.poll(() => page.getByLabel('Frequency of clk').inputValue()).toBe('12 MHz');
    await press('Build');
    await line(/^Build [0-9a-f]{8}/);
  });

  test('a clock is made of another one: written into the design, built, and its lamp blinks as fast', async () => {
    const { page, api } = bench;
    await settled();
    await api.project.change.mutate({ clocks: { clk: 12e6 } });
    await station(page, 'Design');
    await view('Clocks');
    await page.getByLabel('Frequency wanted of output 1').fill('48 MHz');
    await page.getByRole('table', { name: 'Factors' }).getByText('exact').waitFor();
    await press('Write it into blink (rtl/blink.v)');
    const made = page.getByRole('row', { name: /^u_clk_generator\.clock_a inside/ });
    await made.getByText('48 MHz', { exact: true }).waitFor();
    const { text = '' } = (await api.project.files.query()).find(({ name }) => name === 'rtl/blink.v') ?? {};
    const faster = text.replace('posedge clk) if (enable)', 'posedge clk_48mhz) if (clk_locked)');
    await api.project.saveFile.mutate({ name: 'rtl/blink.v', text: faster, read: null });
    await all(bench, 'build', 'load');
    // 48 MHz / 2^24; the lamp at P26 is L0.
    await page.getByText('2.861 Hz', { exact: true }).last().waitFor({ timeout: 30_000 });
    await made.getByText(/ ns$/).waitFor();
    await view('Timing');
    await page.getByText('clk × 4', { exact: true }).waitFor();
  });
});

describe('the flash', () => {
  test('what would be written is told apart from what runs', async () => {
    const { page } = bench;
    await settled();
    await all(bench, 'build');
    await station(page, 'Keep');
    await page
      .getByTestId('runs-now')
      .getByText(/not what runs|not asked/)
      .waitFor();
    await station(page, 'Load');
    await press('Load');
    await line(/runs|DONE/);
    await station(page, 'Keep');
    await page.getByTestId('runs-now').getByText('This is what runs.').waitFor();
  });

  test('a memory file is one choice, at its own addresses; that nothing guards the write is said', async () => {
    const { page } = bench;
    await settled();
    await all(bench, 'build', 'load');
    await station(page, 'Keep');
    await page.getByLabel('Memory file', { exact: true }).setInputFiles({
      name: 'table.hex',
      mimeType: 'text/plain',
      buffer: Buffer.from(':020000040030CA\n:0400000001020304F2\n:02100000AABB89\n:00000001FF\n'),
    });
    await page.getByText('0x300000 to 0x301001').waitFor();
    await press('Look first');
    await page
      .locator('[data-check="chip"][data-state="warn"]')
      .getByText(/Nothing says which chip should be here/)
      .waitFor();
    await press('Write flash');
    await page.getByText(/The data of table\.hex is compared with what is there/).waitFor();
    await press('Erase and write');
    await line(/pages? written and verified/);
  });

  test('a file that is no memory file is refused with where it belongs', async () => {
    const { page } = bench;
    await station(page, 'Keep');
    await page
      .getByLabel('Memory file', { exact: true })
      .setInputFiles({ name: 'test.svf', mimeType: 'text/plain', buffer: Buffer.from('FREQUENCY 1E6 HZ;\n') });
    await page.getByText(/test\.svf is no memory file/).waitFor();
  });
});

describe('debug cores of 300 bits', () => {
  const WIDE = `module blink(input clk, input enable, output lamp);
  wire [299:0] free;
  reg [299:0] taps = 1;
  always @(posedge clk) taps <= {taps[298:0], taps[299] ^ taps[41]};
  assign lamp = ^(free & taps) ^ enable;
endmodule
`;
  const PLAN = {
    recorders: [],
    panels: [{ name: 'p', clock: 'blink.clk', levers: ['blink.free'], gauges: ['blink.taps'] }],
  };

  test('are driven and read with names, digits, entry and button beside each other', async () => {
    const { page } = bench;
    await settled(WIDE);
    await planned(bench, PLAN);
    await all(bench, 'build', 'load');
    await station(page, 'Drive');
    await page.getByLabel('Radix').selectOption('hex');
    const lever = page.getByTestId('lever-blink.free');
    await lever.getByLabel('Value for blink.free').fill(`${'a5'.repeat(37)}1`);
    await lever.getByRole('button', { name: 'Set' }).click();
    await lever
      .getByText('a5a5a5a5', { exact: false })
      .or(lever.getByText('A5A5A5A5', { exact: false }))
      .first()
      .waitFor();
    const place = async (of: typeof lever) => (await of.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
    const parts = [
      lever.getByText('free', { exact: true }),
      lever.getByTestId('value'),
      lever.getByLabel('Value for blink.free'),
      lever.getByRole('button', { name: 'Set' }),
    ];
    const boxes = await Promise.all(parts.map(place));
    const whole = await place(lever);
    for (const [i, one] of boxes.entries()) {
      expect(one.width).toBeGreaterThan(10);
      expect(one.x + one.width).toBeLessThanOrEqual(whole.x + whole.width + 1);
      for (const other of boxes.slice(i + 1))
        expect(
          one.x + one.width <= other.x + 1 ||
            other.x + other.width <= one.x + 1 ||
            one.y + one.height <= other.y + 1 ||
            other.y + other.height <= one.y + 1,
        ).toBe(true);
    }
  });
});

describe('files given to Load', () => {
  test('one that is refused is not kept; one that is kept can be removed; a vector file goes to its player', async () => {
    const { page } = bench;
    const kept = () => bench.api.load.images.query();
    await station(page, 'Load');
    const before = (await kept()).length;
    await page.getByLabel('Bitstream file', { exact: true }).setInputFiles({
      name: 'list.nbits',
      mimeType: 'application/octet-stream',
      buffer: Buffer.from('shopping list'),
    });
    await page
      .getByRole('alert')
      .getByText(/list\.nbits: This file is no \.nbits bitstream/)
      .waitFor();
    expect(await kept()).toHaveLength(before);
    await page.getByLabel('Bitstream file', { exact: true }).setInputFiles({
      name: 'demo.nbits',
      mimeType: 'application/octet-stream',
      buffer: Buffer.from(builtDemo().bitstream),
    });
    await expect.poll(kept).toHaveLength(before + 1);
    await line(/DONE is high/);
    await press(/^(All \d+ files|The one file)$/);
    await page.getByRole('button', { name: 'Delete demo.nbits' }).click();
    await page.getByRole('button', { name: 'Delete', exact: true }).click();
    await expect.poll(kept).toHaveLength(before);
    await page.keyboard.press('Escape');
    await page.getByLabel('Bitstream file', { exact: true }).setInputFiles({
      name: 'play.svf',
      mimeType: 'text/plain',
      buffer: Buffer.from('FREQUENCY 1E6 HZ;\nSTATE RESET;\n'),
    });
    await page.getByText(/play\.svf is a vector file/).waitFor();
    await page.getByLabel('SVF file').getByText('play.svf').waitFor({ state: 'attached' });
  });
});

describe('two projects of one name', () => {
  test('are told apart, and the logbook says whose each entry is', async () => {
    const { page } = bench;
    await did(bench, { kind: 'build' });
    await station(page, 'Design');
    await view('Project');
    for (let i = 0; i < 2; i++) {
      await page.getByLabel('Name of the new project').fill('Twin');
      await press('Create');
      await expect.poll(() => page.getByRole('button', { name: /^Twin/ }).count()).toBe(i + 1);
    }
    const numbers = async () =>
      new Set(
        (await page.getByRole('button', { name: /^Twin/ }).allInnerTexts()).flatMap(
          (name) => /no\. \d+/.exec(name) ?? [],
        ),
      ).size;
    await expect.poll(numbers).toBe(2);
    await station(page, 'Logbook');
    await page.getByRole('columnheader', { name: 'Project' }).waitFor();
    await page
      .getByRole('row', { name: /Build.*Own/ })
      .first()
      .waitFor();
  });
});

describe('what was not recorded', () => {
  test('of a design that is held: its state is read while it stands, and every step counts from there', async () => {
    const { page } = bench;
    await settled();
    await planned(bench, {
      recorders: [{ name: 'r', clock: 'blink.clk', depth: 64, signals: ['blink.enable'] }],
      panels: [{ name: 'p', clock: 'blink.clk', levers: ['blink.enable'], gauges: ['blink.count'] }],
      steppers: [{ name: 's', clock: 'blink.clk', held: true }],
    });
    await all(bench, 'build', 'load');
    await station(page, 'Drive');
    await expect.poll(() => page.getByTestId('stepper-state').innerText()).toBe('held');
    await page.getByLabel('Number of steps').fill('41');
    await page.getByLabel('Number of steps').press('Enter');
    await station(page, 'Capture');
    await press('Take now');
    await line(/^Capture \d+: 64 samples of 2 signals/);
    // It stood all the time, and says so.
    await expect.poll(() => page.getByTestId('value-let_through.blink.clk').innerText()).toBe('0');
    await press('See what follows from it');
    await page.getByRole('checkbox', { name: 'blink' }).check();
    await page.getByRole('tablist', { name: 'About the record' }).getByRole('tab', { name: 'What is known' }).click();
    await page.getByText(/24 bits while the design stood, in sample \d/).waitFor({ timeout: 20_000 });
    await page.getByText('Everything is known in all samples.').waitFor();
  });
});
