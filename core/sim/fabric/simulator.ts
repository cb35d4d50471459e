import { entry, intAt, item, numberAt } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import { compile, type Domain, FIRST_DOMAIN, LEVELS, OUTPUTS, type Program, RESETS, ROUND } from './compile.ts';
import { MOST_ROUNDS } from './follow.ts';
import type { Emitter } from './emitter.ts';
import { emitJavaScript } from './javascript.ts';
import { limbsOf } from './layout.ts';
import { byTurns, type EdgeTrain, Pace, type Pacing, type Turns, wordsFor } from './pace.ts';
import { byRounds, emitRounds, type Rounds, roundWords } from './rounds.ts';
import { emitByTurns } from './turns.ts';
import { emitRow, emitWasm } from './wasm.ts';
import { type Lists, WrittenRun } from './written-run.ts';

export type Backend = 'wasm' | 'javascript';

type Body = (times: number) => void;

const PAGE_BYTES = 65536;
/** As many as keep the order of their edges in one function. */
export const MOST_TRAINS = 12;

/** A running design: its state, and the clock edges that change it. Inputs hold until they are set again. */
export class Simulator {
  readonly domains: readonly Domain[];
  readonly #program: Program;
  #words: Int32Array;
  readonly #bodies: readonly Body[];
  readonly #backend: Backend;
  readonly #hasResets: boolean;
  readonly #memory: WebAssembly.Memory;
  /** Where it is kept when edges are due, in 64-bit words. */
  readonly #times: number;
  /** Null where every edge is run as it is. */
  readonly #pace: Pace | null;
  readonly #turns = new Map<string, Turns>();
  readonly #together = new Map<string, Body>();
  /** Whether logic makes clocks, which follow every edge. */
  readonly #isFollowed: boolean;
  #fresh = false;
  /** Inputs were set since clocks made by logic have followed. */
  #isTouched = false;

