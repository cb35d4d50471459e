// Why a recorded signal stands still, from the sources of a small design and what its record and its levers say.
import { describe, expect, test } from 'vitest';
import { recordingFrom } from '../../tests/support/wave-model.ts';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { type HeldLever, odditiesOf, withLevers } from '../wave/index.ts';
import { describeSignals } from './signals.ts';

type Hints = Parameters<typeof withLevers>[0];

const SOURCE = `module t(input clk, input reset, input arst, input go, input [1:0] mode, output reg [7:0] count, output reg [7:0] late, output [7:0] gated, output run);
wire enable;
wire want = mode == 2;
inner u(.clk(clk), .go(go), .strobe(run));
assign gated = count & {8{enable}};
always @(posedge clk)
  if (reset) count <= 0;
  else if (enable) count <= count + 1;
always @(posedge clk or posedge arst)
  if (arst) late <= 8'd5;
  else if (want && run) late <= late + 3;
endmodule
module inner(input clk, input go, output reg strobe);
wire armed = go;
always @(posedge clk) strobe <= armed;
endmodule`;

const hints = ((): Hints => {
  const { netlist } = elaborate([{ name: 't.v', text: SOURCE }]);
  if (!netlist) throw new Error('does not elaborate');
  return Object.fromEntries(
    describeSignals(netlist, optimise(netlist)).signals.map(({ name, driver, domain, net = name }) => [
      name,
      { driver, domain, net },
    ]),
  );
})();

const bits = (value: number, width: number) => value.toString(2).padStart(width, '0');
/** Eight ticks of values; a single number stands still. */
function causes(
  signals: Readonly<Record<string, readonly [value: number | 'moves', width: number]>>,
  levers: readonly HeldLever[] = [],
): Readonly<Record<string, string>> {
  const recording = recordingFrom(
    Object.fromEntries(
      Object.entries(signals).map(([name, [value, width]]) => [
        `t.${name}`,
        Array.from({ length: 8 }, (_, tick) => bits(value === 'moves' ? tick % 2 : value, width)),
      ]),
    ),
  );
  return Object.fromEntries(
    odditiesOf(recording, withLevers(hints, { levers })).map(({ signal, cause }) => [signal.slice(2), cause]),
  );
}
const lever = (signal: string, value: number, overrides: boolean): HeldLever => ({
  signal: `t.${signal}`,
  value: String(value),
  overrides,
});

describe('why a signal stands still', () => {
  test('a counter held by an enable that a lever keeps at 0 is explained by that lever, not by the reset beside it', () => {
    const found = causes({ count: [3, 8], enable: [0, 1], reset: [0, 1] }, [lever('enable', 0, false)]);
    expect(found.count).toBe(
      'enable was 0 all the time, which keeps it as it is: the lever enable stands there; set it under Drive.',
    );
    expect(found.enable).toBe('The lever enable holds it; set it under Drive.');
  });

  test('the lever explains it where its signal was not recorded, too; one that overrides can be released', () => {
    expect(causes({ count: [3, 8] }, [lever('enable', 0, true)]).count).toMatch(
      /^enable was 0 .*the lever enable stands there; release it, or set it, under Drive\.$/,
    );
    expect(causes({ count: [3, 8] }, [lever('enable', 1, true)]).count).not.toMatch(/lever/);
  });

  test('an enable comes before a reset, and a reset only where it stands at the value that holds', () => {
    expect(causes({ count: [0, 8], enable: [0, 1], reset: [1, 1] }).count).toBe(
      'enable was 0 all the time, which keeps it as it is.',
    );
    expect(causes({ count: [0, 8], enable: [1, 1], reset: [1, 1] }).count).toBe(
      'reset was 1 all the time, which holds it at this value.',
    );
    // A reset gives 0: what stands at 3 is not held by it.
    expect(causes({ count: [3, 8], enable: [1, 1], reset: [1, 1] }).count).not.toMatch(/holds/);
    expect(causes({ late: [5, 8], arst: [1, 1] }).late).toBe('arst was 1 all the time, which holds it at this value.');
  });

  test('what stands still without holding it is not called the cause', () => {
    const found = causes({ count: [3, 8], enable: ['moves', 1], reset: [0, 1] });
    expect(found.count).toBe(
      'It is decided by enable and reset, which moved, but not so that it changes: trigger on its change.'.replace(
        'enable and reset',
        'reset and enable',
      ),
    );
  });

  test('a value of several bits is understood: any mode but 2 keeps it', () => {
    expect(causes({ late: [5, 8], mode: [1, 2], arst: [0, 1], run: ['moves', 1] }).late).toBe(
      'mode was 1 all the time, which keeps it as it is.',
    );
    expect(causes({ late: [5, 8], mode: [2, 2], arst: [0, 1], run: ['moves', 1] }).late).not.toMatch(/keeps/);
  });

  test('logic that a gate holds at 0 names the gate', () => {
    expect(causes({ gated: [0, 8], enable: [0, 1], count: ['moves', 8] }).gated).toBe(
      'enable was 0 all the time, which holds it at this value.',
    );
  });

  test('a net that is recorded under another name is not advised to be recorded', () => {
    expect(causes({ run: [1, 1], 'u.armed': ['moves', 1] }).run).not.toMatch(/Record/);
    expect(causes({ run: [1, 1] }).run).toMatch(/Record go too/);
  });
});
