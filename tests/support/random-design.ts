// Random designs: expressions of all widths and signs, registers, memories written in lanes, choices, loops and
// functions. Each is a module `d` with a clock, inputs and outputs, and no value that is unknown by itself.
import { type Chance, chanceFrom } from '../fuzz/index.ts';

export interface RandomDesign {
  readonly text: string;
  readonly inputs: readonly Named[];
  readonly outputs: readonly Named[];
}

interface Named {
  readonly name: string;
  readonly width: number;
}

interface Signal extends Named {
  readonly signed: boolean;
}

const WIDTHS = [1, 1, 2, 3, 4, 5, 7, 8, 8, 9, 13, 16, 31, 32, 33, 40, 64, 65];
const BINARY = ['+', '-', '&', '|', '^', '~^', '+', '-', '*'];
const COMPARE = ['<', '<=', '>', '>=', '==', '!=', '===', '!=='];
const UNARY = ['~', '-', '+', '!', '&', '|', '^', '~&', '~|', '~^'];

export function randomDesign(seed: number): RandomDesign {
  return new Maker(chanceFrom(seed)).design();
}

class Maker {
  readonly #chance: Chance;
  readonly #signals: Signal[] = [];
  readonly #lines: string[] = [];
  readonly #functions: { readonly name: string; readonly width: number; readonly takes: number }[] = [];
  #names = 0;

  constructor(chance: Chance) {
    this.#chance = chance;
  }

