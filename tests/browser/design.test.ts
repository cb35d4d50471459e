// Bringing somebody's sources: projects, messages, pins, clocks, schematic, timing, vectors, builds; through clicks.
import { readFileSync } from 'node:fs';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, ended, imported, openView, station } from '../support/workbench.ts';

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const view = (name: string) => openView(bench.page, 'Design', name);
const build = (outcome = /^Build [0-9a-f]{8}/) =>
  ended(bench.page, outcome, () => bench.page.getByRole('button', { name: 'Build', exact: true }).click());

const SOURCE = `module blink(input clk, input other, input d, output reg [3:0] y, output lamp);
  reg [23:0] count = 0;
  wire       idle = d;
  reg        seen;
  always @(posedge clk) count <= count + 1;
  always @(posedge other) begin
    seen <= count[3];
    y <= {3'b0, seen & d};
  end
  assign lamp = count[23];
endmodule
`;

const MINE = {
  'mine/rtl/blink.v': strToU8(SOURCE),
  'mine/nimble.json': strToU8(JSON.stringify({ format: 'nimble-project', version: 1, name: 'Blink', part: 'CV10' })),
};
const BOARD = { name: 'lockhouse.board.json', text: readFileSync('demo/lockhouse/lockhouse.board.json', 'utf8') };
const PINS = 'port,pin\nclk,P1\nother,P2\n';

const bench = workbench(async (made) => {
  await imported(made, MINE);
  await all(made, 'build');
});

/** Opens a view of Design. */
async function at(name: string): Promise<void> {
  await station(bench.page, 'Design');
  await view(name);
}

/** The part and the board of the demo, with pins as given. */
async function onBoard(pins?: string): Promise<void> {
  const { api } = bench;
  await api.project.addFiles.mutate({ files: [BOARD, ...(pins ? [{ name: 'pins.csv', text: pins }] : [])] });
  await api.project.change.mutate({ part: 'CV25', board: BOARD.name });
}

