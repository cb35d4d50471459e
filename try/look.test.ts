import { test } from 'vitest';
import { all, openWorkbench } from '../tests/support/workbench.ts';
test('look', async () => {
  const bench = await openWorkbench();
  try {
    await all(bench, 'scan');
    await bench.page.goto(`${bench.address}/bench/registers`);
    await bench.page.getByText('DEVICE_ID, 32 bits').waitFor();
    const press = (name: string) => bench.page.getByRole('button', { name, exact: true }).click();
    await press('Shift');
    await bench.page.getByRole('cell', { name: '0x1C010FFD' }).waitFor();
    await bench.page.getByLabel('Device').selectOption('2');
    await bench.page.getByLabel('Instruction').selectOption('SAMPLE');
    await press('Shift');
    await bench.page.getByTestId('add-bsdl').setInputFiles('demo/devices/sp64.bsd');
    await bench.page.getByRole('cell', { name: 'SP64', exact: true }).waitFor();
    await bench.page.getByLabel('Instruction').selectOption('EXTEST');
    await bench.page.waitForTimeout(500);
    await bench.page.screenshot({ path: '/tmp/s1.png' });
    await bench.page.setViewportSize({ width: 1024, height: 800 });
    await bench.page.screenshot({ path: '/tmp/s2.png' });
  } finally {
    await bench.stop();
  }
}, 120000);
