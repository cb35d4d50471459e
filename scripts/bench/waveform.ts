// The waveform as the browser draws it: 64 signals of a million samples, opened as a file, zoomed and moved.
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { last, numberAt } from '../../core/lists.ts';
import { openWorkbench, station } from '../../tests/support/workbench.ts';

const SIGNALS = 64;
const SAMPLES = 1_000_000;
/** One change in so many samples of a signal, on average. */
const QUIET = 8;
const REDRAWS = 120;

/** Milliseconds of the drawing calls of one redraw; null where the application is not built. */
export async function redrawTimes(): Promise<{ readonly median: number; readonly worst: number } | null> {
  if (!existsSync(join('.next', 'BUILD_ID'))) return null;
  const folder = mkdtempSync(join(tmpdir(), 'nimble-wave-'));
  const file = join(folder, 'large.vcd');
  writeFileSync(file, largeDump());
  const bench = await openWorkbench({ pod: false });
  try {
    const { page } = bench;
    await station(page, 'Capture');
    await page.getByLabel('VCD file').setInputFiles(file);
    const canvas = page.getByTestId('waveform');
    await canvas.waitFor({ timeout: 180_000 });
    // Every row has arrived when the last one shows a value.
    await page
      .getByTestId(`value-top.s${SIGNALS - 1}`)
      .filter({ hasText: /./ })
      .waitFor({ timeout: 180_000 });
    await canvas.focus();
    const times: number[] = [];
    for (let i = 0; i < REDRAWS; i++) {
      // In to single samples and out to the whole record again.
      await page.keyboard.press(Math.floor(i / 40) % 2 === 0 ? '+' : '-');
      await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
      times.push(Number(await page.getByTestId('waveform-rows').getAttribute('data-draw-milliseconds')));
    }
    times.sort((a, b) => a - b);
    return { median: numberAt(times, Math.floor(times.length / 2)), worst: last(times) };
  } finally {
    await bench.stop();
    rmSync(folder, { recursive: true });
  }
}

/** Half of them single bits, half words, each changing at random. */
function largeDump(): Buffer {
  const code = (i: number) => String.fromCharCode(33 + i);
  const parts = ['$timescale 10 ns $end $scope module top $end\n'];
  for (let i = 0; i < SIGNALS; i++) parts.push(`$var wire ${i % 2 ? 8 : 1} ${code(i)} s${i} $end\n`);
  parts.push('$upscope $end $enddefinitions $end\n');
  let seed = 1;
  const random = (most: number) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return Math.floor((seed / 2 ** 32) * most);
  };
  const chunks: Buffer[] = [];
  for (let tick = 0; tick < SAMPLES; tick++) {
    parts.push(`#${tick}\n`);
    for (let k = 0; k < SIGNALS / QUIET; k++) {
      const i = random(SIGNALS);
      parts.push(i % 2 ? `b${random(256).toString(2)} ${code(i)}\n` : `${random(2)}${code(i)}\n`);
    }
    if (parts.length < 100_000) continue;
    chunks.push(Buffer.from(parts.join('')));
    parts.length = 0;
  }
  chunks.push(Buffer.from(`${parts.join('')}#${SAMPLES}\n`));
  return Buffer.concat(chunks);
}
