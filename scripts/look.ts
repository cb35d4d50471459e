import { openWorkbench, station } from '../tests/support/workbench.ts';
const bench = await openWorkbench();
const { page, api } = bench;
try {
  await page.getByTestId('lamp-power').waitFor();
  await page.getByRole('button', { name: 'Scan' }).click();
  await page.waitForTimeout(2500);
  await page.goto(`${bench.address}/design/project`);
  await page.waitForTimeout(1200);
  await page.screenshot({ path: '/tmp/pics/project.png' });
  await page.getByLabel('Package').selectOption('B196');
  await page.waitForTimeout(800);
  await page.goto(`${bench.address}/design/pins`);
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/pics/pins.png' });
  await page.getByRole('button', { name: 'Build', exact: true }).click();
  await page.waitForTimeout(2500);
  await page.screenshot({ path: '/tmp/pics/pins2.png' });
} finally {
  await bench.stop();
}