  #width(): number {
    return this.#chance.pick(WIDTHS);
  }

  #declared(kind: string, width: number, signed: boolean, name: string): string {
    return `${kind}${signed ? ' signed' : ''}${width === 1 ? '' : ` [${width - 1}:0]`} ${name}`;
  }

  #new(letter: string): Signal {
    return { name: `${letter}${this.#names++}`, width: this.#width(), signed: this.#chance.below(3) === 0 };
  }

  design(): RandomDesign {
    const inputs = Array.from({ length: 2 + this.#chance.below(3) }, () => this.#new('i'));
    this.#signals.push(...inputs);
    if (this.#chance.below(2) === 0) this.#function();
    const parts = 2 + this.#chance.below(5);
    for (let i = 0; i < parts; i++) this.#part();
    const outputs = Array.from({ length: 3 }, () => this.#new('o'));
    for (const one of outputs) this.#lines.push(`  assign ${one.name} = ${this.#expression(3)};`);
    const ports = [
      'input clk',
      ...inputs.map((one) => this.#declared('input', one.width, one.signed, one.name)),
      ...outputs.map((one) => this.#declared('output', one.width, one.signed, one.name)),
    ];
    return { text: `module d(${ports.join(', ')});\n${this.#lines.join('\n')}\nendmodule\n`, inputs, outputs };
  }

  #part(): void {
    const kinds = [this.#wire, this.#register, this.#logic, this.#memory, this.#loop, this.#lanes];
    this.#chance.pick(kinds).call(this);
  }

  #wire(): void {
    const made = this.#new('w');
    this.#lines.push(`  ${this.#declared('wire', made.width, made.signed, made.name)} = ${this.#expression(3)};`);
    this.#signals.push(made);
  }

  /** Its value before the first edge is given, so that nothing is unknown. */
  #register(): void {
    const made = this.#new('r');
    this.#lines.push(`  ${this.#declared('reg', made.width, made.signed, made.name)} = ${this.#number(made.width)};`);
    this.#signals.push(made);
    this.#lines.push(`  always @(posedge clk) begin ${this.#statement(made, '<=', 2)} end`);
  }

  /** A block is not carried out before something in it changes: an input does, at the start. */
  get #woken(): string {
    return this.#signals[0]?.name ?? '';
  }

  #logic(): void {
    const made = this.#new('c');
    this.#lines.push(`  ${this.#declared('reg', made.width, made.signed, made.name)};`);
    this.#lines.push(
      `  always @* begin ${made.name} = (${this.#expression(2)}) ^ (${this.#woken} & 0); ${this.#statement(made, '=', 2)} end`,
    );
    this.#signals.push(made);
  }

  #memory(): void {
    const word = this.#new('m');
    const read = this.#new('q');
    const bits = 2 + this.#chance.below(3);
    const depth = 2 ** bits;
    const data = `mem${word.name}`;
    this.#lines.push(
      `  ${this.#declared('reg', word.width, word.signed, data)} [0:${depth - 1}]; integer k${data};`,
      `  initial for (k${data} = 0; k${data} < ${depth}; k${data} = k${data} + 1) ${data}[k${data}] = k${data} * 3;`,
      `  wire [${bits - 1}:0] wa${data} = ${this.#expression(1)}; wire [${bits - 1}:0] ra${data} = ${this.#expression(1)};`,
      `  always @(posedge clk) if (${this.#expression(1)}) ${data}[wa${data}] <= ${this.#expression(2)};`,
      `  ${this.#declared('wire', read.width, read.signed, read.name)} = ${data}[ra${data}];`,
    );
    this.#signals.push(read);
  }

  /** One word written in pieces, by one block each. */
  #lanes(): void {
    const read = this.#new('q');
    const data = `lane${this.#names++}`;
    this.#lines.push(
      `  reg [31:0] ${data} [0:3]; integer k${data}; initial for (k${data} = 0; k${data} < 4; k${data} = k${data} + 1) ${data}[k${data}] = k${data};`,
      `  wire [1:0] wa${data} = ${this.#expression(1)}; wire [3:0] we${data} = ${this.#expression(1)};`,
    );
    for (let lane = 0; lane < 4; lane++)
      this.#lines.push(
        `  always @(posedge clk) if (we${data}[${lane}]) ${data}[wa${data}][${lane * 8 + 7}:${lane * 8}] <= ${this.#expression(1)};`,
      );
    this.#lines.push(
      `  ${this.#declared('wire', read.width, read.signed, read.name)} = ${data}[${this.#expression(0)} & 3];`,
    );
    this.#signals.push(read);
  }

  #loop(): void {
    const made = this.#new('l');
    const from = this.#chance.pick(this.#signals);
    const counter = `n${made.name}`;
    this.#lines.push(
      `  ${this.#declared('reg', made.width, made.signed, made.name)}; integer ${counter};`,
      `  always @* begin ${made.name} = ${this.#number(made.width)} ^ (${this.#woken} & 0); for (${counter} = 0; ${counter} < ${from.width}; ${counter} = ${counter} + 1) ` +
        `if (${from.width === 1 ? from.name : `${from.name}[${counter}]`}) ${made.name} = ${made.name} ${this.#chance.pick(['+', '^', '-'])} ${this.#expression(1)}; end`,
    );
    this.#signals.push(made);
  }

  #function(): void {
    const made = this.#new('f');
    const takes = this.#width();
    this.#lines.push(
      `  ${this.#declared('function', made.width, made.signed, made.name)}; input [${takes - 1}:0] v; reg [${takes - 1}:0] t; begin`,
      `    t = v ^ (v >> 1); if (t > v) ${made.name} = t + ${this.#number(4)}; else ${made.name} = ~v; end endfunction`,
    );
    this.#functions.push({ name: made.name, width: made.width, takes });
  }

  #statement(target: Signal, assign: string, depth: number): string {
    const kind = this.#chance.below(depth <= 0 ? 2 : 6);
    if (kind <= 1) return `${target.name} ${assign} ${this.#expression(2)};`;
    if (kind === 2 && target.width > 2) {
      const low = this.#chance.below(target.width - 1);
      const high = low + this.#chance.below(target.width - low);
      return `${target.name}[${high}:${low}] ${assign} ${this.#expression(2)};`;
    }
    if (kind === 3) {
      const arms = Array.from(
        { length: 3 },
        (_, i) =>
          `${this.#chance.below(2) ? '' : "4'd"}${i * 2}: begin ${this.#statement(target, assign, depth - 1)} end`,
      );
      return `case (${this.#expression(1)}) ${arms.join(' ')} default: ${target.name} ${assign} ${this.#expression(1)}; endcase`;
    }
    if (kind === 4 && target.width > 1)
      return `if (${this.#expression(1)}) ${target.name}[(${this.#expression(0)}) & ${2 ** Math.floor(Math.log2(target.width)) - 1}] ${assign} ${this.#expression(1)};`;
    return `if (${this.#expression(2)}) begin ${this.#statement(target, assign, depth - 1)} end else begin ${this.#statement(target, assign, depth - 1)} end`;
  }

  #number(width: number): string {
    const digits = Math.ceil(width / 4);
    const text = Array.from({ length: digits }, () => this.#chance.below(16).toString(16)).join('');
    return `${width}'${this.#chance.below(4) === 0 ? 's' : ''}h${text}`;
  }

  #expression(depth: number): string {
    if (depth <= 0 || this.#chance.below(7) === 0) return this.#leaf();
    const a = () => this.#expression(depth - 1);
    switch (this.#chance.below(11)) {
      case 0:
      case 1:
      case 2:
        return `(${a()} ${this.#chance.pick(BINARY)} ${a()})`;
      case 3:
        return `(${a()} ${this.#chance.pick(COMPARE)} ${a()})`;
      case 4:
        return `(${this.#chance.pick(UNARY)}(${a()}))`;
      case 5:
        return `(${a()} ? ${a()} : ${a()})`;
      case 6:
        return `{${a()}, ${a()}}`;
      case 7:
        return `(${a()} ${this.#chance.pick(['<<', '>>', '>>>', '<<<'])} ${this.#chance.below(2) ? this.#chance.below(12) : this.#leaf()})`;
      case 8:
        return `(${a()} ${this.#chance.pick(['&&', '||'])} ${a()})`;
      case 9:
        return `${this.#chance.pick(['$signed', '$unsigned'])}(${a()})`;
      default: {
        const called = this.#functions[0];
        return called
          ? `${called.name}(${a()})`
          : `(${a()} ${this.#chance.pick(['/', '%'])} ${1 + this.#chance.below(200)})`;
      }
    }
  }

  #leaf(): string {
    if (this.#chance.below(4) === 0)
      return this.#chance.below(2) ? this.#number(this.#width()) : `${this.#chance.below(300)}`;
    const one = this.#chance.pick(this.#signals);
    if (one.width > 3 && this.#chance.below(3) === 0) {
      const low = this.#chance.below(one.width - 1);
      if (this.#chance.below(2)) return `${one.name}[${low}]`;
      return `${one.name}[${low + this.#chance.below(one.width - low)}:${low}]`;
    }
    return one.name;
  }
}
