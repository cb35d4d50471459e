import { readFileSync } from 'node:fs';
import { elaborate, type SourceFile } from '../../core/hdl/index.ts';
import { item } from '../../core/lists.ts';
import { type Netlist, optimise } from '../../core/netlist/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import {
  prepareReplay,
  proposalsFor,
  proposalWithin,
  regionOf,
  replay,
  replayDesign,
} from '../../core/replay/index.ts';
import { unwatched } from '../../core/progress.ts';
import { taken } from '../../core/result.ts';
import { type Recording, TraceWriter } from '../../core/wave/index.ts';
import { demoProject } from '../../tests/support/demo.ts';

interface Design {
  readonly name: string;
  readonly files: readonly SourceFile[];
  readonly top: string;
  readonly see: readonly string[];
  /** Bits at most; null for what is usual. */
  readonly bits: number | null;
  /** Edges of clocks between two samples, the sampling one first. */
  readonly clocks: readonly string[];
  /** Value of an input in a sample. */
  readonly input: (name: string, sample: number) => number;
}

/** Blocks of sixteen words, each computed as soon as it is whole. */
const shaInput = (name: string, sample: number): number => {
  const at = sample % 96;
  if (name === 'rst') return sample < 3 ? 1 : 0;
  if (name === 'load') return at >= 4 && at < 20 ? 1 : 0;
  if (name === 'word') return (Math.imul(sample, 0x9e3779b1) ^ (sample >>> 3)) >>> 0;
  return at === 21 ? 1 : 0;
};

/** Bits in and bytes of the converter as noise has them, buttons now and then. */
const lockInput = (name: string, sample: number): number => {
  const noise = Math.imul(Math.floor(sample / 997) + 1, 0x85ebca6b) >>> 0;
  if (name === 'button') return sample < 5 ? 8 : sample % 40_000 < 20_000 ? noise & 3 : 0;
  if (name === 'miso') return (noise >>> 7) & 1;
  return 0;
};

const DESIGNS: readonly Design[] = [
  {
    ...{ name: 'the demo, u_levels and u_sequencer', files: demoProject().files, top: 'lockhouse' },
    ...{ see: ['u_levels', 'u_sequencer'], bits: null, clocks: ['clk', 'clk10'], input: lockInput },
  },
  {
    ...{ name: 'the demo, u_sequencer, fewest bits', files: demoProject().files, top: 'lockhouse' },
    ...{ see: ['u_sequencer'], bits: 16, clocks: ['clk', 'clk10'], input: lockInput },
  },
  {
    name: 'SHA-256',
    files: ['sha256', 'sha256_words'].map((name) => ({
      name: `${name}.v`,
      text: readFileSync(`tests/designs/${name}.v`, 'utf8'),
    })),
    ...{ top: 'sha256_words', see: ['sha256_words'], bits: null, clocks: ['clk'], input: shaInput },
  },
];

/** Words of values: as many as the command keeps. */
const MOST_KEPT = 1 << 26;

export interface ReplaySpeed {
  readonly design: string;
  readonly stored: number;
  /** Bits that follow, in what is to be seen and beside it. */
  readonly factor: number;
  readonly planMilliseconds: number;
  /** Samples a second: computed, and in the fabric of the whole design, every edge in full, with the same inputs. */
  readonly computed: number;
  /** The same without what the first quarter of the record takes, the exact beginning in it. */
  readonly onward: number;
  readonly fabric: number;
  /** The same with every signal written down that replay writes down. */
  readonly written: number;
  readonly disagreements: number;
}

/** Replays of so many samples. */
export async function replaySpeeds(samples: number): Promise<ReplaySpeed[]> {
  const speeds: ReplaySpeed[] = [];
  for (const design of DESIGNS) speeds.push(await speedOf(design, samples));
  return speeds;
}

