// Edges of a design with every change of its outputs written down: one function, so that nothing but what changes costs
// a caller anything.
import { functionOf, moduleOf, signed, unsigned } from './wasm-module.ts';

/** Where everything is, in bytes; what is compared and where the last look at it is kept, in stretches of words. */
interface Places {
  readonly control: number;
  readonly outputs: { readonly from: number; readonly words: number; readonly last: number };
  readonly state: { readonly from: number; readonly words: number; readonly last: number };
}

/** Words of the control block, by their places. */
export const CONTROL = { moment: 0, end: 1, input: 2, log: 3, logEnd: 4 } as const;
export const CONTROL_WORDS = 8;
/** An input's new value, and a change: the moment, the byte address of the word, the word. */
export const ENTRY_WORDS = 3;

const ENTRY_BYTES = 4 * ENTRY_WORDS;
const BLOCK = 16;

// Instructions that are used here, WebAssembly core specification, chapter 5.
const [BLOCK_OP, LOOP, IF, ELSE, END, BR, BR_IF, CALL] = [0x02, 0x03, 0x04, 0x05, 0x0b, 0x0c, 0x0d, 0x10];
const [GET, SET, LOAD, STORE, CONST] = [0x20, 0x21, 0x28, 0x36, 0x41];
const [EQZ, NE, LT_U, GT_U, GE_U, ADD, OR] = [0x45, 0x47, 0x49, 0x4b, 0x4f, 0x6a, 0x72];
const VOID = 0x40;
const [V_LOAD, V_STORE, V_XOR, V_ANY] = [0, 11, 0x51, 0x53];

/** Locals; the first is the parameter: 1 where edges are run, 0 where the clock is held. */
const L = { steps: 0, moment: 1, end: 2, input: 3, log: 4, logEnd: 5, at: 6, word: 7, isMoved: 8, isQuiet: 9 } as const;
const LOCALS = 10;

/** Functions that are imported, by their numbers. */
const STEP = 0;
const OUTPUTS = 1;

class Code {
  readonly bytes: number[] = [];

  op(...bytes: readonly number[]): this {
    this.bytes.push(...bytes);
    return this;
  }

  get(local: number): this {
    return this.op(GET, local);
  }

  set(local: number): this {
    return this.op(SET, local);
  }

  constant(value: number): this {
    this.op(CONST);
    signed(this.bytes, value);
    return this;
  }

  /** At the address on the stack, so many bytes further. */
  load(offset = 0): this {
    this.op(LOAD, 2);
    unsigned(this.bytes, offset);
    return this;
  }

  store(offset = 0): this {
    this.op(STORE, 2);
    unsigned(this.bytes, offset);
    return this;
  }

  vector(instruction: number, offset: number | null = null): this {
    this.op(0xfd);
    unsigned(this.bytes, instruction);
    if (offset === null) return this;
    this.op(0);
    unsigned(this.bytes, offset);
    return this;
  }

  add(local: number, value: number): this {
    return this.get(local).constant(value).op(ADD).set(local);
  }
}

/**
 * A module that exports `run` (isStepping: i32), which goes from moment to moment: an edge, the inputs that are another
 * then, outputs, what of them has changed; until the end, or until the log is nearly full. Where neither an output nor
 * a register has changed twice it goes on at the next input. It imports `env.step` and `env.outputs`.
 */
