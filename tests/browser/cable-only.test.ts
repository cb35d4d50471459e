// A pod that has a cable and nothing else, as most real ones are: no lamps, no power switch, no boot switch. Every
// station works; what the pod cannot do is asked of the person at the desk, here the test.
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, loadProbed, planned, PROBED, station } from '../support/workbench.ts';

const bench = workbench((made) => planned(made, PROBED).then(() => all(made, 'build')), {
  podOptions: ['--cable-only'],
});

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 90_000 });

describe('a pod with a cable alone', () => {
  test('Bench: supply, TCK and chain come from the cable; what the pod has not is not shown', async () => {
    const { page } = bench;
    await page.getByRole('button', { name: 'Scan' }).click();
    await line(/3 devices, 17 instruction bits/);
    await page.getByText('on, 3.3 V').waitFor();
    await page.getByText('This pod has a cable and no eyes').waitFor();
    await page.getByText('3.3 V at the reference pin. Its switch is on the board.').waitFor();
    const face = page.getByTestId('board-face');
    expect(await face.getByRole('button').count()).toBe(0);
    expect(await face.getByRole('switch').count()).toBe(0);
    await page.getByRole('link', { name: 'Practice' }).click();
    await page.getByText('This pod owns a real board: nothing can be made to fail from here.').waitFor();
  });

  test('Probe and Load: built with a recorder and a lever; DONE is what the FPGA says', async () => {
    const { page } = bench;
    await planned(bench, { recorders: [], panels: [] });
    await all(bench, 'scan');
    await loadProbed(page);
    await page.getByRole('img', { name: 'DONE lit' }).waitFor();
    await page.getByTestId('boot-switch').getByText('from flash').waitFor();
  });

  test('Capture and Drive: taken at once, and a lever moves the gauge', async () => {
    const { page } = bench;
    await all(bench, 'scan', 'load');
    await station(page, 'Capture');
    await page.getByRole('button', { name: 'Take now' }).click();
    await line(/^Capture 1: 1,024 samples of 1 signal/);
    await station(page, 'Drive');
    await page.getByLabel('Reading interval').selectOption('100');
    await page.getByLabel('Value for lockhouse.level_trim').fill('42');
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await expect
      .poll(async () => Number(await page.getByTestId('gauge-lockhouse.level_shown').innerText()), { timeout: 10_000 })
      .toBeGreaterThanOrEqual(42);
  });

  test('Keep: written, and the rehearsal asks for the switch and sees at the reference voltage when it was thrown', async () => {
    const { page } = bench;
    await all(bench, 'scan', 'load');
    await station(page, 'Keep');
    expect(await page.getByRole('button', { name: 'Reconfigure' }).count()).toBe(0);
    await page.getByRole('button', { name: 'Write flash' }).click();
    await page.getByRole('button', { name: 'Erase and write' }).click();
    await line(/Switch the board off/);
    bench.throwSwitch();
    await line(/Switch the board on/);
    await page.getByRole('img', { name: 'power dark' }).waitFor();
    bench.throwSwitch();
    await line(/pages written and verified; boots by itself/);
    await page.getByTestId('dock-kept').getByText(/^kept/).waitFor();
    await page.getByRole('img', { name: 'DONE lit' }).waitFor();
  });
});