async function speedOf(design: Design, samples: number): Promise<ReplaySpeed> {
  const { netlist } = elaborate(design.files, { top: design.top });
  if (!netlist) throw new Error(`${design.name} is no design`);
  const region = taken(regionOf(replayDesign(netlist), { see: design.see }));
  const from = performance.now();
  const plan = taken(proposalWithin(taken(proposalsFor(region)), design.bits));
  const planMilliseconds = performance.now() - from;
  const { record, seconds } = recorded(design, netlist, plan.stored, samples, false);
  const prepared = taken(prepareReplay(region, record, 'samples'));
  const all = prepared.program.shown.map(({ signal: { name, width } }) => ({ name, width }));
  const written = recorded(design, netlist, all, samples, true).seconds;
  const quarter = taken(prepareReplay(region, { ...record, length: samples / 4 }, 'samples'));
  const early = performance.now();
  await replay(quarter, unwatched, { mostKept: MOST_KEPT });
  const start = performance.now();
  const done = await replay(prepared, unwatched, { mostKept: MOST_KEPT });
  const whole = performance.now() - start;
  if (done.cut !== null) throw new Error(`${design.name} was computed up to sample ${done.cut} alone`);
  return {
    design: design.name,
    stored: plan.storedBits,
    factor: plan.factor,
    planMilliseconds,
    computed: samples / (whole / 1000),
    onward: (0.75 * samples) / (Math.max(1, whole - (start - early)) / 1000),
    fabric: samples / seconds,
    written: samples / written,
    disagreements: done.disagreements.length,
  };
}

/** Runs the whole design for a record of some signals; how long that took, or without writing anything down. */
function recorded(
  { clocks, input }: Design,
  netlist: Netlist,
  stored: readonly { readonly name: string; readonly width: number }[],
  samples: number,
  countsWriting: boolean,
): { readonly record: Recording; readonly seconds: number } {
  const parts = stored.map(({ name, width }) => {
    const whole = netlist.signals.find((signal) => signal.name === name);
    const [, base = '', high = '', low = high] = whole ? [] : (/^(.*)\[(\d+)(?::(\d+))?\]$/.exec(name) ?? []);
    const signal = whole ?? netlist.signals.find((one) => one.name === base);
    if (!signal) throw new Error(`no signal ${name}`);
    return { name, width, lo: whole ? 0 : Number(low), signal };
  });
  const outputs = [
    ...netlist.outputs,
    ...parts.map(({ signal }) => ({ name: `see ${signal.name}`, node: signal.node, width: signal.width })),
  ];
  const sim = new Simulator(optimise({ ...netlist, outputs }).netlist, 'wasm', null);
  const inputs = netlist.inputs.filter(({ name }) => !clocks.includes(name)).map(({ name }) => name);
  const addresses = inputs.map((name) => sim.inputAddress(name));
  const domains = clocks.map((clock) => sim.domain(clock));
  const writers = parts.map(({ width }) => new TraceWriter(width));
  const run = (look: (sample: number) => void): number => {
    sim.powerUp();
    const began = performance.now();
    for (let k = 0; k < samples; k++) {
      if (k > 0) for (const domain of domains) sim.step(domain);
      for (const [i, name] of inputs.entries()) sim.words[item(addresses, i)] = input(name, k);
      sim.touched();
      look(k);
    }
    return (performance.now() - began) / 1000;
  };
  const all = parts.map(({ width, lo, signal }) => ({
    ...{ width, lo, at: sim.outputAddress(`see ${signal.name}`), words: new Uint32Array((width + 31) >>> 5) },
  }));
  const writing = run((k) => {
    // The other clocks have had their edges before this one looks.
    sim.settle();
    for (let i = 0; i < all.length; i++) {
      const { width, lo, at, words } = item(all, i);
      let isNew = k === 0;
      for (let w = 0; w < words.length; w++) {
        const value = (((sim.words[at + w] ?? 0) >>> lo) & (width >= 32 ? -1 : 2 ** width - 1)) >>> 0;
        if (words[w] === value) continue;
        words[w] = value;
        isNew = true;
      }
      if (isNew) writers[i]?.add(k, words, null);
    }
  });
  const seconds = countsWriting ? writing : run(() => sim.settle());
  const about = { title: 'traced', tickSeconds: 1e-6, length: samples, triggers: [], gaps: [], stored: null };
  return {
    seconds,
    record: {
      ...{ ...about, sampled: true },
      traces: parts.map(({ name, width }, i) => item(writers, i).finish({ name, width, signed: false, domain: '' })),
    },
  };
}
