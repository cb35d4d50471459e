import { spawn } from 'node:child_process';
import { did, openWorkbench, planned, PROBED, station } from '../tests/support/workbench.ts';
const bench = await openWorkbench();
const { page, api } = bench;
await planned(bench, PROBED);
for (const kind of ['scan', 'build', 'load'] as const) console.log((await did(bench, { kind })).state);
await station(page, 'Capture');
const { id } = await api.capture.arm.mutate({
  recorder: 'main',
  when: 'state == 0 or state != 0',
  before: 8,
  repeat: 'every',
});
await new Promise((r) => setTimeout(r, 8000));
await api.jobs.cancel.mutate({ id }).catch(() => {});
await page.waitForTimeout(1500);
await page.screenshot({ path: '/tmp/s1.png' });
await page.getByRole('button', { name: /^All \d+ captures/ }).click();
await page.waitForTimeout(500);
await page
  .getByRole('button', { name: /^Delete/ })
  .nth(1)
  .click();
await page.screenshot({ path: '/tmp/s2.png' });
await page.keyboard.press('Escape');
await station(page, 'Load');
await page.waitForTimeout(1000);
await page.screenshot({ path: '/tmp/s3.png' });
const web = spawn(process.execPath, ['cli/web.mjs', '--port', '3977'], {
  env: { ...process.env, NODE_ENV: 'production', NIMBLE_HOME: '/tmp/nh2', NIMBLE_TOKEN: 'a-long-enough-token-here' },
});
await new Promise((r) => setTimeout(r, 5000));
await page.goto('http://127.0.0.1:3977/keep/steps');
await page.screenshot({ path: '/tmp/s4.png' });
await page.fill('input', 'wrong');
await page.keyboard.press('Enter');
await page.waitForTimeout(800);
await page.screenshot({ path: '/tmp/s5.png' });
await page.fill('input', 'a-long-enough-token-here');
await page.keyboard.press('Enter');
await page.waitForTimeout(2500);
console.log(page.url());
await page.screenshot({ path: '/tmp/s6.png' });
web.kill('SIGKILL');
await bench.stop();
