// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { build, type ProjectFile } from '../../../core/build/index.ts';
import { emptyPlan } from '../../../core/probes/index.ts';
import { renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { ResourcesView } from './index.ts';

const SOURCE = `module half(input clk, input [15:0] a, b, output reg [15:0] q);
  always @(posedge clk)
    q <= a / b;
endmodule
module top(input clk, input [15:0] a, b, output [15:0] q);
  half u(clk, a, b, q);
endmodule
`;
const FILE: ProjectFile = {
  ...{ format: 'nimble-project', version: 3, grade: 2, name: 'Half', part: 'CV25', pins: 'pins.csv' },
  ...{ accepted: [], clocks: {} },
};
const { bitstream: _, ...details } = build({
  project: { file: { ...FILE, top: 'top' }, files: [{ name: 'top.v', text: SOURCE }] },
  plan: emptyPlan,
});

const resources = (over: object = {}) =>
  renderPage(<ResourcesView />, {
    state: { latest: SUMMARY, usable: SUMMARY },
    answers: {
      'design.newest': () => ({ latest: { ...SUMMARY, details: { ...details, ...over } }, usable: null }),
      'project.files': () => [{ name: 'top.v', text: SOURCE, version: 'a', changed: '' }],
    },
  });

const rows = (table: HTMLElement) =>
  [...table.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map(({ textContent }) => textContent),
  );

describe('resources', () => {
  test('what would save most stands above all, with its place', async () => {
    const { screen } = await resources();
    const line = await screen.findByText(/^Most could be saved here, about \d+ LUTs: The division at top\.v:3 takes/);
    expect(line.querySelector('button')?.textContent).toBe('top.v:3');
  });

  test('the lines that take most come first, with what stands there; numbers end below one another', async () => {
    const { screen } = await resources();
    await screen.findByText('By line of the sources');
    const lines = [...document.querySelectorAll('table')].find((one) => one.textContent?.includes('What stands there'));
    if (!lines) throw new Error('no table of lines');
    const [first] = rows(lines);
    expect(first?.slice(0, 2)).toEqual(['top.v:3', 'q <= a / b;']);
    const sum = rows(lines).reduce((total, cells) => total + Number(cells[2]), 0);
    expect(sum).toBe(details.resources.luts);
    const number = lines.querySelectorAll('tbody tr:first-child td')[2];
    expect(number?.className).toContain('text-right');
  });

  test('a state machine whose states are written anew says how many there are, and how', async () => {
    const place = { file: 'top.v', line: 3 };
    const machines = [
      { ...place, name: 'top.u.state', states: 12, bits: 4, mappedBits: 12 },
      { ...place, name: 'top.u.mode', states: 9, bits: 16, mappedBits: 4 },
    ];
    const { screen } = await resources({ machines });
    await screen.findByText('State machines');
    const table = [...document.querySelectorAll('table')].find((one) => one.textContent?.includes('Mapped with'));
    expect(table && rows(table)).toEqual([
      ['top.u.state', '12', '4 bits', 'a bit for each state'],
      ['top.u.mode', '9', '16 bits', '4 bits'],
    ]);
  });

  test('a build of an older release, without lines and advice, is shown as far as it goes', async () => {
    const { screen } = await resources({ lines: undefined, saving: undefined });
    await screen.findByText('By instance');
    expect(screen.queryByText('By line of the sources')).toBeNull();
    expect(screen.queryByText(/^Most could be saved/)).toBeNull();
  });
});
