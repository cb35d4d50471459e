// A stranger's first hour: a board nobody described, an own design, parts by hand, pins and clock taken from them.
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { all, ended, openView, station, step } from '../support/workbench.ts';

const bench = workbench(
  async (made) => {
    await all(made, 'scan');
  },
  { podOptions: ['--bench', 'demo/benches/lone.bench.json'] },
);

const SOURCE = `module blink(input clk, input btn, output [1:0] led, output uart_tx, input uart_rx);
  reg [24:0] n = 0;
  always @(posedge clk) n <= n + 1;
  assign led = {btn, ~n[22]};
  assign uart_tx = uart_rx;
endmodule
`;

describe('a board that nobody has described', () => {
  test('parts by hand, pins and clock from them, and the board does what the design says', {
    timeout: 240_000,
  }, async () => {
    const { page, api } = bench;
    const put = async (label: string, text: string) => {
      const field = page.getByLabel(label, { exact: true });
      await field.fill(text);
      await field.press('Enter');
      await expect.poll(() => field.inputValue()).toBe(text);
    };
    const add = async (kind: string, name: string) => {
      await page.getByLabel('Kind of part').selectOption({ label: kind });
      await page.getByRole('button', { name: 'Add', exact: true }).click();
      await page.getByRole('button', { name: `Remove ${name}` }).waitFor();
    };
    await step('a project of one source', async () => {
      await api.project.create.mutate({ name: 'Blink', part: 'CV25S' });
      const [first] = (await api.project.files.query()).filter(({ name }) => name.endsWith('.v'));
      if (first) await api.project.removeFile.mutate({ name: first.name });
      await api.project.addFiles.mutate({ files: [{ name: 'blink.v', text: SOURCE }] });
      await api.project.change.mutate({ top: 'blink', clocks: {} });
      await page.reload();
    });
    await step('what is on the board is said by hand', async () => {
      await openView(page, 'Bench', 'Parts');
      await page.getByText('Nothing is described yet.').waitFor();
      await add('Oscillator', 'X0');
      await put('pin of X0', 'P2');
      await put('Frequency of X0', '25000000');
      for (const [name, pin] of [
        ['L0', 'P40'],
        ['L1', 'P41'],
      ] as const) {
        await add('Lamp', name);
        await put(`pin of ${name}`, pin);
        await page.getByLabel(`Level at which ${name} is on`).selectOption('low');
      }
      await add('Button', 'B0');
      await put('pin of B0', 'P44');
      await add('Serial line', 'line');
      await put('TX, from the FPGA of line', 'P30');
      await put('RX, to the FPGA of line', 'P31');
      await page.getByRole('button', { name: 'Write the description' }).click();
      await page.getByText(/blink\.board\.json says what these parts are wired to/).waitFor();
    });
    await step('pins are taken from it by their names, and the frequency of the clock', async () => {
      await openView(page, 'Design', 'Pins');
      await page.getByLabel('Pin of led[1]').waitFor();
      await page.getByRole('button', { name: 'Pins from the board' }).click();
      await page.getByRole('button', { name: /^Take 6/ }).click();
      await expect.poll(() => page.getByLabel('Pin of led[1]').inputValue()).toBe('P41');
      expect(await page.getByLabel('Pin of clk').inputValue()).toBe('P2');
      await openView(page, 'Design', 'Clocks');
      await page
        .getByRole('button', { name: /25(\.0+)? MHz/ })
        .first()
        .click();
      await expect.poll(async () => (await api.project.settings.query()).file.clocks).toEqual({ clk: 25_000_000 });
    });
    await step('the board blinks, and its lamps carry the names of the ports', async () => {
      await station(page, 'Design');
      await ended(page, /^Build [0-9a-f]{8}/, () => page.getByRole('button', { name: 'Build', exact: true }).click());
      await station(page, 'Load');
      await ended(page, /DONE is high/, () => page.getByRole('button', { name: 'Load', exact: true }).click());
      const rate = () => page.getByTestId('lamp-L0').getAttribute('data-hertz');
      // 25 MHz / 2^23
      await expect.poll(rate, { timeout: 20_000 }).toMatch(/^2\.98/);
      expect(await page.getByTestId('lamp-L0').textContent()).toContain('led[0]');
      await page.getByText('btn', { exact: true }).first().waitFor();
    });
    await step('the serial line of the pod reaches the design', async () => {
      await openView(page, 'Drive', 'Serial line');
      await page.getByLabel('What is sent').fill('there and back');
      await page.getByLabel('What is sent').press('Enter');
      await expect
        .poll(() => page.getByRole('log', { name: 'Serial line' }).innerText())
        .toMatch(/there and back[\s\S]*there and back/);
    });
    await step('the simulated bench stands on another file', async () => {
      await openView(page, 'Bench', 'Parts');
      await add('Lamp', 'L2');
      await put('pin of L2', 'P42');
      await page.getByRole('button', { name: 'Stand the bench on it' }).click();
      await page.getByRole('button', { name: 'Do it' }).click();
      await page.getByTestId('lamp-L2').waitFor();
      await page.getByRole('heading', { name: 'Blink', level: 2 }).waitFor();
    });
  });
});
