// @vitest-environment happy-dom
import { describe, expect, test } from 'vitest';
import { done, renderPage } from '../../../tests/support/page/render.tsx';
import { SUMMARY } from '../../../tests/support/page/state.ts';
import { ClocksView } from './index.ts';

const file = (clocks: Readonly<Record<string, number>>) => ({
  ...{ format: 'nimble-project', version: 3, name: 'Lamp', part: 'CV25', grade: 2, pins: 'pins.csv', accepted: [] },
  clocks,
});
const port = (name: string, clock: boolean) => ({ name, width: 1, direction: 'input', clock });
const DETAILS = {
  ports: [port('clk', true), { ...port('lamp', false), direction: 'output' }],
  timing: { clocks: [{ clock: 'clk', highest: 60e6, worstSlack: -1.25, wanted: 80e6 }] },
  lampRates: [
    { port: 'lamp', bit: 0, counter: 't.count', n: 23, clock: 'clk', hertz: 12e6 / 2 ** 24 },
    { port: 'lamp', bit: 0, counter: 't.fast', n: 4, clock: 'clk', hertz: 375e3 },
    { port: 'lamp', bit: 0, counter: 't.none', n: 4, clock: 'clk', hertz: null },
  ],
};
const oscillator = { kind: 'oscillator', name: 'X1', pin: 'P1', hz: 12e6 };

async function clocks(given: Readonly<Record<string, number>> = {}, answers = {}) {
  const page = await renderPage(<ClocksView />, {
    board: { view: { time: 1, fpga: 1, parts: [oscillator] } as never },
    state: { latest: SUMMARY, usable: SUMMARY },
    answers: {
      'project.settings': () => ({ file: file(given), migrated: null, board: null }),
      'project.files': () => [{ name: 'pins.csv', text: 'port,pin\nclk,P1\n', version: 'a', changed: '' }],
      'project.change': done,
      'design.newest': () => ({ latest: { ...SUMMARY, details: DETAILS }, usable: null }),
      'design.ports': () => ({
        ...{ ports: DETAILS.ports, modules: ['t'], top: 't', topBody: null, trouble: null, generators: [] },
      }),
      ...answers,
    },
  });
  const saved = () => page.calls.filter(({ name }) => name === 'project.change').map(({ input }) => input);
  return { ...page, saved };
}

