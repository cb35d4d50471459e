// Design, Simulate: a testbench of one's own, what it prints, what fails, where, and its waves.
import { strToU8 } from 'fflate';
import { describe, expect, test } from 'vitest';
import { workbench } from '../support/each.ts';
import { imported, openView, station } from '../support/workbench.ts';

const DESIGN =
  'module divider #(parameter N = 12_000_000) (input clk, output reg tick = 0);\n  reg [23:0] count = 0;\n' +
  '  always @(posedge clk) begin tick <= count == N - 1; count <= count == N - 1 ? 0 : count + 1; end\nendmodule\n';
const TESTBENCH = `\`timescale 1ns/1ps
module divider_tb #(parameter N = 5);
  reg clk = 0;
  wire tick;
  integer seen = 0;
  divider #(.N(N)) dut (.clk(clk), .tick(tick));
  always #5 clk = ~clk;
  always @(posedge tick) seen = seen + 1;
  initial begin
    #201 $display("ticks: %0d, see sim/divider_tb.sv, line 12", seen);
    if ($test$plusargs("strict"))
      assert (seen == 5) else $error("expected 5 ticks, saw %0d", seen);
    $finish;
  end
endmodule
`;

const bench = workbench(async (made) => {
  const settings = { format: 'nimble-project', version: 3, name: 'Divider', part: 'CV10', top: 'divider' };
  await imported(made, {
    'divider/rtl/divider.v': strToU8(DESIGN),
    'divider/sim/divider_tb.sv': strToU8(TESTBENCH),
    'divider/nimble.json': strToU8(JSON.stringify(settings)),
  });
});

const line = (text: RegExp) => bench.page.getByTestId('job-line').getByText(text).waitFor({ timeout: 60_000 });
const field = (name: string) => bench.page.getByLabel(name, { exact: true });
const press = (name: string) => bench.page.getByRole('button', { name, exact: true }).click();

describe('a testbench', () => {
  test('is proposed, runs with its own parameters, and leads back to the sources', async () => {
    const { page } = bench;
    await station(page, 'Design');
    await openView(page, 'Design', 'Simulate');
    await expect.poll(() => field('Testbench').inputValue()).toBe('divider_tb');
    await press('Run');
    await line(/divider_tb: \$finish at 201 ns, no errors/);
    await page.getByRole('log', { name: 'Printed by the testbench' }).getByText('ticks: 4').waitFor();
    await page.getByText('Passed', { exact: true }).waitFor();
    // The waves are those of every signal, in the view of captures.
    await page
      .getByLabel(/Waveform/i)
      .first()
      .waitFor();
    await field('Parameters').fill('N=4');
    await press('Run');
    await page.getByRole('log').getByText('ticks: 5').waitFor({ timeout: 60_000 });
    await page.getByRole('log').getByRole('button', { name: 'sim/divider_tb.sv, line 12' }).click();
    await page.waitForURL(/design\/sources\?file=sim%2Fdivider_tb\.sv&line=12/);
  });

  test('that fails says what, where and when; a word that is no parameter is refused; settings stay', async () => {
    const { page, api } = bench;
    await station(page, 'Design');
    await openView(page, 'Design', 'Simulate');
    await field('Parameters').fill('N');
    await press('Run');
    await page.getByText('"N" is no parameter', { exact: false }).waitFor();
    await field('Parameters').fill('');
    await field('Plusargs').fill('+strict');
    await press('Run');
    await line(/divider_tb: \$finish at 201 ns, 1 error/);
    const said = page.getByRole('list', { name: 'Said by the testbench' });
    await said.getByText('expected 5 ticks, saw 4').waitFor();
    await said.getByText('201 ns').waitFor();
    await said.getByRole('button', { name: 'sim/divider_tb.sv:12' }).click();
    await page.waitForURL(/line=12/);
    expect((await api.project.settings.query()).file.simulation).toMatchObject({
      testbench: 'divider_tb',
      plusargs: ['strict'],
    });
  });

  test('is left out of builds when it is marked, even with a mistake in it', async () => {
    const { page, api } = bench;
    await station(page, 'Design');
    await openView(page, 'Design', 'Simulate');
    await press('leave them out of builds');
    await page.getByText('For simulation only:').waitFor();
    await api.project.saveFile.mutate({ name: 'sim/divider_tb.sv', text: `${TESTBENCH}\nmodule broken(`, read: null });
    await press('Build');
    await line(/^Build [0-9a-f]{8}/);
    await press('let builds read them again');
    await press('Build');
    await bench.page
      .getByTestId('job-line')
      .getByText(/Build failed|not built|error/)
      .first()
      .waitFor({ timeout: 60_000 });
  });
});
