// The Keep station as a user drives it: a layout of two images and board data, written, compared, damaged, and what
// goes wrong.
import { readFileSync } from 'node:fs';
import { beforeEach, describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, did, openView, station, type Workbench } from '../support/workbench.ts';

let bench: Workbench;

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const press = (name: string) => bench.page.getByRole('button', { name, exact: true }).first().click();
const view = (name: string) => openView(bench.page, 'Keep', name);
const fault = async (name: string, on: boolean) => {
  await openView(bench.page, 'Bench', 'Practice');
  const toggle = bench.page.locator(`#fault-${name}`);
  await toggle.click();
  if (name !== 'pod-lost')
    await expect.poll(() => toggle.getAttribute('aria-checked'), { timeout: 10_000 }).toBe(String(on));
};
const check = (name: string, state: string) =>
  bench.page.locator(`[data-check="${name}"][data-state="${state}"]`).first();
const write = async () => {
  await view('Write');
  await press('Write flash');
  await press('Erase and write');
};

/** Values of a board as its table has them, and the layout of the demo. */
const CHOICE = {
  layout: 'two-images.layout.json',
  image: null,
  replaceGolden: false,
  rehearseBy: 'power',
  values: { serial: 'LH-0042', 'upper offset mm': '4', 'lower offset mm': '-3', gain: '1.0125' },
} as const;
const byLayout = async (made: Workbench) => {
  await all(made, 'scan', 'build');
  await made.api.keep.choose.mutate(CHOICE);
};

describe('two images and the data of a board', () => {
  const each = workbench((made) => all(made, 'scan', 'build'));
  beforeEach(() => {
    bench = each;
  });

  test('a block is dragged, told that it overlaps, and put back; an address does the same', async () => {
    await view('Layout');
    const strip = bench.page.getByTestId('strip');
    const box = await strip.boundingBox();
    if (!box) throw new Error('no strip');
    const row = box.height / 8;
    await bench.page.mouse.move(box.x + 100, box.y + row * 2.5);
    await bench.page.mouse.down();
    await bench.page.mouse.move(box.x + 250, box.y + row * 0.5, { steps: 6 });
    await bench.page
      .getByTestId('layout-problems')
      .getByText(/"golden" and "update" overlap/)
      .waitFor();
    await bench.page.mouse.up();
    await press('Undo');
    await bench.page.getByText('Everything fits.').waitFor();
    const address = bench.page.getByLabel('Address of block 3');
    // Taken as it is typed, not when the field is left.
    await address.fill('0x3FF000');
    await bench.page
      .getByTestId('layout-problems')
      .getByText(/"board data" and "boot header" overlap/)
      .waitFor();
    await press('Undo');
    await press('Let Keep write this layout');
    await bench.page.getByRole('button', { name: 'Keep writes this layout' }).waitFor();
  });

  test('a row of a table becomes the board’s block; a bad table is told with its line', async () => {
    await bench.api.keep.choose.mutate({ ...CHOICE, values: {} });
    await view('Board data');
    await bench.page.getByText('The field "serial" has no value.').waitFor();
    await bench.page.getByTestId('boards-file').setInputFiles({
      name: 'bad.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('serial,upper offset mm,lower offset mm,gain\nLH-1,1,1,1\nLH-2,x,1,1\n'),
    });
    await bench.page.getByText(/bad\.csv, line 3: The field "upper offset mm" takes a whole number/).waitFor();
    await press('lockhouse.boards.csv');
    await bench.page.getByRole('row', { name: /LH-0042/ }).click();
    await bench.page
      .getByTestId('board-bytes')
      .getByText(/^4C 48 2D 30 30 34 32 00 00 00 00 00 FF FF 04 00/)
      .waitFor();
  });

  test('the plan, the write and a passed rehearsal', async () => {
    await bench.api.keep.choose.mutate(CHOICE);
    await view('Write');
    await press('Look first');
    await check('golden', 'pass').waitFor();
    await bench.page
      .getByRole('img', { name: /0 sectors erased, 168 programmed|0 sectors erased, \d+ programmed, 0 kept/ })
      .waitFor();
    await write();
    await line(/pages written and verified; boots by itself in \d+ ms as the update, build [0-9a-f]{8}/);
    expect(await bench.page.getByTestId('rehearsal').innerText()).toMatch(/the update/);
    await bench.page
      .getByTestId('dock-kept')
      .getByText(/^kept, /)
      .waitFor();
    await press('Reconfigure');
    await line(/^The board boots by itself/);
    await station(bench.page, 'Logbook');
    const record = bench.page.getByRole('row', { name: /Keep/ }).first();
    for (const what of [
      /unique id\s*[0-9a-f]{16}/,
      /golden\s*golden at 0x0, [\d,]+ bytes, SHA-256 [0-9a-f]{64}/,
      /sectors\s*0 erased/,
      /verify\s*equal/,
      /rehearsal\s*boots by itself/,
    ])
      expect(await record.innerText()).toMatch(what);
  });
});

/** The flash holds what the layout says. */
function written(): void {
  const each = workbench(async (made) => {
    await byLayout(made);
    await all(made, 'keep');
  });
  beforeEach(async () => {
    bench = each;
    await all(bench, 'scan');
  });
}

/** What the update begins with is written over. */
async function damage(): Promise<void> {
  const step = { what: 'fill', address: 0x101000, length: 32, byte: 0x5a } as const;
  expect((await did(bench, { kind: 'flash-step', step })).state).toBe('done');
}

