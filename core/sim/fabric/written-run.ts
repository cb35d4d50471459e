import { intAt } from '../../lists.ts';
import type { Layout } from './layout.ts';
import { limbsOf } from './layout.ts';
import { CONTROL, CONTROL_WORDS, emitWritten, ENTRY_WORDS } from './written.ts';

type Body = (times: number) => void;

const PAGE_WORDS = 16_384;
/** Vectors of four words are looked at, whatever lies behind the last one. */
const SPARE = 4;
/** No moment has this number. */
const NEVER = -1;

/** Code of a simulator, and how to have more of it. */
interface Made {
  readonly step: Body;
  readonly outputs: Body;
  readonly compiled: (module: Uint8Array<ArrayBuffer>, beside: Readonly<Record<string, Body>>) => Body;
}

/** How many entries there is room for. */
export interface Lists {
  readonly inputs: number;
  readonly changes: number;
}

/**
 * A stretch of moments, numbered by the caller: inputs that are another at some of them come in as a list, changes of
 * outputs come out as one. Both are in order of time.
 */
export class WrittenRun {
  /** Words of the outputs: a change names one of them. */
  readonly from: number;
  readonly words: number;
  readonly #run: Body;
  readonly #outputs: Body;
  readonly #all: Int32Array;
  readonly #control: number;
  readonly #inputs: number;
  readonly #mostInputs: number;
  readonly #log: number;
  readonly #logEnd: number;
  readonly #last: number;
  #inputCount = 0;

  constructor(
    memory: WebAssembly.Memory,
    layout: Layout,
    { inputs, changes }: Lists,
    { step, outputs, compiled }: Made,
  ) {
    const ports = [...layout.outputs.values()];
    const state = [...layout.registers.values()];
    this.from = ports[0]?.address ?? 0;
    this.words =
      ports.reduce((end, { address, width }) => Math.max(end, address + limbsOf(width)), this.from) - this.from;
    // Registers lie before the inputs, from the beginning on.
    const stateWords = state.length === 0 ? 0 : Math.min(...[...layout.inputs.values()].map(({ address }) => address));
    let end = memory.buffer.byteLength / 4;
    const take = (words: number): number => {
      const at = end;
      end += Math.ceil((words + SPARE) / SPARE) * SPARE;
      return at;
    };
    this.#control = take(CONTROL_WORDS);
    this.#last = take(this.words);
    const lastState = take(stateWords);
    this.#mostInputs = inputs;
    this.#inputs = take(ENTRY_WORDS * (inputs + 1));
    this.#log = take(ENTRY_WORDS * (changes + this.words));
    this.#logEnd = this.#log + ENTRY_WORDS * changes;
    memory.grow(Math.ceil(end / PAGE_WORDS) - memory.buffer.byteLength / (4 * PAGE_WORDS));
    this.#all = new Int32Array(memory.buffer);
    this.#run = compiled(
      emitWritten({
        control: 4 * this.#control,
        outputs: { from: 4 * this.from, words: this.words, last: 4 * this.#last },
        state: { from: 0, words: stateWords, last: 4 * lastState },
      }),
      { step, outputs },
    );
    this.#outputs = outputs;
    this.noInputs();
  }

  /** Computes the outputs as they are now; what changes against that will be told. */
  begin(): void {
    this.#outputs(1);
    this.#all.copyWithin(this.#last, this.from, this.from + this.words);
  }

  /** Empties the list of inputs, and goes back to its beginning. */
  noInputs(): void {
    this.#inputCount = 0;
    this.#all[this.#inputs] = NEVER;
    this.#all[this.#control + CONTROL.input] = 4 * this.#inputs;
  }

  /** A word of an input, by its address, is another one from a moment on; in order of the moments. False: it is full. */
  addInput(moment: number, address: number, word: number): boolean {
    if (this.#inputCount === this.#mostInputs) return false;
    const at = this.#inputs + ENTRY_WORDS * this.#inputCount++;
    this.#all[at] = moment;
    this.#all[at + 1] = 4 * address;
    this.#all[at + 2] = word;
    this.#all[at + ENTRY_WORDS] = NEVER;
    return true;
  }

  /**
   * Goes through moments from one on, up to another one that is not gone through any more; with an edge before each of
   * them, or none. Gives how far it came, which is less where the list of changes is full: each is then told and
   * forgotten. `tell` gets the moment, the place among the words of the outputs, and the word.
   */
  run(from: number, end: number, isStepping: boolean, tell: (moment: number, place: number, word: number) => void) {
    const all = this.#all;
    const control = this.#control;
    all[control + CONTROL.moment] = from;
    all[control + CONTROL.end] = end;
    all[control + CONTROL.log] = 4 * this.#log;
    all[control + CONTROL.logEnd] = 4 * this.#logEnd;
    this.#run(isStepping ? 1 : 0);
    const until = intAt(all, control + CONTROL.log) >>> 2;
    for (let at = this.#log; at < until; at += ENTRY_WORDS)
      tell(intAt(all, at), (intAt(all, at + 1) >>> 2) - this.from, intAt(all, at + 2));
    return intAt(all, control + CONTROL.moment);
  }
}
