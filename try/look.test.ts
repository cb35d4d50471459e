import { test } from 'vitest';
import { all, openWorkbench } from '../tests/support/workbench.ts';
test('look', async () => {
  const bench = await openWorkbench();
  const t0 = Date.now();
  const t = (s: string) => console.log(s, Date.now() - t0);
  try {
    await all(bench, 'scan', 'build');
    await bench.page.goto(`${bench.address}/bench/pods`);
    await bench.page.getByRole('button', { name: 'Send' }).click();
    const row = bench.page.getByRole('row', { name: /build-1\.nbits/ });
    await row.getByText('here, not run since').waitFor();
    t('sent');
    await row.getByRole('button', { name: 'run', exact: true }).click();
    await row.getByText('running').waitFor();
    t('running');
    await bench.page.screenshot({ path: '/tmp/s1.png' });
    await bench.killWeb();
    t('killed');
    await bench.restartWeb();
    t('restarted');
    await bench.page.goto(`${bench.address}/bench/pods`);
    t('gone to');
    await row.getByText('ran to its end').waitFor();
    t('ended');
    await bench.page.getByTestId('pod-file-log').scrollIntoViewIfNeeded();
    await bench.page.screenshot({ path: '/tmp/s2.png' });
  } finally {
    await bench.stop();
  }
}, 120000);
