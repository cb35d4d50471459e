// Every station with real work in it, at three widths and with ordinary scrollbars: nothing is wider than its place,
// and nothing keeps anybody out (axe-core).
import AxeBuilder from '@axe-core/playwright';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { loadProbed, openWorkbench, station, type Workbench } from '../support/workbench.ts';

let bench: Workbench;

const PATHS = [
  '/bench',
  ...['diagnosis', 'pins', 'wiring', 'speed', 'registers', 'svf', 'pods', 'practice'].map((view) => `/bench/${view}`),
  ...[
    'sources',
    'messages',
    'pins',
    'clocks',
    'signals',
    'schematic',
    'resources',
    'timing',
    'simulate',
    'simulate?with=table',
    'builds',
  ].map((view) => `/design/${view}`),
  '/design/project',
  '/load',
  ...['write', 'layout', 'data', 'compare', 'steps'].map((view) => `/keep/${view}`),
  '/probe',
  '/capture',
  ...['panel', 'line'].map((view) => `/drive/${view}`),
  '/replay/record?see=lockhouse.u_sequencer',
  '/replay/signals',
  '/logbook',
];

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 90_000 });

beforeAll(async () => {
  bench = await openWorkbench();
  const { page } = bench;
  await page.getByRole('button', { name: 'Scan' }).click();
  await line(/3 devices/);
  await loadProbed(page);
  await station(page, 'Capture');
  await page.getByRole('button', { name: 'Take now' }).click();
  await line(/^Capture 1: 1,024 samples/);
});
afterAll(() => bench?.stop());

/** Opens a page of the workbench and waits until it shows its work. */
async function open(page: Page, path: string): Promise<void> {
  await page.goto(`${bench.address}${path}`);
  await page.getByRole('complementary', { name: 'Board' }).waitFor();
  // Until what the station fetches has come: nothing was added for a while.
  await page.evaluate(
    () =>
      new Promise<void>((resolve) => {
        let quiet = setTimeout(resolve, 300);
        const main = document.querySelector('main') ?? document.body;
        new MutationObserver(() => {
          clearTimeout(quiet);
          quiet = setTimeout(resolve, 300);
        }).observe(main, { childList: true, subtree: true });
        setTimeout(resolve, 4000);
      }),
  );
}

/** Whatever is wider than its place: beyond the window, or in a box that has to be scrolled sideways. */
const tooWide = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const told = (element: Element) =>
      `${element.tagName.toLowerCase()}${element.id ? `#${element.id}` : ''} ` +
      `"${(element.getAttribute('aria-label') ?? element.textContent ?? '').trim().slice(0, 40)}"`;
    const found: string[] = [];
    if (document.documentElement.scrollWidth > document.documentElement.clientWidth) found.push('the page');
    for (const element of document.querySelectorAll('body *')) {
      // Code, and what is marked as wider than any window, may be scrolled in its own box.
      if (element.closest('.cm-editor, [data-wide], svg')) continue;
      const box = element.getBoundingClientRect();
      if (box.width === 0 || box.height === 0) continue;
      const style = getComputedStyle(element);
      const scrolls = style.overflowX === 'auto' || style.overflowX === 'scroll';
      if (scrolls && element.scrollWidth > element.clientWidth + 1)
        found.push(`${told(element)} scrolls sideways by ${element.scrollWidth - element.clientWidth} px`);
      if (box.right > innerWidth + 1 && style.position !== 'fixed')
        found.push(`${told(element)} ends at ${Math.round(box.right)} px`);
    }
    return [...new Set(found)].slice(0, 8);
  });

const WIDTHS = [1024, 1280, 1920];

/** What keeps somebody out of the page as it stands now. */
async function outsiders(page: Page, rules?: readonly string[]): Promise<string[]> {
  // Without frames there is nothing to gather from other pages, which the ordinary way opens one for each time.
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
  const { violations } = await (rules ? axe.withRules([...rules]) : axe).analyze();
  return violations.map(({ id, nodes }) => `${id}: ${nodes.length} × ${nodes[0]?.target.join(' ') ?? ''}`);
}

/** What is wrong, by path and how it was looked at. */
interface Found {
  readonly wide: Record<string, string[]>;
  readonly kept: Record<string, string[]>;
}

async function look(page: Page, path: string, { wide, kept }: Found): Promise<void> {
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.emulateMedia({ colorScheme: 'light' });
  await open(page, path);
  const day = await outsiders(page);
  if (day.length > 0) kept[path] = day;
  await page.emulateMedia({ colorScheme: 'dark' });
  const night = await outsiders(page, ['color-contrast']);
  if (night.length > 0) kept[`${path} by night`] = night;
  for (const width of WIDTHS) {
    await page.setViewportSize({ width, height: 800 });
    // Two frames: what measures its place has then drawn itself anew.
    await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
    const found = await tooWide(page);
    if (found.length > 0) wide[`${path} at ${width}`] = found;
  }
}

/** Looks at all paths, in two windows at once: most of what it takes is the browser's own computing. */
async function lookAtAll(): Promise<Found> {
  const found: Found = { wide: {}, kept: {} };
  const left = [...PATHS];
  const another = await bench.page.context().newPage();
  const walk = async (page: Page) => {
    for (let path = left.shift(); path !== undefined; path = left.shift()) await look(page, path, found);
  };
  await Promise.all([walk(bench.page), walk(another)]);
  await another.close();
  return found;
}

let looked: Promise<Found> | null = null;
/** Each page is opened once for both questions. */
const found = () => {
  looked ??= lookAtAll();
  return looked;
};

test('no station is wider than its place, at any width', { timeout: 600_000 }, async () => {
  expect((await found()).wide).toEqual({});
});

test('nothing keeps anybody out; by night the other colours are told apart as well', { timeout: 600_000 }, async () => {
  expect((await found()).kept).toEqual({});
});
