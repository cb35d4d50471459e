// The Bench and Load stations as a user drives them: a healthy board, each fault, the chain, pins, wiring, SVF, plans.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { familyOf } from '../../core/families/index.ts';
import { workbench } from '../support/each.ts';
import { all, openView, station } from '../support/workbench.ts';

const bench = workbench();

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const view = (name: string) => openView(bench.page, 'Bench', name);
const press = (name: string | RegExp) =>
  bench.page
    .getByRole('button', { name, exact: typeof name === 'string' })
    .first()
    .click();
const scan = async (result: RegExp) => {
  await view('Chain');
  await press('Scan');
  await line(result);
};
/** Flips a fault of the practice drawer and waits until the board has it. */
const fault = async (name: string, on: boolean) => {
  await view('Practice');
  const toggle = bench.page.locator(`#fault-${name}`);
  await toggle.click();
  await expect.poll(() => toggle.getAttribute('aria-checked'), { timeout: 10_000 }).toBe(String(on));
};

describe('the chain', () => {
  test('is compared with the expected one, which is accepted, edited and undone', async () => {
    await scan(/3 devices, 17 instruction bits/);
    await bench.page.getByText('All 3 devices are the expected ones.').waitFor();
    await bench.page.getByRole('button', { name: 'Delete place 2' }).click();
    await bench.page.getByTestId('differences').getByText('SP64 at place 2 is not expected.').waitFor();
    await press('Undo');
    await bench.page.getByText('All 3 devices are the expected ones.').waitFor();
    await bench.page.getByLabel('Part at place 1').fill('CV60');
    await bench.page.getByLabel('IDCODE at place 1').fill('0x1C060FFD');
    await bench.page.getByLabel('Part at place 0').focus();
    await bench.page
      .getByTestId('differences')
      .getByText(/CV25 instead of/)
      .waitFor();
    await press('Accept what answers');
    await bench.page.getByText('All 3 devices are the expected ones.').waitFor();
    const place = (n: number) => bench.page.getByRole('button', { name: `Move place ${n}` });
    await place(2).scrollIntoViewIfNeeded();
    const [from, to] = [await place(0).boundingBox(), await place(2).boundingBox()];
    if (!from || !to) throw new Error('no handles');
    await bench.page.mouse.move(from.x + 5, from.y + 5);
    await bench.page.mouse.down();
    await bench.page.mouse.move(to.x + 5, to.y + 8, { steps: 12 });
    await bench.page.locator('[id^="DndLiveRegion"]').getByText(/over/).waitFor({ state: 'attached' });
    await bench.page.mouse.up();
    await bench.page.getByTestId('differences').waitFor();
    await press('Undo');
    await bench.page.getByText('All 3 devices are the expected ones.').waitFor();
  });

  test('one IDCODE, several parts: asks, and remembers', async () => {
    await scan(/3 devices/);
    await bench.page.getByLabel('Which part is at place 1').selectOption('CV25');
    await bench.page.getByRole('button', { name: 'ask again' }).waitFor();
    await scan(/3 devices/);
    await bench.page.getByRole('button', { name: 'ask again' }).waitFor();
  });

  test('a BSDL file with an error is refused with its line, a good one is kept', async () => {
    await scan(/3 devices/);
    const text = (familyOf('SP64')?.describe('SP64', 'Q64') ?? '').replaceAll('SP64', 'SPX');
    for (const [name, content, told] of [
      ['bad.bsd', text.replace('"00101"', '"00110"'), /bad\.bsd was not kept/],
      ['good.bsd', text.replace('"0000010100000110"', '"0000010100001111"'), /SPX is known now/],
    ] as const) {
      const path = join(bench.home, name);
      writeFileSync(path, content);
      await bench.page.getByTestId('bsdl-file').setInputFiles(path);
      await bench.page.getByText(told).first().waitFor();
    }
    await line(/3 devices/);
  });
});

