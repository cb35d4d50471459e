// In stretches the same comes out as with a look at every sample, whatever of a design is recorded.
import { describe, expect, test } from 'vitest';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { randomDesign } from '../../tests/support/random-design.ts';
import { knowWidths, letThroughOf, netlistOf, randomStimulus, recordOf, traced } from '../../tests/support/replayed.ts';
import { digitsOf, type Recording } from '../wave/index.ts';
import { prepareReplay, type Region, regionOf, type Replay, replay, replayDesign } from './index.ts';
import { unwatched } from '../progress.ts';

const SAMPLES = 160;
const NEVER = Number.POSITIVE_INFINITY;

async function both(region: Region, record: Recording): Promise<readonly [Replay, Replay]> {
  const prepared = prepareReplay(region, record, 'samples');
  if (!prepared.ok) throw new Error(prepared.error.message);
  return [
    await replay(prepared.value, unwatched, { late: 1 }),
    await replay(prepared.value, unwatched, { late: NEVER }),
  ];
}

const told = ({ recording, disagreements, unknown, seen, stored }: Replay) => ({
  ...{ disagreements, unknown, seen, stored },
  traces: recording.traces.map((trace) => ({
    name: trace.name,
    values: Array.from(trace.at, (tick, i) => `${tick} ${digitsOf(trace, i)}`),
  })),
});

/** Parts of a record behind gaps, each as long as chance has it. */
function withGaps(record: Recording, seed: number): Recording {
  const chance = chanceFrom(seed);
  const { length } = record;
  const stored: number[] = [];
  const gaps: Recording['gaps'][number][] = [];
  for (let tick = 0; tick < length; ) {
    for (let left = 20 + chance.below(60); left > 0 && tick < length; left--) stored.push(tick++);
    const end = Math.min(length, tick + 1 + chance.below(9));
    if (end < length) gaps.push({ from: tick, to: end, ticks: end - tick });
    tick = end;
  }
  return { ...record, gaps, stored: Float64Array.from(stored) };
}

describe('in stretches', () => {
  test.each(['whole records', 'records with gaps', 'clocks that are held'])('%s of random designs', async (kind) => {
    let [designs, words] = [0, 0];
    // Every gap is a beginning of its own, which takes its time.
    const end = kind === 'records with gaps' ? 9003 : 9006;
    for (let seed = 9000; seed < end; seed++) {
      const chance = chanceFrom(seed + 5);
      const netlist = netlistOf(randomDesign(seed).text, 'd');
      const isLet = (k: number) => kind !== 'clocks that are held' || (k * 7 + seed) % 11 > 3;
      const run = traced(netlist, SAMPLES, randomStimulus(chanceFrom(seed + 1), 9), isLet);
      knowWidths(run);
      const region = regionOf(replayDesign(netlist), { see: ['d'] });
      if (!region.ok) continue;
      // Some of it: so that something is known, something comes to be, and something never is.
      const names = [...run.values.keys()].filter((name) => name !== region.value.clock.name && chance.below(5) < 3);
      if (names.length === 0) continue;
      const plain = recordOf(run, names, 0);
      const record = kind === 'records with gaps' ? withGaps(plain, seed) : plain;
      const lets = kind === 'clocks that are held' ? [letThroughOf(run, region.value.clock.name)] : [];
      const [quick, slow] = await both(region.value, { ...record, traces: [...record.traces, ...lets] });
      expect({ seed, ...told(quick) }).toEqual({ seed, ...told(slow) });
      designs++;
      words += quick.recording.traces.filter(({ name }) => name.endsWith(']')).length;
    }
    expect(designs).toBeGreaterThan(1);
    expect(words, 'words of memories among them').toBeGreaterThan(0);
  });

  test('a record that is not what the design makes of it is told in every sample', async () => {
    const text = `module d(input clk, input [3:0] a, output reg [7:0] sum = 0, output reg odd = 0);
      always @(posedge clk) begin sum <= a == 0 ? 0 : sum + a; odd <= sum[0]; end endmodule`;
    const netlist = netlistOf(text, 'd');
    const run = traced(netlist, 120, (_, __, k) => BigInt(k % 9));
    knowWidths(run);
    const region = regionOf(replayDesign(netlist), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    // Three samples of the sum are others than they were, far behind the beginning.
    const wrong = new Map(run.values);
    wrong.set(
      'd.sum',
      (run.values.get('d.sum') ?? []).map((one, k) => (k >= 90 && k < 93 ? one ^ 4n : one)),
    );
    const twisted = { ...run, values: wrong };
    knowWidths(twisted);
    const [quick, slow] = await both(region.value, recordOf(twisted, ['d.a', 'd.sum', 'd.odd']));
    expect(quick.disagreements).toEqual(slow.disagreements);
    expect(quick.disagreements).toMatchObject([{ signal: 'd.sum', sample: 90 }]);
  });
});
