// A design on a board that is made for it: one Corvane, an oscillator at each of its clocks, nothing else.
import { Bench, BenchCable, readBenchFile } from '../../bench/index.ts';
import type { ChainSession } from '../../core/board/index.ts';
import { build } from '../../core/build/index.ts';
import { readBitstream } from '../../core/families/index.ts';
import { loadBitstream } from '../../core/operations/index.ts';
import type { ProbeMap, ProbePlan } from '../../core/probes/index.ts';
import { unwatched } from '../../core/progress.ts';
import { chainOn } from './chain-on.ts';

/** The part of made boards: the largest. */
export const MADE_PART = 'CV60';
const CLOCK_PINS = ['A1', 'B1', 'C1'];

interface MadeDesign {
  readonly files: readonly { readonly name: string; readonly text: string }[];
  readonly top: string;
  readonly plan?: ProbePlan;
  /** Frequency of each clock, in Hz; at most three. */
  readonly clocks?: Readonly<Record<string, number>>;
  /** Lines of the pin file besides the clocks. */
  readonly pins?: string;
  readonly tckHz?: number;
  /** Parts of the board besides the oscillators, as a bench file has them. */
  readonly parts?: object;
  readonly faults?: readonly object[];
}

export interface MadeBoard {
  readonly bench: Bench;
  readonly chain: ChainSession;
  /** Of its debug cores. Throws where none are planned. */
  readonly map: ProbeMap;
  /** Loads the design, and again. */
  load(): Promise<void>;
}

/** Builds a design and makes its board; nothing is loaded yet. Throws what the build reports. */
export function madeBoard({ files, top, plan, clocks = {}, pins = '', ...rest }: MadeDesign): MadeBoard {
  const at = Object.entries(clocks).map(([clock, hz], i) => ({ clock, hz, pin: CLOCK_PINS[i] ?? '' }));
  const { bitstream, probes, messages } = build({
    project: {
      file: {
        ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [], name: top, top, part: MADE_PART },
        ...{ pins: 'pins.csv', clocks },
      },
      files: [...files, { name: 'pins.csv', text: at.map(({ clock, pin }) => `${clock},${pin}\n`).join('') + pins }],
    },
    plan: plan ?? { recorders: [], panels: [] },
  });
  const read = readBitstream(bitstream ?? new Uint8Array());
  if (!read.ok) throw new Error(JSON.stringify(messages.filter(({ severity }) => severity === 'error')));
  const { tckHz, parts, faults = [] } = rest;
  const board = { ...parts, fpga: 0, oscillators: at.map(({ hz, pin }, i) => ({ name: `X${i}`, pin, hz })) };
  const chained = {
    chain: [{ kind: 'corvane', part: MADE_PART }],
    board,
    faults,
    ...(tckHz !== undefined && { tckHz }),
  };
  const file = readBenchFile(JSON.stringify(chained), 'made');
  if (!file.ok) throw new Error(file.error.message);
  const bench = new Bench(file.value);
  const chain = chainOn(new BenchCable(bench));
  const load = async () => {
    const loaded = await loadBitstream(chain, read.value, null, unwatched);
    if (!loaded.ok || !loaded.value.done) throw new Error('it does not load');
  };
  return {
    ...{ bench, chain, load },
    get map() {
      if (!probes) throw new Error('the design has no debug cores');
      return probes;
    },
  };
}