describe('what goes wrong', () => {
  test.each([
    ['cable-unplugged', 'cable'],
    ['low-reference', 'reference'],
    ['tdo-stuck-0', 'tdo'],
    ['tdo-stuck-1', 'tdo'],
    ['bit-errors', 'speed'],
    ['device-in-reset', 'path'],
    ['device-missing', 'expected'],
  ])('%s ends at the rung %s', async (name, rung) => {
    await fault(name, true);
    await view('Diagnosis');
    await press('Climb the ladder');
    await expect
      .poll(() => bench.page.locator('[data-state="fail"]').getAttribute('data-rung'), { timeout: 20_000 })
      .toBe(rung);
    expect(await bench.page.locator(`[data-rung="${rung}"] ol li`).count()).toBeGreaterThan(0);
  });

  test('a lost connection is seen within seconds, and the board is read again when it is back', async () => {
    await scan(/3 devices/);
    await view('Practice');
    await bench.page.locator('#fault-pod-lost').click();
    await bench.page.getByText('not found, still looking').waitFor({ timeout: 20_000 });
    await bench.page.getByText('connected', { exact: true }).first().waitFor({ timeout: 20_000 });
    await line(/3 devices/);
  });
});

describe('speed, pins, wiring', () => {
  test('the sweep draws errors against TCK and sets a frequency', async () => {
    await all(bench, 'scan');
    await view('TCK');
    await press('Sweep TCK');
    await line(/Reliable up to 20 MHz; TCK is set to 12\.5 MHz/);
    await bench.page
      .getByRole('img', { name: /wrong bits/ })
      .locator('canvas')
      .waitFor();
    await press('Test at this TCK');
    await bench.page.getByTestId('integrity').getByText('0 of 100,000 bits wrong').waitFor();
  });

  test('a design is built and loaded with checks, read-back and what was found after', async () => {
    await all(bench, 'scan');
    await bench.api.bench.answerPlace.mutate({ index: 1, part: 'CV25' });
    await all(bench, 'scan');
    await station(bench.page, 'Design');
    await press('Build');
    await line(/^Build [0-9a-f]{8}/);
    await station(bench.page, 'Load');
    await bench.page.getByLabel('read back and compare afterwards').click();
    await expect
      .poll(() => bench.page.getByLabel('read back and compare afterwards').isChecked(), { timeout: 10_000 })
      .toBe(true);
    await press('check now');
    await bench.page.locator('[data-check="crc"][data-state="pass"]').waitFor();
    await bench.page.locator('[data-check="part"][data-state="pass"]').waitFor();
    await press('Load');
    await line(/DONE is high.*Read back and equal/);
    const after = await bench.page.getByTestId('after-load').innerText();
    expect(after).toMatch(/this design has none/);
    expect(after).toMatch(/Clock clk, P1\s+ticks/);
    await bench.page.getByRole('cell', { name: 'build 1' }).first().waitFor();
  });

  test('pins are seen while it runs, one is driven, and released', async () => {
    await all(bench, 'scan', 'build', 'load');
    await view('Pins');
    await press('Look at the pins');
    await expect
      .poll(() => bench.page.locator('[data-pin="P1"]').getAttribute('data-level'), { timeout: 10_000 })
      .toMatch(/[01]/);
    await bench.page.locator('[data-pin="P27"]').click();
    await press('Drive 1');
    await bench.page.getByText(/EXTEST: the pins of place 1/).waitFor();
    await expect
      .poll(() => bench.page.getByTestId('lamp-L1').getAttribute('data-level'), { timeout: 10_000 })
      .toBe('1.00');
    await press('Release all pins');
    await bench.page.getByText('SAMPLE: the design runs undisturbed').waitFor();
    await expect
      .poll(() => bench.page.getByTestId('lamp-L1').getAttribute('data-level'), { timeout: 10_000 })
      .toBe('0.00');
    await press('Stop looking');
  });

  test('the wiring test names a short, an open and a stuck net', async () => {
    await all(bench, 'scan');
    for (const [name, told] of [
      ['net-short-and', /GATE_CLK, GATE_CMD[\s\S]*wired-and/],
      ['net-open', /open[\s\S]*GATE_CLK/],
      ['net-stuck', /stuck[\s\S]*SUP_RST/],
    ] as const) {
      await fault(name, true);
      await view('Wiring');
      await press('Take the pins over and test');
      await line(/1 fault on 7 nets/);
      await expect.poll(() => bench.page.getByTestId('wiring').innerText(), { timeout: 10_000 }).toMatch(told);
      await fault(name, false);
    }
    await view('Wiring');
    await press('Take the pins over and test');
    await line(/7 nets, 24 vectors: no fault/);
  });
});

