// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import type { Comparison } from '../../../core/build/index.ts';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { BuildsView } from './index.ts';

const kept = (id: number, over: object = {}) => ({
  ...{ id, created: SUMMARY.created, milliseconds: 400, good: true, fingerprint: `${id}`.repeat(32), part: 'CV25' },
  ...{ resources: SUMMARY.resources, messages: 0 },
  highest: [{ clock: 'clk', highest: 180e6, wanted: 12e6 }],
  ...over,
});
const COMPARED: Comparison = {
  figures: [
    { name: 'LUTs', unit: '', before: 100, after: 130 },
    { name: 'highest frequency of clk', unit: 'Hz', before: 200e6, after: 180e6 },
  ],
  instances: [
    { path: 'top.u_wide', luts: [10, 50], registers: [8, 8] },
    { path: 'top.u_gone', luts: [10, null], registers: [4, null] },
  ],
  appeared: [],
  gone: [],
};

const builds = (list: readonly object[]) =>
  renderPage(<BuildsView />, {
    state: { latest: SUMMARY, usable: SUMMARY },
    answers: { 'design.builds': () => list, 'design.compareBuilds': () => COMPARED },
  });
const rows = (table: HTMLElement) =>
  [...table.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map(({ textContent }) => textContent),
  );

describe('builds', () => {
  test('each with how fast its clocks could run beside what is wanted of them', async () => {
    const { screen } = await builds([kept(2, { highest: [{ clock: 'clk', highest: null, wanted: null }] }), kept(1)]);
    const table = await screen.findByRole('table', { name: 'Builds' });
    expect(rows(table).map((cells) => cells[8])).toEqual(['–', 'clk up to 180 MHz, wanted 12 MHz']);
  });

  test('a build of several clocks has one line for each', async () => {
    const two = ['clk', 'tck'].map((clock) => ({ clock, highest: 150e6, wanted: null }));
    const { screen } = await builds([kept(1, { highest: two })]);
    const table = await screen.findByRole('table', { name: 'Builds' });
    const lines = [...table.querySelectorAll('td:nth-child(9) li')].map(({ textContent }) => textContent);
    expect(lines).toEqual(['clk up to 150 MHz', 'tck up to 150 MHz']);
  });

  test('two compared: which instances grew, shrank, came or went', async () => {
    const { screen } = await builds([kept(2), kept(1)]);
    expect(rows(await screen.findByRole('table', { name: 'Instances that changed in size' }))).toEqual([
      ['top.u_wide', '10', '50', '+40', '8', '8', ''],
      ['top.u_gone', '10', '–', '-10', '4', '–', '-4'],
    ]);
    expect(rows(screen.getByRole('table', { name: 'Figures' }))[1]).toEqual([
      'highest frequency of clk',
      '200 MHz',
      '180 MHz',
      '-10.0 %',
    ]);
  });
});
