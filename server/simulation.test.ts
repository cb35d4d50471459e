// Testbenches in their thread: what comes back, what is refused, a run that is cancelled.
import { describe, expect, test } from 'vitest';
import { ProblemError } from '../core/result.ts';
import { SimulationThread } from './threads/index.ts';

const thread = new SimulationThread();
const settings = { testbench: 't', parameters: {}, plusargs: [], until: null };
const watch = { cancelled: () => false, report: () => {} };
const file = (text: string) => [{ name: 'sim/t.v', text }];
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'fine',
    (error) => (error instanceof ProblemError ? error.problem.code : String(error)),
  );

describe('the thread of testbenches', () => {
  test('gives what was printed and said, and a dump of all signals', async () => {
    const text =
      'module t #(parameter N = 1); reg [3:0] a = N; initial begin #5 $display("a=%0d", a); $error("no"); $finish; end endmodule';
    const run = await thread.run({ ...settings, files: file(text), parameters: { N: '7' } }, watch);
    expect(run).toMatchObject({ ending: 'finish', output: 'a=7\n', errors: 1, time: '5 ns', cut: false });
    expect(run.reports).toMatchObject([{ severity: 'error', message: 'no', at: { line: 1 }, moment: '5 ns' }]);
    expect(new TextDecoder().decode(run.dump ?? new Uint8Array())).toContain('$scope module t $end');
  });
  test('refuses sources with errors and times that are none', async () => {
    expect(await codeOf(thread.run({ ...settings, files: file('module t; assign a = ; endmodule') }, watch))).toBe(
      'simulation-not-understood',
    );
    const good = file('module t; endmodule');
    expect(await codeOf(thread.run({ ...settings, files: good, until: 'soon' }, watch))).toBe('simulation-until');
  });
  test('prints without end are cut, and a run without end is cancelled', async () => {
    const text = 'module t; initial repeat (30000) $display("%s", {50{8\'h41}}); endmodule';
    const run = await thread.run({ ...settings, files: file(text) }, watch);
    expect(run).toMatchObject({ ending: 'idle', cut: true });
    let asked = 0;
    const soon = { cancelled: () => ++asked > 3, report: () => {} };
    const endless = file('module t; reg c = 0; always #1 c = ~c; endmodule');
    expect(await codeOf(thread.run({ ...settings, files: endless }, soon))).not.toBe('fine');
  });
});
