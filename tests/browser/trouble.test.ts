// What goes wrong, on screen: each ends in a clear message, and the next attempt works.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { openView, station, TOKEN } from '../support/workbench.ts';
import { demoBuild } from '../support/demo.ts';

const bench = workbench(undefined, { pod: false });
const demo = demoBuild();

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const alert = (text: RegExp) => bench.page.getByRole('alert').filter({ hasText: text }).first().waitFor();

/** The pod runs, and the page of a station shows that. */
async function powered(name?: string): Promise<void> {
  await bench.startPod();
  await bench.page.getByTestId('lamp-power').waitFor();
  if (name) await station(bench.page, name);
}

async function loadFile(name: string, bytes: Uint8Array): Promise<void> {
  const path = join(bench.home, name);
  writeFileSync(path, bytes);
  await bench.page.getByLabel('Bitstream file', { exact: true }).setInputFiles(path);
}

describe('trouble', () => {
  test('no pod: said so, and found by itself once it runs', async () => {
    await alert(/No pod answers at ws:\/\/127\.0\.0\.1/);
    expect(await bench.page.getByRole('button', { name: 'Scan' }).isDisabled()).toBe(true);
    await powered();
  });

  test('a wrong token is refused; the right one connects', async () => {
    const { page } = bench;
    await powered();
    await openView(page, 'Bench', 'Pods');
    await page.getByLabel('Token').fill('not the token');
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await alert(/refuses this token/);
    await page.getByLabel('Token').fill(TOKEN);
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.getByTestId('lamp-power').waitFor();
  });

  test('a file that is no bitstream, and a truncated one, are refused before anything is shifted', async () => {
    await powered('Load');
    await loadFile('notes.nbits', new TextEncoder().encode('shopping list'));
    await alert(/notes\.nbits: This file is no \.nbits bitstream/);
    await loadFile('short.nbits', demo.CV25.slice(0, 5000));
    await alert(/short\.nbits: This bitstream is cut short: 5000 bytes/);
  });

  test('a bitstream for a part that is not in the chain is refused', async () => {
    await powered('Load');
    await loadFile('other.nbits', demo.CV60);
    await alert(/There is no CV60 in the chain.*Nothing was shifted/);
  });

  test('a damaged file is stopped before anything is shifted; a bit that flips on the way ends in a CRC error with DONE low', async () => {
    await powered('Load');
    const bytes = demo.CV25.slice();
    const at = bytes.length >> 1;
    bytes[at] = (bytes[at] as number) ^ 0x10;
    await loadFile('flipped.nbits', bytes);
    await alert(/Nothing was shifted\. The CRC of the stream is wrong/);
    await bench.api.bench.setFault.mutate({ name: 'load-corrupted', on: true });
    await loadFile('good.nbits', demo.CV25);
    await alert(/CRC error in the stream; DONE stays low\. It was tried twice/);
    await bench.api.bench.setFault.mutate({ name: 'load-corrupted', on: false });
    expect(await bench.page.getByTestId('status').innerText()).toMatch(/DONE\s+low[\s\S]*CRC\s+error/);
    expect(await bench.page.getByTestId('lamp-done').getAttribute('data-level')).toBe('0.00');
  });

  test('the pod is killed in the middle of a load: the job ends as failed, the next one works', async () => {
    const { page } = bench;
    await powered('Load');
    // Slow enough that the load cannot be over before the pod is gone.
    await bench.api.bench.setFrequency.mutate({ hz: 500_000 });
    await loadFile('good.nbits', demo.CV25);
    await page.getByTestId('progress').getByText('Loading').first().waitFor();
    await bench.killPod();
    await alert(/The connection to the pod was lost/);
    await bench.startPod();
    await page.getByTestId('lamp-power').waitFor();
    await loadFile('good.nbits', demo.CV25);
    await line(/DONE is high/);
    const database = new Database(join(bench.home, 'nimble.sqlite'), { readonly: true });
    expect(database.pragma('integrity_check', { simple: true })).toBe('ok');
    expect(database.prepare("select count(*) as n from log where outcome = 'interrupted'").get()).toEqual({ n: 1 });
    database.close();
  });

  test('without power the scan says so', async () => {
    const { page } = bench;
    await powered();
    await page.getByRole('button', { name: 'Power off' }).click();
    await page.getByRole('button', { name: 'Power on' }).waitFor();
    await station(page, 'Bench');
    await page.getByRole('button', { name: 'Scan' }).click();
    await alert(/The board is not powered: the reference voltage is 0\.0 V/);
  });

  test('a page of another origin is refused', async () => {
    const answer = await fetch(`${bench.address}/api/call/jobs.start`, {
      method: 'POST',
      body: '{"kind":"scan"}',
      headers: { origin: 'http://elsewhere.example', 'content-type': 'application/json' },
    });
    expect(answer.status).toBe(403);
  });
});
