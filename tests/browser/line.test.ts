// The serial line in the browser: a wrong speed, the right one, what is said both ways, a power-cycle.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, did, openView, step } from '../support/workbench.ts';

const bench = workbench(async (made) => {
  await all(made, 'scan', 'build', 'load');
});

describe('the serial line', () => {
  test('from rubbish at a wrong speed to lines at the right one, and what is sent is answered', {
    timeout: 180_000,
  }, async () => {
    const { page, api } = bench;
    const log = () => page.getByRole('log', { name: 'Serial line' }).innerText();
    const press = async (name: string) => {
      await api.bench.operate.mutate({ control: name, on: true });
      await page.waitForTimeout(100);
      await api.bench.operate.mutate({ control: name, on: false });
    };
    await all(bench, 'load');
    await openView(page, 'Drive', 'Serial line');
    await step('what the board said when it was loaded is there', async () => {
      await expect.poll(log, { timeout: 15_000 }).toContain('Lockhouse 7 ready');
    });
    await step('at a wrong speed it is rubbish, and the speed that fits is offered', async () => {
      await page.getByLabel('Speed in bits a second').fill('9600');
      await page.getByLabel('Speed in bits a second').press('Enter');
      await expect.poll(log).toContain('from here at 9 600 8N1');
      await press('B3');
      await page.getByText('no stop bit: wrong speed, or not a frame').first().waitFor();
      await page.getByText('115 200 8N1 fits what arrives; you are at 9 600 8N1.').waitFor();
      await page.getByRole('button', { name: 'Take it' }).click();
      await expect.poll(log).toContain('from here at 115 200 8N1');
    });
    await step('a command is answered, and the answer found', async () => {
      await page.getByLabel('What is sent').fill('s');
      await page.getByLabel('What is sent').press('Enter');
      await expect.poll(log).toMatch(/level \d{4} cm/);
      await page.getByLabel('Look for').fill('level');
      await page.getByLabel('Look for').press('Enter');
      await page.getByText('1 of 1').waitFor();
      await page.getByLabel('Only lines with').fill('hold');
      await expect.poll(log).not.toContain('level');
      await page.getByLabel('Only lines with').fill('');
    });
    await step('a text is waited for', async () => {
      await page.getByLabel('Text to wait for').fill('hold');
      await page.getByRole('button', { name: 'Wait', exact: true }).click();
      await page.getByLabel('What is sent').fill('h');
      await page.getByRole('button', { name: 'Send', exact: true }).click();
      await page
        .getByText(/“hold” came after/)
        .first()
        .waitFor();
    });
    await step('everything can be taken along', async () => {
      const [file] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('link', { name: 'text', exact: true }).click(),
      ]);
      expect(readFileSync(await file.path(), 'utf8')).toMatch(/< Lockhouse 7 ready\n/);
    });
    await step('a file goes as a job', async () => {
      const commands = { name: 'commands.txt', mimeType: 'text/plain', buffer: Buffer.from('g') };
      await page.getByLabel('File to send').setInputFiles(commands);
      await page.getByText('commands.txt: 1 byte has left for the board.').first().waitFor();
      await expect.poll(log).toMatch(/^.*go/m);
    });
    await step('what is done to the board stands among what it says', async () => {
      await did(bench, { kind: 'power', on: false });
      await did(bench, { kind: 'power', on: true });
      await expect.poll(log).toMatch(/Power/);
    });
  });
});
