// A part that nothing is built for here, over a microcontroller on a serial line (where there is a C compiler for its
// firmware): scanned, taken along, loaded by an SVF of its makers' tools, looked at by hand, captured from and driven.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Download } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Bench, benchTarget, Pins, readBenchFile } from '../../bench/index.ts';
import { readPlanFile } from '../../core/probes/index.ts';
import { startFirmware } from '../../pod/index.ts';
import { marrowSvf } from '../../scripts/marrow/index.ts';
import { firmwareProgram } from '../support/firmware.ts';
import {
  ended,
  imported,
  openView,
  openWorkbench,
  planned,
  station,
  step,
  type Workbench,
} from '../support/workbench.ts';

const DESK = 'demo/marrow';
const BENCH_FILE = 'demo/benches/marrow.bench.json';
const ends: (() => unknown)[] = [];
let bench: Workbench;

/** A pod with the firmware behind it, or with the bench itself. */
async function podOptions(): Promise<string[]> {
  const program = firmwareProgram();
  if (program === null) return ['--bench', BENCH_FILE];
  const file = readBenchFile(readFileSync(BENCH_FILE, 'utf8'), BENCH_FILE);
  if (!file.ok) throw new Error(file.error.message);
  const target = benchTarget(new Bench(file.value));
  const firmware = await startFirmware(program, new Pins(target));
  ends.push(
    () => target.stop(),
    () => firmware.stop(),
  );
  return ['--wire', firmware.path];
}

beforeAll(async () => {
  bench = await openWorkbench({ podOptions: await podOptions() });
  const names = readdirSync(DESK, { recursive: true }).map(String);
  const files = names.filter((name) => /\.(json|v|csv|bsd)$/.test(name) && !name.startsWith('plans'));
  await imported(
    bench,
    Object.fromEntries(files.map((name) => [name, new Uint8Array(readFileSync(join(DESK, name)))])),
  );
  const plan = readPlanFile(readFileSync(join(DESK, 'plans/tide.plan.json'), 'utf8'), 'tide.plan.json');
  if (!plan.ok) throw new Error(plan.error.message);
  await planned(bench, plan.value.plan);
  await bench.page.reload();
});
afterAll(async () => {
  await bench?.stop();
  for (const end of ends.reverse()) await end();
});

async function saved(start: Promise<Download>): Promise<string> {
  const path = await (await start).path();
  return readFileSync(path, 'utf8');
}

test('from a board on the desk to its captured signals', async () => {
  const { page } = bench;
  const press = (name: string) => page.getByRole('button', { name, exact: true }).first().click();

  await step('the scan knows it by the description in the project', async () => {
    await openView(page, 'Bench', 'Chain');
    await ended(page, /1 device/, () => press('Scan'));
    await page.getByText('MW40').first().waitFor();
  });

  let svf = '';
  await step('built as text, which is taken along with a wrapper; figures are not shown', async () => {
    await station(page, 'Design');
    await ended(page, /for MW40: take it along under Probe/, () => press('Build'));
    await openView(page, 'Design', 'Resources');
    await page.getByText('What the design takes of a MW40 its own tools know').waitFor();
    await station(page, 'Probe');
    await page.getByText('What probes take of a MW40 its own tools know.').waitFor();
    const verilog = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Take it along' }).click();
    const text = await saved(verilog);
    const wrapper = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Wrapper' }).click();
    expect(await saved(wrapper)).toMatch(/FILL IN[\s\S]*tide_lamp_probed u_probed/);
    const made = marrowSvf({
      sources: [{ name: 'probed.v', text }],
      top: 'tide_lamp_probed',
      pins: readFileSync(join(DESK, 'pins.csv'), 'utf8'),
    });
    if (!made.ok) throw new Error(made.error.message);
    svf = join(bench.home, 'tide.svf');
    writeFileSync(svf, made.value);
  });

  await step('nothing runs: by hand its state register says so', async () => {
    await openView(page, 'Bench', 'Registers');
    await page.getByTestId('bsdl-file').setInputFiles(join(DESK, 'mw40.bsd'));
    await page.getByLabel('Instruction').selectOption('STATE');
    await press('Shift');
    await page.getByRole('cell', { name: '0x01', exact: true }).waitFor();
  });

  await step('loaded by its makers’ file; what runs is the build', async () => {
    await openView(page, 'Bench', 'SVF');
    await page.locator('input[type=file]').first().setInputFiles(svf);
    await page.getByText('tide.svf').first().waitFor({ state: 'attached' });
    await ended(page, /no difference/, () => press('Play'));
    await page
      .getByTestId('dock-running')
      .getByText(/^[0-9a-f]{8}$/)
      .waitFor();
    await page.getByRole('img', { name: 'DONE lit' }).waitFor();
  });

  await step('captured, and a lever moves a gauge', async () => {
    await station(page, 'Capture');
    await ended(page, /^Capture 1: 256 samples/, () => press('Take now'));
    await station(page, 'Drive');
    await page.getByLabel('Value for tide_lamp.offset').fill('240');
    await press('Set');
    await expect
      .poll(async () => Number(await page.getByTestId('gauge-tide_lamp.level').innerText()), { timeout: 15_000 })
      .toBeGreaterThanOrEqual(14);
  });
}, 180_000);