export function emitWritten({ control, outputs, state }: Places): Uint8Array<ArrayBuffer> {
  const code = new Code();
  const kept = [
    ['moment', L.moment],
    ['end', L.end],
    ['input', L.input],
    ['log', L.log],
    ['logEnd', L.logEnd],
  ] as const;
  for (const [name, local] of kept)
    code
      .constant(0)
      .load(control + 4 * CONTROL[name])
      .set(local);
  code.op(BLOCK_OP, VOID, LOOP, VOID);
  code.get(L.moment).get(L.end).op(GE_U, BR_IF, 1);
  code.get(L.log).get(L.logEnd).op(GT_U, BR_IF, 1);
  code.get(L.steps).op(IF, VOID).constant(1).op(CALL, STEP, END);
  code.constant(0).set(L.isMoved);
  takeInputs(code);
  code.constant(1).op(CALL, OUTPUTS);
  writeChanges(code, outputs);
  code.get(L.isMoved).op(IF, VOID).constant(0).set(L.isQuiet).op(ELSE);
  restAtLast(code, state);
  code.op(END);
  code.add(L.moment, 1).op(BR, 0, END, END);
  for (const [name, local] of kept)
    if (name !== 'end' && name !== 'logEnd')
      code
        .constant(0)
        .get(local)
        .store(control + 4 * CONTROL[name]);
  const run = functionOf('times', LOCALS, code.bytes);
  return moduleOf([run], new Map([['run', 2]]), ['step', 'outputs']);
}

/** The list ends with a moment that never comes. */
function takeInputs(code: Code): void {
  code.op(BLOCK_OP, VOID, LOOP, VOID);
  code.get(L.input).load().get(L.moment).op(NE, BR_IF, 1);
  code.get(L.input).load(4).get(L.input).load(8).store();
  code.add(L.input, ENTRY_BYTES).constant(1).set(L.isMoved).op(BR, 0, END, END);
}

function writeChanges(code: Code, { from, words, last }: Places['outputs']): void {
  const apart = last - from;
  const blocks = words >>> 2;
  const one = (offset: number) => {
    code.get(L.at).load(offset).set(L.word);
    code
      .get(L.word)
      .get(L.at)
      .load(apart + offset)
      .op(NE, IF, VOID);
    code
      .get(L.at)
      .get(L.word)
      .store(apart + offset);
    code.get(L.log).get(L.moment).store();
    code.get(L.log).get(L.at).constant(offset).op(ADD).store(4);
    code.get(L.log).get(L.word).store(8);
    code.add(L.log, ENTRY_BYTES).constant(1).set(L.isMoved).op(END);
  };
  code.constant(from).set(L.at);
  if (blocks > 0) {
    code.op(LOOP, VOID);
    code.get(L.at).vector(V_LOAD, 0).get(L.at).vector(V_LOAD, apart).vector(V_XOR).vector(V_ANY).op(IF, VOID);
    for (let k = 0; k < 4; k++) one(4 * k);
    code.op(END);
    code
      .add(L.at, BLOCK)
      .get(L.at)
      .constant(from + BLOCK * blocks)
      .op(LT_U, BR_IF, 0, END);
  }
  for (let k = 0; k < (words & 3); k++) one(4 * k);
}

/** Nothing has changed: if nothing did at the moment before either, and the state neither, it is so until an input is. */
function restAtLast(code: Code, { from, words, last }: Places['state']): void {
  const apart = last - from;
  code.constant(0).set(L.word);
  if (words > 0) {
    code.constant(from).set(L.at).op(LOOP, VOID);
    code.get(L.at).vector(V_LOAD, 0).get(L.at).vector(V_LOAD, apart).vector(V_XOR).vector(V_ANY);
    code.get(L.word).op(OR).set(L.word);
    code.get(L.at).get(L.at).vector(V_LOAD, 0).vector(V_STORE, apart);
    code
      .add(L.at, BLOCK)
      .get(L.at)
      .constant(from + 4 * words)
      .op(LT_U, BR_IF, 0, END);
  }
  code.get(L.word).op(EQZ, IF, VOID).get(L.isQuiet).op(IF, VOID);
  code.get(L.input).load().set(L.moment);
  code.get(L.moment).get(L.end).op(GT_U, IF, VOID).get(L.end).set(L.moment).op(END);
  // Out of both and of the choice around them, on with the next moment.
  code.constant(0).set(L.isQuiet).op(BR, 3, END, END);
  code.constant(1).set(L.isQuiet);
}
