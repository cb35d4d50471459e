// Random designs, random stimuli: the fabric says what every name was, the record holds what was proposed alone.
import { describe, expect, test } from 'vitest';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { randomDesign } from '../../tests/support/random-design.ts';
import { knowWidths, netlistOf, randomStimulus, recordOf, type Traced, traced } from '../../tests/support/replayed.ts';
import { aloneAs } from '../vectors/index.ts';
import { simulate } from '../sim/events/index.ts';
import { digitsOf, indexAt } from '../wave/index.ts';
import {
  prepareReplay,
  proposalsFor,
  type Region,
  regionOf,
  type Replay,
  replay,
  replayDesign,
  testbenchOf,
} from './index.ts';

const SAMPLES = 70;
/** The record begins in the middle, where nobody knows what registers hold. */
const FROM = 13;

interface Tried {
  readonly seed: number;
  readonly text: string;
  readonly run: Traced;
  readonly region: Region;
}

/** Designs with registers of a clock that comes from outside. */
function tried(seed: number): Tried | null {
  const { text } = randomDesign(seed);
  const netlist = netlistOf(text, 'd');
  const run = traced(netlist, SAMPLES, randomStimulus(chanceFrom(seed + 1)));
  knowWidths(run);
  const region = regionOf(replayDesign(netlist), { see: ['d'] });
  return region.ok ? { seed, text, run, region: region.value } : null;
}

const DESIGNS = Array.from({ length: 16 }, (_, i) => tried(5000 + i)).filter((one) => one !== null);

async function replayed({ run, region }: Tried, names: readonly string[]): Promise<Replay> {
  const prepared = prepareReplay(region, recordOf(run, names, FROM), 'samples');
  if (!prepared.ok) throw new Error(prepared.error.message);
  return replay(prepared.value);
}

const plansOf = ({ region }: Tried) => {
  const plans = proposalsFor(region);
  if (!plans.ok) throw new Error(plans.error.message);
  return plans.value;
};

describe('what is computed from the proposed record alone', () => {
  test('is what was, wherever it is known, and nothing disagrees', async () => {
    let [known, all, plans] = [0, 0, 0];
    for (const one of DESIGNS)
      for (const plan of plansOf(one)) {
        plans++;
        const done = await replayed(
          one,
          plan.stored.map(({ name }) => name),
        );
        expect({ seed: one.seed, found: done.disagreements }).toEqual({ seed: one.seed, found: [] });
        for (const trace of done.recording.traces) {
          const values = one.run.values.get(trace.name);
          if (!values) continue;
          for (let k = 0; k < SAMPLES - FROM; k++) {
            const digits = digitsOf(trace, indexAt(trace, k));
            const real = (values[k + FROM] ?? 0n).toString(2).padStart(trace.width, '0');
            const wrong = [...digits].some((digit, i) => digit !== 'x' && digit !== real[i]);
            if (wrong) expect(`${one.seed} ${plan.trust} ${trace.name} ${k}: ${digits}`).toBe(real);
            all += trace.width;
            known += [...digits].filter((digit) => digit !== 'x').length;
          }
        }
      }
    expect(plans).toBeGreaterThan(12);
    expect(known / all).toBeGreaterThan(0.8);
  });
});

describe('the testbench of a record', () => {
  test('passes in simulation, whatever fills what is not known', async () => {
    let runs = 0;
    for (const one of DESIGNS.slice(0, 30)) {
      const plan = plansOf(one).at(-1);
      const names = [
        ...(plan?.stored ?? []).map(({ name }) => name),
        ...one.region.design.signals.flatMap(({ name, kind }) => (kind === 'output' ? [name] : [])),
      ];
      const done = await replayed(one, [...new Set(names)]);
      const files = [{ name: 'd.v', text: one.text }];
      const alone = aloneAs(files, { top: 'd' }, 'd');
      if (!alone.ok) throw new Error(alone.error.message);
      for (const fill of ['x', 'zeros', 'ones', { seed: one.seed }] as const) {
        const made = testbenchOf(done, 'd', { module: 'd', parameters: {} }, fill);
        if (!made.ok) throw new Error(made.error.message);
        const data = new Map(made.value.files.map(({ name, text }) => [name, text]));
        const printed: string[] = [];
        const { run, messages } = simulate([...files, ...made.value.files.filter(({ name }) => name.endsWith('.v'))], {
          top: made.value.name,
          host: { read: (name) => data.get(name) ?? null, print: (text) => void printed.push(text) },
        });
        const errors = messages.filter(({ severity }) => severity === 'error').map(({ message }) => message);
        expect({ seed: one.seed, errors }).toEqual({ seed: one.seed, errors: [] });
        expect({ seed: one.seed, fill, ending: run?.ending, printed: printed.join('') }).toMatchObject({
          ending: 'finish',
          printed: expect.stringContaining('no difference'),
        });
        runs++;
      }
    }
    expect(runs).toBeGreaterThan(20);
  });
});
