// Two windows of one workbench, and a server that goes away: nobody's work is lost, and nobody looks at something old
// without being told.
import type { Page } from 'playwright-core';
import { beforeEach, describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';

const bench = workbench(undefined, { pod: false });
let second: Page;

const editor = (page: Page) => page.getByRole('textbox', { name: 'Source rtl/tick.v' });
const firstLine = (page: Page) => editor(page).locator('.cm-line').first();
const refusal = (page: Page) => page.getByRole('alert').filter({ hasText: 'rtl/tick.v' });

async function openTick(page: Page): Promise<void> {
  await page.goto(`${bench.address}/design/sources?file=rtl/tick.v&line=1`);
  await editor(page).waitFor();
}

/** Writes at the very beginning of the file. */
async function begin(page: Page, text: string): Promise<void> {
  await editor(page).press('Control+Home');
  await page.keyboard.insertText(text);
}

beforeEach(async () => {
  second = await bench.page.context().newPage();
  second.setDefaultTimeout(30_000);
  await openTick(bench.page);
  await openTick(second);
});

describe('a file that two windows show', () => {
  test('what one saves the other shows, and says so', async () => {
    await begin(bench.page, '// one\n');
    await second.getByText('rtl/tick.v was changed elsewhere; it is shown as it is now.').waitFor();
    await expect.poll(() => firstLine(second).innerText()).toBe('// one');
    expect(await refusal(bench.page).count()).toBe(0);
    expect(await bench.page.getByText('was changed elsewhere').count()).toBe(0);
  });

  test('typing on after a save is no conflict with oneself', async () => {
    const first = await firstLine(second).innerText();
    for (const letter of 'abcdef') {
      await begin(second, letter);
      await second.waitForResponse((response) => response.url().endsWith('/project.saveFile'));
    }
    await expect.poll(() => firstLine(bench.page).innerText()).toBe(`fedcba${first}`);
    expect(await refusal(second).count()).toBe(0);
    expect(await firstLine(second).innerText()).toBe(`fedcba${first}`);
  });

  test('written in both at once: one is saved, the other kept until somebody chooses', async () => {
    await Promise.all([begin(bench.page, '// left\n'), begin(second, '// right\n')]);
    const late = await Promise.any(
      [bench.page, second].map((page) =>
        refusal(page)
          .waitFor()
          .then(() => page),
      ),
    );
    const early = late === second ? bench.page : second;
    const [mine, theirs] = late === second ? ['// right', '// left'] : ['// left', '// right'];
    expect(await firstLine(late).innerText()).toBe(mine);
    expect(await firstLine(early).innerText()).toBe(theirs);
    await late.getByRole('button', { name: 'Save mine over it' }).click();
    await refusal(late).waitFor({ state: 'detached' });
    await expect.poll(() => firstLine(early).innerText()).toBe(mine);
  });

  test('or the other text is taken', async () => {
    await Promise.all([begin(bench.page, '// up\n'), begin(second, '// down\n')]);
    const late = await Promise.any(
      [bench.page, second].map((page) =>
        refusal(page)
          .waitFor()
          .then(() => page),
      ),
    );
    await late.getByRole('button', { name: 'Take the other text' }).click();
    await refusal(late).waitFor({ state: 'detached' });
    await expect.poll(() => firstLine(late).innerText()).toBe(late === second ? '// up' : '// down');
  });
});

describe('everything by keyboard', () => {
  const commands = () => bench.page.getByRole('dialog', { name: 'Commands' });

  test('? lists the keys of the station, not where somebody types', async () => {
    const { page } = bench;
    await page.keyboard.press('Alt+6');
    await page.waitForURL(/capture/);
    await page.getByRole('heading', { name: 'Capture', exact: true }).waitFor();
    await page.keyboard.press('?');
    const keys = page.getByRole('dialog', { name: 'Keys' });
    await keys.getByText('to the trigger').waitFor();
    await page.keyboard.press('Escape');
    await keys.waitFor({ state: 'detached' });
    await page.keyboard.press('Alt+2');
    await openTick(page);
    await editor(page).press('?');
    expect(await keys.count()).toBe(0);
    await editor(page).press('Backspace');
  });

  test('verbs, stations and every project are found by their names', async () => {
    const { page } = bench;
    await page.keyboard.press('Control+k');
    await commands().getByRole('option', { name: 'Build the design' }).waitFor();
    expect(await commands().getByRole('option', { name: 'Power off' }).count()).toBe(0);
    await page.keyboard.type('flash');
    await commands().getByRole('option', { name: 'Write the flash' }).click();
    await page.waitForURL(/keep/);
    await bench.api.project.duplicate.mutate({ id: 1, name: 'Second lock' });
    await page.getByText('Second lock').waitFor();
    await page.keyboard.press('Control+k');
    await page.keyboard.type('lockh');
    await commands()
      .getByRole('option', { name: /^Open Lockhouse/ })
      .click();
    await page.getByText('Second lock').waitFor({ state: 'detached' });
  });
});

describe('a server that goes away', () => {
  const lost = () => bench.page.getByRole('alert').filter({ hasText: 'The server does not answer' });

  test('is told, and taken up again by itself when it is back', async () => {
    await openTick(bench.page);
    await openTick(second);
    await bench.killWeb();
    await lost().waitFor();
    await bench.restartWeb();
    await lost().waitFor({ state: 'detached' });
    await begin(bench.page, '// after\n');
    await expect.poll(() => firstLine(second).innerText()).toBe('// after');
  });
});