describe('a project from a zip file', () => {
  test('is imported, built, and its messages are explained', async () => {
    const { page } = bench;
    await at('Project');
    const named = { ...JSON.parse(new TextDecoder().decode(MINE['mine/nimble.json'])), name: 'Blink anew' };
    const zip = zipSync({ ...MINE, 'mine/nimble.json': strToU8(JSON.stringify(named)) });
    await page
      .getByTestId('zip-picker')
      .setInputFiles({ name: 'mine.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
    await page.getByText('Blink anew · CV10').waitFor();
    await build();
    await view('Messages');
    await page.getByRole('row', { name: /serious.*takes "blink.count" of clock clk directly/ }).click();
    await page.getByRole('heading', { name: 'Crossing without synchroniser' }).waitFor();
    await page.getByText('Put two registers of the receiving clock in a row').waitFor();
  });

  test('a message is accepted with a reason, and stays so after the next build', async () => {
    const { page } = bench;
    await at('Messages');
    await page.getByRole('row', { name: /Nothing reads "idle"/ }).click();
    await page.getByLabel('Reason').fill('wanted for the next revision');
    await page.getByRole('button', { name: 'Accept' }).click();
    await page.getByText('Show the 1 accepted').waitFor();
    await build();
    await page.getByRole('switch', { name: 'Show accepted messages' }).click();
    await page.getByText('accepted: wanted for the next revision').first().waitFor();
  });

  test('a file that is no UTF-8 is refused with its line, a stray byte in a comment is told; others are added', async () => {
    const { page } = bench;
    await at('Sources');
    await page.getByRole('button', { name: 'rtl/blink.v' }).waitFor();
    await page.getByTestId('file-picker').setInputFiles([
      { name: 'old.v', mimeType: 'text/plain', buffer: Buffer.from('//\nwire \u00e9;\n', 'latin1') },
      { name: 'older.vh', mimeType: 'text/plain', buffer: Buffer.from('//\n// \u00e9\n', 'latin1') },
      {
        name: 'lockhouse.board.json',
        mimeType: 'application/json',
        buffer: Buffer.from(readFileSync('demo/lockhouse/lockhouse.board.json')),
      },
    ]);
    await page.getByText(/old\.v, line 2: the byte 0xe9 is not UTF-8/).waitFor();
    await page
      .getByText(/older\.vh, line 2: the byte 0xe9 in a comment is not UTF-8 and was read as Latin-1/)
      .waitFor();
    await page.getByRole('button', { name: 'lockhouse.board.json' }).waitFor();
  });
});

describe('constraints', () => {
  test('pins are offered by the board’s names and taken only when told; a wrong cell says so in place', async () => {
    const { page } = bench;
    await bench.api.project.addFiles.mutate({ files: [BOARD] });
    await at('Project');
    await page.getByLabel('Part', { exact: true }).selectOption('CV25');
    await page.getByRole('combobox', { name: 'Board' }).selectOption('lockhouse.board.json');
    // The choice is kept before anything is asked of the board.
    await expect.poll(() => bench.api.project.settings.query().then(({ file }) => file.board)).toBe(BOARD.name);
    await page.reload();
    await view('Pins');
    await page.getByRole('button', { name: 'Pins from the board' }).click();
    const offer = page.getByRole('checkbox', { name: /^clk\s*→\s*P1/ });
    await offer.waitFor();
    expect(await page.getByLabel('Pin of clk').inputValue()).toBe('');
    await page.getByRole('button', { name: /^Take \d/ }).click();
    expect(await page.getByLabel('Pin of clk').inputValue()).toBe('P1');
    const field = page.getByLabel('Pin of lamp');
    await field.fill('P99');
    await field.press('Enter');
    await page.getByText('Pin P99 is no user pin').waitFor();
    await field.fill('P1');
    await field.press('Enter');
    await page.getByText(/Pin P1 is already used/).waitFor();
  });

  test('a port is dragged onto a pin of the package', async () => {
    const { page } = bench;
    await onBoard();
    await at('Pins');
    await page.locator('[data-drag="lamp"]').waitFor();
    await page.locator('[data-pin="P30"]').waitFor();
    const from = await page.locator('[data-drag="lamp"]').boundingBox();
    const to = await page.locator('[data-pin="P30"]').boundingBox();
    if (!from || !to) throw new Error('nothing to drag');
    await page.mouse.move(from.x + 20, from.y + 6);
    await page.mouse.down();
    await page.mouse.move(from.x + 60, from.y + 20, { steps: 4 });
    await page.mouse.move(to.x + to.width / 2, to.y + to.height / 2, { steps: 12 });
    await page
      .locator('[id^="DndLiveRegion"]')
      .getByText(/over.*P30/)
      .waitFor({ state: 'attached' });
    await page.mouse.up();
    await page.waitForFunction(
      () => (document.querySelector('[aria-label="Pin of lamp"]') as HTMLInputElement | null)?.value === 'P30',
    );
    expect(await page.getByText(/already used/).count()).toBe(0);
  });

  test('cells of a spreadsheet are pasted after asking', async () => {
    const { page } = bench;
    await onBoard(PINS.replace('other,P2\n', ''));
    await at('Pins');
    await page.getByLabel('Pin of other').waitFor();
    await page.getByTestId('pins-picker').setInputFiles({
      name: 'x.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('Port\tPin\tI/O standard\nother\tP2\tLVCMOS18\n'),
    });
    await page.getByText(/1 line read/).waitFor();
    await page.getByRole('button', { name: 'Take them' }).click();
    await page.getByText(/Bank 0 has a supply of 3.3 V; LVCMOS 1.8 V needs 1.8 V/).waitFor();
    await page.getByLabel('Standard of other').selectOption('LVCMOS 3.3 V');
    const saved = async () => (await bench.api.project.files.query()).find(({ name }) => name === 'pins.csv')?.text;
    await expect.poll(saved).not.toContain('1.8 V');
  });

  test('a clock without a frequency is answered with one click, and the lamp’s rate is shown', async () => {
    const { page } = bench;
    await onBoard(PINS);
    await all(bench, 'build');
    await at('Messages');
    await page.getByRole('row', { name: /The clock "clk" has no frequency/ }).click();
    await page.getByRole('button', { name: /Constrain it to 12 MHz/ }).click();
    await page.getByTestId('stale').getByText('clocks changed (timing only)').waitFor();
    await build();
    await view('Clocks');
    await page.getByRole('cell', { name: 'blink.count[23]' }).waitFor();
    // Common practice: 12 MHz / 2^24.
    await page.getByRole('cell', { name: '0.7153 Hz' }).waitFor();
  });
});

describe('what was built', () => {
  test('timing: the worst way step by step leads to its line; crossings are kept apart', async () => {
    const { page } = bench;
    await at('Timing');
    await page.getByText('From one clock to another').waitFor();
    await page
      .getByRole('button', { name: /^rtl\/blink\.v:5/ })
      .first()
      .click();
    await page.getByLabel('Source rtl/blink.v').waitFor();
  });

  test('timing: what is known of a way is said by a click, and the next build goes by it', async () => {
    const { page } = bench;
    await at('Timing');
    const list = page.getByRole('list', { name: 'Longest ways' }).first();
    await list.getByRole('button', { name: 'They may take' }).click();
    await page.getByText('Written in timing.csv').waitFor();
    await build();
    await page.getByRole('table', { name: 'Set aside' }).getByText('2 cycles').waitFor();
    await page.getByRole('button', { name: 'timing.csv:2' }).click();
    await page.getByLabel('Source timing.csv').waitFor();
    const { latest } = await bench.api.design.newest.query();
    expect(latest?.details.messages.filter(({ file }) => file === 'timing.csv')).toEqual([]);
    expect(latest?.details.timing?.rules?.[0]?.ways).toBeGreaterThan(0);
    expect(latest?.details.timing?.ports?.map(({ port, direction }) => `${port} ${direction}`)).toContain('lamp out');
  });

  test('schematic: a box leads to what decides it, and to its source', async () => {
    const { page } = bench;
    await at('Schematic');
    // Logic opens where it stands, down to its operators; the whole of it can be looked at.
    await page.locator('[data-box$="~logic"]').first().click();
    await page.getByRole('button', { name: 'Open in place' }).click();
    await page.locator('[aria-label^="operation"]').first().waitFor();
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await page.getByRole('button', { name: 'Show all' }).click();
    await expect.poll(() => page.locator('[aria-label^="operation"]').count()).toBe(0);
    await page.locator('[data-testid="drawing"][aria-busy="false"]').waitFor();
    await page.locator('[data-box="blink.seen"]').click();
    await page.getByRole('button', { name: 'What decides it' }).click();
    await page.waitForURL(/cone=/);
    await page.locator('[data-testid="drawing"][aria-busy="false"]').waitFor();
    await page.locator('[aria-label="register count"]').click();
    await page.getByRole('button', { name: 'Source' }).click();
    await page.getByLabel('Source rtl/blink.v').waitFor();
  });

  test('signals are found by parts of their names, resources by instance', async () => {
    const { page } = bench;
    await at('Signals');
    await page.getByLabel('Filter signals').fill('bl* seen');
    await page.getByText('1 of').waitFor();
    await page.getByRole('cell', { name: 'blink.seen', exact: true }).waitFor();
    await view('Resources');
    await page.getByRole('cell', { name: 'blink', exact: true }).waitFor();
  });

  test('two builds are compared', async () => {
    const { page } = bench;
    await onBoard(PINS);
    await all(bench, 'build');
    await at('Builds');
    await page.getByRole('heading', { name: /^From build \d+ to build \d+/ }).waitFor();
    await page.getByRole('table', { name: 'Figures' }).getByText('LUTs', { exact: true }).waitFor();
    // The design grows by a register of eight bits: the instance that it is in says so.
    const grown = SOURCE.replace(
      'reg        seen;',
      'reg seen; reg [7:0] more; always @(posedge clk) more <= more * 3 + d;',
    ).replace('assign lamp = count[23]', 'assign lamp = count[23] ^ ^more');
    await bench.api.project.saveFile.mutate({ name: 'rtl/blink.v', text: grown, read: null });
    await all(bench, 'build');
    const changed = page.getByRole('table', { name: 'Instances that changed in size' });
    await changed.getByRole('row', { name: /^blink \d+ \d+ \+\d+ \d+ \d+ \+8$/ }).waitFor();
  });

  test('vectors: rows that fail are marked, with what came instead', async () => {
    const { page } = bench;
    await at('Sources');
    await page.getByRole('button', { name: 'rtl/blink.v' }).waitFor();
    await page.getByTestId('file-picker').setInputFiles({
      name: 'blink.vectors.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('d,other,cycles,=lamp\n0,0,3,0\n1,0,3,1\n'),
    });
    await page.getByRole('button', { name: 'blink.vectors.csv' }).waitFor();
    await view('Simulate');
    await page.getByRole('radio', { name: 'a table of vectors' }).click();
    await page.getByRole('button', { name: 'Run' }).click();
    await page
      .getByText(/several clocks: clk, other/)
      .first()
      .waitFor();
    await page.getByLabel('Clock', { exact: true }).selectOption('clk');
    await page.getByRole('button', { name: 'Run' }).click();
    await line(/1 row passed, 1 failed/);
    await page.getByText('but is 0').waitFor();
    // The row leads to its step in the waves.
    await page.getByRole('row', { name: /failed/ }).click();
    await page
      .getByTestId('cursor')
      .getByText(/A: step 1[0-9]/)
      .waitFor();
  });
});

describe('projects', () => {
  test('one is made, duplicated, exported, imported to the same fingerprint, and deleted after asking', async () => {
    const { page } = bench;
    await at('Project');
    await page.getByLabel('Name of the new project').fill('Fresh');
    await page.getByRole('button', { name: 'Create' }).click();
    await page.getByText('Fresh · CV25').waitFor();
    await build();
    const fingerprint = () => bench.api.design.newest.query().then(({ latest }) => latest?.details.fingerprint);
    const print = await fingerprint();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByLabel('Export Fresh').click()]);
    const bytes = readFileSync(await download.path());
    expect(Object.keys(unzipSync(bytes)).sort()).toEqual(['nimble.json', 'pins.csv', 'top.v']);
    await page
      .getByTestId('zip-picker')
      .setInputFiles({ name: 'fresh.zip', mimeType: 'application/zip', buffer: bytes });
    await page.getByText('Fresh is imported and open.').waitFor();
    await build();
    expect(await fingerprint()).toBe(print);
    await page.getByLabel('Duplicate Blink').click();
    await page.getByRole('button', { name: 'Duplicate', exact: true }).last().click();
    await page.getByText('Blink copy · CV10').waitFor();
    await page.getByLabel('Delete Blink copy').click();
    await page.getByText('They are lost.').waitFor();
    await page.getByRole('button', { name: 'Delete', exact: true }).click();
    await page.waitForFunction(() => !document.body.innerText.includes('Blink copy ·'));
    await page.getByRole('button', { name: /^Lockhouse/ }).click();
    await page.getByText('Lockhouse · CV25').waitFor();
  });
});