  /** `pacing` for who cannot wait until a design is looked at closer, or null where every edge is to be run in full. */
  constructor(netlist: Netlist, backend: Backend = 'wasm', pacing?: Pacing | null) {
    this.#program = compile(netlist);
    this.domains = this.#program.domains;
    this.#backend = backend;
    this.#hasResets = this.#program.netlist.registers.some(({ reset }) => reset !== null);
    this.#times = Math.ceil(wordsFor(this.#program) / 2);
    this.#memory = new WebAssembly.Memory({
      initial: Math.ceil(((this.#times + roundWords(MOST_TRAINS)) * 8) / PAGE_BYTES),
    });
    this.#words = new Int32Array(this.#memory.buffer);
    this.#bodies =
      backend === 'wasm'
        ? wasmBodies(this.#program, this.#memory)
        : javaScriptBodies(this.#program.bodies, this.#words);
    this.#isFollowed = this.#program.layout.derived.size > 0;
    const isPaced = backend === 'wasm' && pacing !== null && (!this.#isFollowed || this.#program.isWatched);
    this.#pace = isPaced ? new Pace(this.#program, this.#memory, this.#bodies, pacing ?? undefined) : null;
    this.powerUp();
  }

  /** Registers and memories take the values the configuration gives them; inputs become 0. */
  powerUp(): void {
    const { layout, netlist } = this.#program;
    this.#words.fill(0);
    for (const { node, init } of netlist.registers)
      this.#write(entry(layout.registers, node), netlist.nodes[node]?.width ?? 1, init);
    for (const [i, { init, width }] of netlist.memories.entries())
      for (const [at, word] of init.entries())
        if (word) this.#write(numberAt(layout.memories, i) + at * limbsOf(width), width, word);
    if (this.#isFollowed) this.#bodies[LEVELS]?.(1);
    this.#fresh = false;
  }

  /** A handle for `step`, or -1 when nothing waits for that edge. */
  domain(clock: string, edge: 'posedge' | 'negedge' = 'posedge'): number {
    return this.domains.findIndex((d) => d.derived === null && d.clock === clock && d.edge === edge);
  }

  /** Runs `times` edges of one domain; nothing where nothing waits for them. */
  step(domain: number, times = 1): void {
    if (domain < 0) return;
    this.#followInputs();
    if (this.#pace !== null) this.#pace.step(domain, times);
    else this.#edgeOf(domain)(times);
    if (this.#isFollowed) this.#leaveClock(domain);
    this.#fresh = false;
  }

  /** Edges of a domain, with what they set off. */
  #edgeOf(domain: number): Body {
    return item(this.#bodies, domain + FIRST_DOMAIN + (this.#isFollowed ? this.domains.length : 0));
  }

  /** What the last edge has moved is not told where it was a calm one; the clock's own level is what it left. */
  #leaveClock(domain: number): void {
    const { clock, edge, derived } = item(this.domains, domain);
    if (this.#pace && this.#pace.calmDomains.length > 0) this.#follow();
    if (derived === null)
      this.#words[this.inputAddress(clock)] = edge === 'posedge' && this.domain(clock, 'negedge') >= 0 ? 1 : 0;
  }

  /** Runs rising edges of two clocks in the order in which they come. */
  interleave(a: EdgeTrain, b: EdgeTrain): void {
    this.#followInputs();
    if (this.#backend === 'wasm') {
      if (!this.#pace?.interleave(a, b))
        this.#turnsOf(a.domain, b.domain)(a.count, b.count, a.next, a.step, b.next, b.step);
    } else for (const { domain, count } of byTurns(a, b)) this.#edgeOf(domain)(count);
    if (this.#pace && this.#isFollowed && this.#pace.calmDomains.length > 0) this.#follow();
    this.#fresh = false;
  }

  /** Both bodies in one function: at tens of millions of edges a second a call for each would tell. */
  #turnsOf(a: number, b: number): Turns {
    const key = `${a} ${b}`;
    let turns = this.#turns.get(key);
    if (!turns) {
      const { together } = this.#program;
      const module = new WebAssembly.Module(emitByTurns(together([a]), together([b])));
      turns = new WebAssembly.Instance(module, this.#given).exports.run as Turns;
      this.#turns.set(key, turns);
    }
    return turns;
  }

  /**
   * One edge of each of several domains, at the same moment: every register takes what stood before all of them. To be
   * asked for once and run often.
   */
  together(domains: readonly number[]): () => void {
    const [only] = domains;
    if (domains.length === 1 && only !== undefined) return () => this.step(only);
    const body = this.#bodyOf(domains);
    return () => {
      this.#pace?.disturb();
      body(1);
      this.#fresh = false;
    };
  }

  /** A row of edges as one function of how often it is run: each step is so many edges of some domains at once. */
  row(steps: readonly { readonly domains: readonly number[]; readonly times: number }[]): (times: number) => void {
    const keys = [...new Set(steps.map(({ domains }) => domains.join(' ')))];
    const bodies = keys.map((key) => this.#program.together(key.split(' ').map(Number)));
    const row = steps.map(({ domains, times }) => ({ body: keys.indexOf(domains.join(' ')), times }));
    const run =
      this.#backend === 'wasm'
        ? this.#compiled(emitRow(bodies, row))
        : rowOf(javaScriptBodies(bodies, this.#words, this.#bodies), row);
    return (times) => {
      this.#followInputs();
      this.#pace?.disturb();
      run(times);
      this.#fresh = false;
    };
  }

  /**
   * Edges of several clocks in the order in which they are due, as one function of when each train is due, how far
   * apart its edges are, and until when. `moments`: trains that keep time with each other and come at once, all that occur;
   * `alone`: trains whose edges come one by one. All by their places among `domains`. When each is due next is kept.
   */
  rounds(
    domains: readonly number[],
    moments: readonly (readonly number[])[],
    alone: readonly number[],
  ): (next: number[], step: readonly number[], until: number) => void {
    const [first, second] = domains;
    if (domains.length === 2 && first !== undefined && second !== undefined && moments.join() === '0')
      return (next, step, until) => this.#byTurns([first, second], next, step, until);
    const bodyOf = (trains: readonly number[]) => ({
      trains,
      body: this.#program.together(trains.map((train) => item(domains, train))),
    });
    const plan = { moments: moments.map(bodyOf), alone: alone.map((train) => bodyOf([train])) };
    const run = this.#backend === 'wasm' ? this.#compiledRounds(plan, domains.length) : null;
    return (next, step, until) => {
      this.#followInputs();
      this.#pace?.disturb();
      if (run) run(next, step, until);
      else
        for (const due of byRounds({ moments, alone }, next, step, until))
          this.#bodyOf(due.map((train) => item(domains, train)))(1);
      this.#fresh = false;
    };
  }

  /** Two trains that are due one after the other, as `interleave` makes them. */
  #byTurns(domains: readonly [number, number], next: number[], step: readonly number[], until: number): void {
    const train = (i: 0 | 1): EdgeTrain => {
      const [due, apart] = [numberAt(next, i), numberAt(step, i)];
      return { domain: domains[i], count: Math.max(0, Math.floor((until - due) / apart) + 1), next: due, step: apart };
    };
    const [a, b] = [train(0), train(1)];
    this.interleave(a, b);
    for (const [i, { count }] of [a, b].entries()) next[i] = numberAt(next, i) + count * numberAt(step, i);
  }

  #compiledRounds(plan: Rounds, trains: number): (next: number[], step: readonly number[], until: number) => void {
    const run = this.#compiled(emitRounds(plan, trains, this.#times));
    const kept = new Float64Array(this.#memory.buffer, this.#times * 8, roundWords(trains));
    return (next, step, until) => {
      kept[0] = until;
      for (let i = 0; i < trains; i++) {
        kept[1 + 2 * i] = numberAt(next, i);
        kept[2 + 2 * i] = numberAt(step, i);
      }
      run(1);
      for (let i = 0; i < trains; i++) next[i] = kept[1 + 2 * i] ?? 0;
    };
  }

  #bodyOf(domains: readonly number[]): Body {
    const key = domains.join(' ');
    let body = this.#together.get(key);
    if (!body) {
      const row = [{ domains, times: 1 }];
      body = this.row(row);
      this.#together.set(key, body);
    }
    return body;
  }

  /**
   * One domain's edges with every change of an output written down, in lists of so many. Takes room of its own: to be
   * asked for before `words` is. Null where logic makes clocks or resets.
   */
  written(domain: number, lists: Lists): WrittenRun | null {
    if (this.#backend !== 'wasm' || this.#isFollowed || this.#hasResets || domain < 0) return null;
    const { layout } = this.#program;
    const run = new WrittenRun(this.#memory, layout, lists, {
      step: this.#edgeOf(domain),
      outputs: item(this.#bodies, OUTPUTS),
      compiled: (module, beside) => this.#compiled(module, beside),
    });
    this.#words = new Int32Array(this.#memory.buffer);
    return run;
  }

  /** One edge of an input that somebody else sets, such as a button that clocks a register. */
  edge(domain: number): void {
    this.#pace?.disturb();
    this.#bodies[domain + FIRST_DOMAIN]?.(1);
    this.#fresh = false;
  }

  /** A clock that an input decides has its edge when that is set, not with the next one of another clock. */
  #followInputs(): void {
    if (this.#isTouched && this.#isFollowed) this.#follow();
    this.#isTouched = false;
  }

  /** Lets resets and clocks made by logic follow what was set or has moved, until nothing moves any more. */
  #follow(): void {
    const { disturbed } = this.#program.layout;
    this.#words[disturbed] = 0;
    if (this.#isFollowed) this.#bodies[ROUND]?.(MOST_ROUNDS);
    // A reset may depend on what another reset clears, hence twice.
    else this.#bodies[RESETS]?.(2);
    if (this.#words[disturbed] !== 0) this.#pace?.disturb();
  }

  /** The function `run` of a module beside the bodies. */
  #compiled(module: Uint8Array<ArrayBuffer>, beside: Readonly<Record<string, Body>> = {}): Body {
    const { env } = this.#given;
    return new WebAssembly.Instance(new WebAssembly.Module(module), { env: { ...env, ...beside } }).exports.run as Body;
  }

  /** What code beside the bodies imports. */
  get #given(): WebAssembly.Imports {
    return { env: { memory: this.#memory, round: item(this.#bodies, ROUND) } };
  }

  /** Clocks whose edges are run by code for those at which little changes. */
  get calmDomains(): readonly number[] {
    return this.#pace?.calmDomains ?? [];
  }

  /** Word address of a port, for callers that set or read it very often; see `words`. */
  inputAddress(name: string): number {
    return this.#program.layout.inputs.get(name)?.address ?? -1;
  }

  outputAddress(name: string): number {
    return this.#program.layout.outputs.get(name)?.address ?? -1;
  }

  /** Where the enable of an output that can float is kept; -1 for one that cannot. */
  enableAddress(name: string): number {
    return this.#program.layout.outputs.get(name)?.enable ?? -1;
  }

  /** Where a register's value lies, and where the first word of a memory. */
  registerAddress(node: NodeId): number {
    return entry(this.#program.layout.registers, node);
  }

  memoryAddress(memory: number): number {
    return numberAt(this.#program.layout.memories, memory);
  }

  /** The state itself, in 32-bit words. Call `touched` after writing inputs, `settle` before reading outputs. */
  get words(): Int32Array {
    return this.#words;
  }

  touched(): void {
    this.#fresh = false;
    this.#isTouched = true;
  }

  hasInput(name: string): boolean {
    return this.#program.layout.inputs.has(name);
  }

  setInput(name: string, value: bigint): void {
    const input = this.#program.layout.inputs.get(name);
    if (!input) return;
    this.#write(input.address, input.width, value);
    this.touched();
  }

  getOutput(name: string): bigint {
    const output = this.#program.layout.outputs.get(name);
    if (!output) return 0n;
    this.settle();
    return this.#read(output.address, output.width);
  }

  /** Applies asynchronous resets and computes the outputs. */
  settle(): void {
    if (this.#fresh) return;
    if (this.#isFollowed || this.#hasResets) this.#follow();
    this.#bodies[OUTPUTS]?.(1);
    this.#fresh = true;
  }

  #write(address: number, width: number, value: bigint): void {
    const cut = BigInt.asUintN(width, value);
    for (let i = 0; i < limbsOf(width); i++)
      this.#words[address + i] = Number(BigInt.asIntN(32, cut >> BigInt(32 * i)));
  }

  #read(address: number, width: number): bigint {
    let value = 0n;
    for (let i = limbsOf(width) - 1; i >= 0; i--)
      value = (value << 32n) | BigInt(intAt(this.#words, address + i) >>> 0);
    return value;
  }
}

function wasmBodies(program: Program, memory: WebAssembly.Memory): Body[] {
  const module = new WebAssembly.Module(emitWasm(program.bodies));
  const { exports } = new WebAssembly.Instance(module, { env: { memory } });
  return program.bodies.map((_, i) => exports[`f${i}`] as Body);
}

/** The same for the other backend. */
const rowOf =
  (bodies: readonly Body[], row: readonly { readonly body: number; readonly times: number }[]): Body =>
  (times) => {
    for (let i = 0; i < times; i++) for (const { body, times: edges } of row) item(bodies, body)(edges);
  };

/** `program`: the bodies that these may run, where they are not their own. */
function javaScriptBodies(
  bodies: readonly ((e: Emitter) => void)[],
  words: Int32Array,
  program: readonly Body[] = [],
): Body[] {
  const all = [...program];
  const made = new Function('m', 'b', emitJavaScript(bodies))(words, all) as Body[];
  if (all.length === 0) all.push(...made);
  return made;
}