describe('a flash that was written', () => {
  written();

  test('the same again writes nothing', async () => {
    await view('Write');
    await press('Look first');
    await bench.page.getByText('The flash holds all of this already: writing would change nothing.').waitFor();
    await write();
    await line(/0 blocks erased, 0 pages written and verified/);
  });

  test('each step alone: CRC, fill, read to a file, erase refused inside a sector, verify finds the fill', async () => {
    await view('Steps');
    await bench.page.getByLabel('from').fill('0x110000');
    await bench.page.getByLabel('length').fill('32');
    await press('Compute');
    await line(/CRC-32 of 32 bytes from 0x110000: 190a55ad/);
    await press('Erase');
    await press('Erase it');
    await line(/begins or ends inside a sector/);
    await bench.page.getByLabel('Byte to fill with').fill('0x5A');
    await press('Fill');
    await press('Fill it');
    await line(/32 bytes filled with 0x5A/);
    await press('Read');
    await bench.page.getByTestId('flash-read').waitFor();
    const [saved] = await Promise.all([
      bench.page.waitForEvent('download'),
      bench.page.getByRole('link', { name: 'Intel HEX' }).click(),
    ]);
    expect(readFileSync(await saved.path(), 'utf8')).toContain('5A5A5A5A');
    await press('Verify');
    await line(/Verify failed at 0x110000/);
  });

  test('the comparison shows the differing sector and jumps to the bytes', async () => {
    await damage();
    await view('Compare');
    await press('Compare');
    await bench.page
      .getByTestId('comparison')
      .getByText(/32 of [\d,]+ bytes differ, at 1 place in 1 of/)
      .waitFor();
    await bench.page.getByTestId('bytes').getByText('101010').waitFor();
    await bench.page
      .getByTestId('bytes')
      .getByText(/^5A 5A 5A/)
      .first()
      .waitFor();
    const other = Buffer.alloc(40, 0x5a);
    await bench.page
      .getByTestId('compare-file')
      .setInputFiles({ name: 'other.bin', mimeType: 'application/octet-stream', buffer: other });
    await expect
      .poll(() => bench.page.getByLabel('with', { exact: true }).inputValue(), { timeout: 10_000 })
      .toMatch(/^image/);
    await press('Compare');
    await bench.page
      .getByTestId('comparison')
      .getByText(/of 40 bytes differ/)
      .waitFor();
  });

  test('the damaged update is refused by the FPGA, and golden is told', async () => {
    await damage();
    await view('Write');
    await press('Power-cycle');
    await line(/refused the update and fell back to the golden image/);
    expect(await bench.page.getByTestId('rehearsal').innerText()).toMatch(/golden image, since the update was refused/);
  });
});

describe('what goes wrong', () => {
  written();

  test('a boot switch at JTAG is pointed at', async () => {
    await bench.page.getByTestId('boot-switch').getByRole('radio', { name: 'JTAG' }).click();
    await view('Write');
    await press('Power-cycle');
    await line(/DONE stays low: the boot switch stands at JTAG/);
    await bench.page
      .getByTestId('board-face')
      .getByText(/Set it to flash/)
      .waitFor();
  });

  test('a chip of another maker is refused before anything is erased', async () => {
    await fault('flash-wrong-maker', true);
    await view('Write');
    await press('Look first');
    await line(/The chip answers 95 27 16, which is Quoin QF32, but its own table says otherwise/);
    await write();
    await line(/Nothing was erased/);
  });

  test('a chip that is protected stops at its check', async () => {
    await fault('flash-protected', true);
    await view('Write');
    await press('Look first');
    await check('protection', 'stop').waitFor();
  });

  test('the supply fails in the middle: said so, and going on finishes it', async () => {
    await fault('power-fails-writing', true);
    // What is missing must be more than the fault lets through.
    await view('Steps');
    await bench.page.getByLabel('from').fill('0x100000');
    await bench.page.getByLabel('length').fill('0x50000');
    await press('Erase');
    await press('Erase it');
    await line(/lost its supply in the middle/);
    await press('Power on');
    await bench.page.getByTestId('lamp-done').waitFor();
    await write();
    await line(/boots by itself in \d+ ms as the update/);
  });

  test('the pod is lost in the middle: what was done stands, and going on finishes it', async () => {
    await view('Steps');
    await bench.page.getByLabel('from').fill('0x100000');
    await bench.page.getByLabel('length').fill('0x50000');
    await press('Erase');
    await press('Erase it');
    await line(/blocks erased, and blank/);
    await write();
    // Some of it is written, not all.
    const progress = () => bench.page.getByTestId('job-line').innerText();
    await expect.poll(progress, { timeout: 30_000, interval: 20 }).toMatch(/Writing[\s\S]*[1-9][\d.]* [KM]iB of/);
    await bench.killPod();
    await expect.poll(() => bench.page.getByTestId('job-line').innerText(), { timeout: 30_000 }).toMatch(/interrupted/);
    await bench.startPod();
    const again = bench.page.getByRole('region', { name: 'Broken off' });
    await again.waitFor();
    await expect.poll(() => again.getByRole('button', { name: 'Go on' }).isEnabled(), { timeout: 20_000 }).toBe(true);
    await again.getByRole('button', { name: 'Go on' }).click();
    await line(/boots by itself in \d+ ms as the update/);
    await again.waitFor({ state: 'detached' });
  });
});