describe('SVF and the pod’s own run', () => {
  test('an export plays back, pauses at a line, steps, goes on, and a difference is shown', async () => {
    await all(bench, 'scan', 'build');
    await view('SVF');
    const [download] = await Promise.all([
      bench.page.waitForEvent('download'),
      bench.page.getByRole('link', { name: 'load', exact: true }).click(),
    ]);
    const path = join(bench.home, 'load.svf');
    await download.saveAs(path);
    await bench.page.getByTestId('svf-file').setInputFiles(path);
    await bench.page.getByLabel('SVF file').getByText('load.svf').waitFor({ state: 'attached' });
    await bench.page.getByLabel('Pause at line').fill('20');
    await press('Play');
    await bench.page
      .getByTestId('svf-where')
      .getByText(/paused, line 2\d/)
      .waitFor();
    await press('Next command');
    await bench.page
      .getByTestId('svf-log')
      .getByText(/Line 2\d: SIR 6/)
      .waitFor();
    await press('Go on');
    await line(/23 commands, .* no difference/);
    await fault('load-corrupted', true);
    await view('SVF');
    await press('Play');
    await line(/TDO differs/);
    await bench.page.getByRole('alert').getByText('00000010').waitFor();
    await station(bench.page, 'Load');
    await press('Load');
    await line(/It was tried twice/);
    await bench.page.getByTestId('failed-rung').waitFor();
  });

  test('the pod loads a staged file by itself and its log is kept', async () => {
    await all(bench, 'scan', 'build');
    await station(bench.page, 'Load');
    await press('Let the pod load the first by itself');
    await line(/The pod loaded build 1 by itself/);
    await view('Pods');
    await bench.page
      .getByTestId('stage-log')
      .getByText(/SHA-256[\s\S]*DONE high/)
      .waitFor();
  });

  test('an instruction and a register by hand: what came is kept as SVF, and plays', async () => {
    await all(bench, 'scan');
    await view('Registers');
    await bench.page.getByText('DEVICE_ID, 32 bits').waitFor();
    await press('Shift');
    await bench.page.getByRole('cell', { name: '0x1C010FFD' }).waitFor();
    await bench.page.getByLabel('Scan 1 must come as it came').check();
    await bench.page.getByLabel('Device').selectOption('2');
    await press('Shift');
    await bench.page.getByRole('cell', { name: '0x05064FFB' }).waitFor();
    await press('Add to the SVF files');
    await view('SVF');
    await bench.page.getByText('by-hand.svf').first().waitFor({ state: 'attached' });
    await press('Play');
    await line(/no difference/);
  });

  test('a file is sent to the pod, runs there while no server is there, and its log is found again', async () => {
    await all(bench, 'scan', 'build');
    await view('Pods');
    await press('Send');
    await line(/build-1\.nbits lies at the pod/);
    const row = bench.page.getByRole('row', { name: /build-1\.nbits/ });
    await row.getByText('here, not run since').waitFor();
    await press('Send');
    await line(/The pod has build-1\.nbits already/);
    await row.getByRole('button', { name: 'run', exact: true }).click();
    await row.getByText('running').waitFor();
    await bench.killWeb();
    await bench.restartWeb();
    await bench.page.goto(`${bench.address}/bench/pods`);
    await row.getByText('ran to its end').waitFor();
    await bench.page
      .getByTestId('pod-file-log')
      .getByText(/Load begun[\s\S]*DONE high[\s\S]*Done/)
      .waitFor();
    await row.getByRole('button', { name: 'remove' }).click();
    await bench.page.getByText('Send a bitstream or an SVF file').waitFor();
  });

  test('a second device joins the plan, and what does not fit stops the load', async () => {
    await all(bench, 'scan', 'build');
    await station(bench.page, 'Load');
    const file = await fetch(`${bench.address}/api/bitstream`, { headers: { 'x-nimble-page': '1' } });
    const path = join(bench.home, 'again.nbits');
    writeFileSync(path, Buffer.from(await file.arrayBuffer()));
    await bench.page.getByTestId('plan-file').setInputFiles(path);
    await bench.page.getByText('2 devices, the others in BYPASS').waitFor();
    await bench.page.getByLabel('Device of step 2').selectOption('0');
    await press('Load');
    await line(/This is for a CV25, but device 0 is CV10\. Nothing was shifted/);
    await press(/^leave out$/);
    await bench.page.getByText('1 device, the others in BYPASS').waitFor();
  });
});
