import { openWorkbench, openView } from './tests/support/workbench.ts';
const bench = await openWorkbench();
const { page } = bench;
page.on('pageerror', (e) => console.log('PAGEERR', e.message));
const ended = (text: RegExp) => page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
try {
  await bench.api.jobs.start.mutate({ kind: 'build' });
  await ended(/^Build [0-9a-f]{8}/);
  await bench.api.jobs.start.mutate({ kind: 'load' });
  await ended(/DONE is high/);
  await openView(page, 'Drive', 'Serial line');
  await page.waitForTimeout(1000);
  await page.screenshot({ path: '/tmp/s1.png' });
  await page.getByLabel('What is sent').fill('s');
  await page.keyboard.press('Enter');
  await page.waitForTimeout(500);
  await page.getByLabel('Speed in bits a second').fill('9600');
  await page.keyboard.press('Enter');
  await page.waitForTimeout(400);
  for (let i = 0; i < 6; i++) {
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    await page.waitForTimeout(250);
  }
  await page.getByLabel('Speed in bits a second').fill('115200');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 3; i++) {
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    await page.waitForTimeout(250);
  }
  await page.getByLabel('Speed in bits a second').fill('9600');
  await page.keyboard.press('Enter');
  await bench.api.bench.operate.mutate({ control: 'B3', on: true });
  await bench.api.bench.operate.mutate({ control: 'B3', on: false });
  await page.waitForTimeout(1600);
  await page.screenshot({ path: '/tmp/s2.png' });
  await page.getByRole('button', { name: 'Take it' }).click();
  await page.getByLabel('Text to wait for').fill('passage');
  await page.getByRole('button', { name: 'Wait', exact: true }).click();
  await bench.api.bench.operate.mutate({ control: 'B0', on: true });
  await page.waitForTimeout(300);
  await bench.api.bench.operate.mutate({ control: 'B0', on: false });
  await page.getByLabel('Look for').fill('level');
  await page.getByRole('radio', { name: 'both' }).click();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/s3.png' });
} catch (e) {
  console.log(e);
  await page.screenshot({ path: '/tmp/serr.png' });
} finally {
  await bench.stop();
}