describe('clocks', () => {
  test('each with its pin, what runs there, how fast it could run, and what is to spare', async () => {
    const { screen } = await clocks({ clk: 80e6 });
    const table = await screen.findByRole('table', { name: 'Clocks' });
    await expect.poll(() => table.querySelectorAll('tbody td')[2]?.textContent).toBe('X1, 12 MHz, on the bench');
    const cells = [...table.querySelectorAll('tbody td')].map(({ textContent }) => textContent);
    expect([cells[0], cells[1], cells[4], cells[5]]).toEqual(['clk', 'P1', '60 MHz', '-1.25 ns']);
  });

  test('a frequency or a period is taken in any unit; what is neither is refused in place', async () => {
    const { screen, user, saved } = await clocks();
    const field = await screen.findByLabelText('Frequency of clk');
    await user.type(field, '83.333 ns{Enter}');
    await expect.poll(saved).toHaveLength(1);
    expect((saved()[0] as { clocks: { clk: number } }).clocks.clk).toBeCloseTo(12.00005e6, -2);
    await user.clear(field);
    await user.type(field, 'fast{Enter}');
    expect(await screen.findByText('Hz, kHz, MHz, s, ms, µs or ns')).toBeTruthy();
    expect(saved()).toHaveLength(1);
  });

  test('what runs at the pin is taken with a press; an empty field takes the clock away', async () => {
    const { screen, user, saved, unmount } = await clocks();
    await user.click(await screen.findByRole('button', { name: 'Take 12 MHz' }));
    await expect.poll(saved).toEqual([{ clocks: { clk: 12e6 } }]);
    unmount();
    const other = await clocks({ clk: 12e6, aux: 1e6 });
    await other.user.clear(await other.screen.findByLabelText('Frequency of clk'));
    await other.user.tab();
    await expect.poll(other.saved).toEqual([{ clocks: { aux: 1e6 } }]);
  });

  test('a lamp blinks, is dim, or nobody knows (12 MHz / 2^24: common practice)', async () => {
    const { screen } = await clocks({ clk: 12e6 });
    await screen.findByText('t.count[23]');
    const rows = screen.getAllByRole('row').filter(({ textContent }) => /t\.(count|fast|none)/.test(textContent ?? ''));
    expect(rows.map((row) => [...row.querySelectorAll('td')].slice(-2).map(({ textContent }) => textContent))).toEqual([
      ['0.7153 Hz', 'blinks'],
      ['375 kHz', 'steady, half as bright'],
      ['clock unknown', ''],
    ]);
  });

  test('which bit of a counter gives a wanted blink is worked out', async () => {
    const { screen, user } = await clocks({ clk: 12e6 });
    const wanted = await screen.findByLabelText('Wanted rate');
    const said = () => wanted.closest('p')?.textContent;
    // 12 MHz / 2^24 is 0.72 Hz, nearer to 1 Hz than 12 MHz / 2^23, which is 1.43 Hz.
    expect(said()).toMatch(/take bit 23, which blinks at 0\.7153 Hz; the counter needs 24 bits/);
    await user.clear(wanted);
    await user.type(wanted, '9e6');
    expect(said()).toMatch(/give a rate below half the clock/);
  });

  test('sources that make no design say where', async () => {
    const trouble = { file: 'a.v', line: 3, message: 'no end' };
    const { screen } = await clocks(
      {},
      {
        'design.ports': () => ({ ports: null, modules: [], top: null, topBody: null, trouble, generators: [] }),
        'design.newest': () => ({ latest: null, usable: null }),
      },
    );
    expect(await screen.findByText('The sources make no design as they stand: a.v, line 3: no end')).toBeTruthy();
  });

  const PORTS = {
    ports: [port('clk', true), { ...port('lamp', false), direction: 'output' }],
    ...{ modules: ['t'], top: 't', topBody: { file: 't.v', line: 1, column: 20 }, trouble: null, generators: [] },
  };

  test('a clock that is wanted is made of one at a pin: factors, and the instance written into the design', async () => {
    const { screen, user, calls } = await clocks({ clk: 12e6 }, { 'design.ports': () => PORTS, 'design.fix': done });
    await user.type(await screen.findByLabelText('Frequency wanted of output 1'), '48 MHz');
    const table = await screen.findByRole('table', { name: 'Factors' });
    const rows = [...table.querySelectorAll('tbody tr')];
    expect(rows).toHaveLength(1);
    expect([...(rows[0]?.querySelectorAll('td') ?? [])].slice(1, 3).map(({ textContent }) => textContent)).toEqual([
      '48 MHz',
      'exact',
    ]);
    await user.click(screen.getByRole('button', { name: 'Write it into t (t.v)' }));
    await expect.poll(() => calls.filter(({ name }) => name === 'design.fix')).toHaveLength(1);
    const [written] = calls.flatMap(({ name, input }) => (name === 'design.fix' ? [JSON.stringify(input)] : []));
    expect(written).toContain('"file":"t.v","line":1,"column":20');
    expect(written).toContain('corvane_clock_generator #(.MULTIPLY(');
    expect(written).toContain('.clock_in(clk), .clock_a(clk_48mhz)');
  });

  test('what no factors reach has the nearest on both sides, to choose from', async () => {
    const { screen, user } = await clocks({ clk: 12e6 }, { 'design.ports': () => PORTS });
    await user.type(await screen.findByLabelText('Frequency wanted of output 1'), '48.001 MHz');
    const table = await screen.findByRole('table', { name: 'Factors' });
    const errors = [...table.querySelectorAll('tbody td:nth-child(3)')].map(({ textContent }) => textContent ?? '');
    expect(errors.map((text) => text[0]).sort()).toEqual(['+', '−'].sort());
    expect(screen.getByText(/^No factors reach 48.001 MHz exactly/)).toBeTruthy();
    await user.clear(screen.getByLabelText('Frequency wanted of output 1'));
    await user.type(screen.getByLabelText('Frequency wanted of output 1'), 'fast');
    expect(screen.queryByRole('table', { name: 'Factors' })).toBeNull();
  });

  test('clocks that are made stand under the one they are made of, with their frequency', async () => {
    const use = {
      ...{ path: 'u_g', file: 't.v', line: 3, input: 'clk', setting: { multiply: 32, divide: 1, outputs: [8, 0, 0] } },
      outputs: [{ clock: 'u_g.clock_a', divider: 8 }],
    };
    const { screen } = await clocks({ clk: 12e6 }, { 'design.ports': () => ({ ...PORTS, generators: [use] }) });
    const name = await screen.findByText('u_g.clock_a');
    const cells = [...(name.closest('tr')?.querySelectorAll('td') ?? [])].map(({ textContent }) => textContent);
    expect(cells.slice(0, 4)).toEqual(['u_g.clock_a', 'inside', 'clk × 32 / 8, t.v:3', '48 MHz']);
    expect(screen.getByText('a CV25 has 2 clock generators; the design uses 1')).toBeTruthy();
  });
});
