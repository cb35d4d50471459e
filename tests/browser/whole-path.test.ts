// One engineer, one board, from an empty database to a captured waveform: through clicks, against the built
// application.
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { openWorkbench, station, step, type Workbench, choose } from '../support/workbench.ts';

let bench: Workbench;

beforeAll(async () => {
  bench = await openWorkbench();
});
afterAll(() => bench?.stop());

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const attribute = (id: string, name: string) => bench.page.getByTestId(id).getAttribute(name);
const lit = async (id: string) => Number(await attribute(id, 'data-level')) > 0.5;

async function until<T>(what: string, look: () => Promise<T>, good: (value: T) => boolean): Promise<T> {
  let value = await look();
  await expect
    .poll(async () => good((value = await look())), { message: what, timeout: 15_000, interval: 100 })
    .toBe(true);
  return value;
}

test('the whole path', { timeout: 600_000 }, async () => {
  await step('Bench: pod found, board powered, three devices in order', async () => {
    const { page } = bench;
    await until('power', () => lit('lamp-power'), Boolean);
    await page.getByRole('button', { name: 'Scan' }).click();
    await line(/3 devices, 17 instruction bits/);
    const rows = await page.getByRole('row').allInnerTexts();
    expect(rows.slice(1).map((row) => row.split('\t').map((cell) => cell.trim()))).toEqual([
      ['0', 'CV10', '0x1C010FFD', '1', 'bank 16, 0x7E', '6 bits', '000001'],
      ['1', expect.stringMatching(/^CV25 or CV25S: which\?/), '0x1C025FFD', '1', 'bank 16, 0x7E', '6 bits', '000001'],
      ['2', 'SP64', '0x05064FFB', '0', 'bank 16, 0x7D', '5 bits', '00101'],
    ]);
  });

  await step('a power-cycle before anything was kept leaves an empty FPGA', async () => {
    await station(bench.page, 'Keep');
    await bench.page.getByRole('button', { name: 'Power-cycle' }).click();
    await line(/stays without a design: the flash holds no image/);
    expect(await lit('lamp-done')).toBe(false);
  });

  await step('Design: a syntax error is a message that points at its place, and no bitstream', async () => {
    const { page } = bench;
    await station(page, 'Design');
    await page.getByRole('button', { name: 'rtl/tick.v' }).click();
    const editor = page.getByLabel('Source rtl/tick.v');
    await editor.click();
    await page.keyboard.press('Control+Home');
    await page.keyboard.type('modle x; ');
    await page.getByRole('button', { name: 'Build', exact: true }).click();
    await line(/\d+ errors?\. rtl\/tick\.v, line 1/);
    await page.getByRole('cell', { name: 'rtl/tick.v:1:1', exact: true }).waitFor();
    await editor.click();
    await page.keyboard.press('Control+Home');
    for (let i = 0; i < 'modle x; '.length; i++) await page.keyboard.press('Delete');
  });

  await step(
    'Design: a build gives a fingerprint and cell counts; an edit makes it stale and says which file did it',
    async () => {
      const { page } = bench;
      await page.getByRole('button', { name: 'Build', exact: true }).click();
      await line(/^Build [0-9a-f]{8} for CV25/);
      expect(await page.getByTestId('fingerprint').innerText()).toMatch(/^[0-9a-f]{8}$/);
      expect(await page.getByTestId('cells').innerText()).toMatch(/[\d,]+ of 2,500 LUTs .* 2 of 24 block RAMs/);
      expect(await page.getByTestId('stale').count()).toBe(0);
      await page.getByLabel('Source rtl/tick.v').click();
      await page.keyboard.press('Control+End');
      await page.keyboard.type('// seen');
      await page.getByTestId('stale').getByText('rtl/tick.v').waitFor();
      await page.getByTestId('state-design').getByText('stale').waitFor();
      await page.getByRole('button', { name: 'Build', exact: true }).click();
      await page.getByTestId('state-design').getByText('built').waitFor();
    },
  );

  await step('Load: DONE rises, the status is decoded, lamps run at 12 MHz / 2^23 and 2^24', async () => {
    const { page } = bench;
    await station(page, 'Load');
    await page.getByRole('button', { name: 'Load', exact: true }).click();
    await line(/DONE is high/);
    await until('DONE', () => lit('lamp-done'), Boolean);
    expect(await page.getByTestId('status').innerText()).toMatch(/CRC\s+good/);
    const beat = await until(
      'beat',
      async () => Number(await attribute('lamp-L7', 'data-hertz')),
      (hertz) => hertz > 0,
    );
    // Common practice: bit n of a counter at f is a square wave of f / 2^(n+1). Measured by the board in its own time.
    expect(beat).toBeCloseTo(12e6 / 2 ** 23, 1);
  });

  await step('a button and a switch on the board change what the design does', async () => {
    const { page } = bench;
    await page.getByRole('button', { name: 'Button B0, upper boat' }).click({ delay: 150 });
    await until(
      'digits',
      async () => Number(await attribute('digits', 'data-text')),
      (level) => level > 0,
    );
    await page.getByRole('switch', { name: 'Switch S0, fast water' }).click();
    await page.getByRole('switch', { name: 'Switch S1, passages' }).click();
    await until(
      'one passage',
      () => attribute('digits', 'data-text'),
      (text) => text === '0001',
    );
    await page.getByRole('switch', { name: 'Switch S1, passages' }).click();
  });

  await step('Keep: identity, erase, program, verify; then the board boots by itself', async () => {
    const { page } = bench;
    await station(page, 'Keep');
    await page.getByRole('button', { name: 'Write flash' }).click();
    await page.getByText(/The newest build is compared with what is there.*was not written from here/).waitFor();
    await page.getByRole('button', { name: 'Leave it as it is' }).click();
    await page.getByRole('button', { name: 'Write flash' }).click();
    await page.getByRole('button', { name: 'Erase and write' }).click();
    await line(/Ledger LR32: 0 blocks erased, [\d,]+ pages written and verified; boots by itself/);
    await page.getByTestId('dock-kept').getByText(/^kept/).waitFor();
    await page.getByRole('button', { name: 'Power off' }).click();
    await until(
      'power',
      () => lit('lamp-power'),
      (on) => !on,
    );
    await page.getByRole('button', { name: 'Power on' }).click();
    await until('DONE', () => lit('lamp-done'), Boolean);
  });

  await step('Probe: a recorder, a lever on a free and on a driven signal, gauges; built in and counted', async () => {
    const { page } = bench;
    await station(page, 'Probe');
    for (const [what, name] of [
      ['Record', 'lockhouse.u_sequencer.state'],
      ['Record', 'lockhouse.u_sequencer.want_upper'],
      ['Record', 'lockhouse.u_upper.quiet'],
      ['Lever', 'lockhouse.level_trim'],
      ['Lever', 'lockhouse.u_sequencer.hold'],
      ['Gauge', 'lockhouse.u_sequencer.hold'],
      ['Gauge', 'lockhouse.level_shown'],
    ] as const)
      await choose(page, what, name);
    await page.getByTestId('state-probe').getByText('build needed').waitFor();
    await page.getByRole('button', { name: 'Build with probes' }).click();
    await line(/for CV25: [\d,]+ LUTs, [\d,]+ flip-flops, 7 block RAMs/);
  });

  await step('Capture refuses hardware that runs another build', async () => {
    const { page } = bench;
    await station(page, 'Capture');
    await page.getByText(/The board runs build [0-9a-f]{8}, this recorder belongs to build [0-9a-f]{8}/).waitFor();
    expect(await page.getByRole('button', { name: 'Arm' }).isDisabled()).toBe(true);
  });

  await step('Capture: armed and waiting until the button is pressed; zoom, pan, cursor, VCD', async () => {
    const { page } = bench;
    await station(page, 'Load');
    await page.getByRole('button', { name: 'Load', exact: true }).click();
    await line(/DONE is high/);
    await station(page, 'Capture');
    await page.getByLabel('Condition').fill('want_upper == 2');
    await page.getByText(/does not fit into the 1 bit/).waitFor();
    await page.getByLabel('Condition').fill('want_upper rises and not');
    await page.getByText(/^At 25: The condition ends too early/).waitFor();
    await page.getByLabel('Condition').fill('want_upper rises then want_upper falls');
    await page.getByText(/This has 2 stages, the recorder "main" was built with 1/).waitFor();
    await page.getByLabel('Condition').fill('want_upper rises');
    await page.getByText('1 of 2 comparators, 1 of 1 stage;').waitFor();
    await page.getByRole('button', { name: 'Arm' }).click();
    await page.getByText(/^main: waiting, want_upper rises, sampling clock alive at 12 MHz/).waitFor();
    await page.getByTestId('conditions').getByText('true in 0 samples so far').waitFor();
    await page.getByRole('button', { name: 'Button B0, upper boat' }).click({ delay: 200 });
    await line(/^Capture 1: 1,024 samples of 3 signals/);
    const value = (name: string) => page.getByTestId(`value-lockhouse.${name}`).innerText();
    await until(
      'cursor at the trigger',
      () => value('u_sequencer.want_upper'),
      (text) => text === '1',
    );
    const canvas = page.getByTestId('waveform');
    await canvas.focus();
    await page.keyboard.press('ArrowLeft');
    expect(await value('u_sequencer.want_upper')).toBe('0');
    await page.getByText('A: sample 255, -83.333 ns from the trigger').waitFor();
    const scale = async () => Number(await canvas.getAttribute('data-per-pixel'));
    const whole = await scale();
    await canvas.hover();
    await page.mouse.wheel(0, -300);
    await until('zoom', scale, (now) => now < whole);
    const first = async () => Number(await canvas.getAttribute('data-first'));
    const before = await first();
    await canvas.dragTo(canvas, { sourcePosition: { x: 560, y: 60 }, targetPosition: { x: 460, y: 60 } });
    await until('pan', first, (now) => now > before);
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('vcd').click()]);
    const vcd = readFileSync((await download.path()) ?? '', 'utf8');
    expect(vcd).toMatch(/^\$date/);
    expect(vcd).toContain('$var wire 1 " want_upper $end');
  });

  await step('Drive: a lever moves, gauge and board follow; an override is released', async () => {
    const { page } = bench;
    await station(page, 'Drive');
    await page.getByLabel('Reading interval').selectOption('100');
    await page.getByLabel('Value for lockhouse.level_trim').fill('0x2a');
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await until(
      'gauge',
      async () => Number(await page.getByTestId('gauge-lockhouse.level_shown').innerText()),
      (value) => value >= 42,
    );
    const hold = page.getByTestId('lever-lockhouse.u_sequencer.hold');
    const gauge = () => page.getByTestId('gauge-lockhouse.u_sequencer.hold').innerText();
    await hold.getByRole('button', { name: 'Set 1' }).click();
    await until('held', gauge, (text) => text === '1');
    await hold.getByRole('button', { name: 'Release' }).click();
    await until('released', gauge, (text) => text === '0');
    await until(
      'board',
      async () => Number(await attribute('digits', 'data-text')),
      (value) => value >= 42,
    );
  });

  await step('the logbook has every operation with its inputs and outcome', async () => {
    const { page } = bench;
    await station(page, 'Logbook');
    await page.getByRole('cell', { name: 'Drive' }).first().waitFor();
    const actions = await page.getByRole('row').locator('td:nth-child(2)').allInnerTexts();
    for (const action of ['Scan', 'Build', 'Load', 'Keep', 'Capture', 'Drive', 'Power-cycle', 'Power off'])
      expect(actions).toContain(action);
    expect(await page.getByRole('row').filter({ hasText: 'Keep' }).first().innerText()).toMatch(
      /fpga\s*CV25[\s\S]*newest build\s*image at 0x0, 337,980 bytes, SHA-256 [0-9a-f]{64}/,
    );
  });
});
