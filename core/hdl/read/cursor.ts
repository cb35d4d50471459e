import type { Place } from '../../result.ts';
import type { DataType, Module, Timescale } from './ast.ts';
import type { Token } from './lexer.ts';
import { GiveUp, type Messages } from './message.ts';

const DEEPEST = 400;
/** Words before a mistake among which the one may be that is none in this standard. */
const LOOKED_BACK = 4;
const NOWHERE: Place = { file: '', line: 1, column: 1 };

/** A type where an expression may stand as well; null where there is none. */
type TypeHere = (cursor: Cursor, inQuery: boolean) => DataType | null;

/** A place in a token stream, with the few questions a recursive-descent parser asks. */
export class Cursor {
  readonly #tokens: readonly Token[];
  readonly messages: Messages;
  /** Names that typedefs have made so far; they tell a declaration from an instance. */
  readonly types: Set<string>;
  /** What directives have said so far. */
  readonly told: Told = { implicitNets: true, timescale: null, unconnected: 'z' };
  #at = 0;
  #depth = 0;

  /** Reads a type that stands where an expression may: types hold expressions, and expressions types. */
  readonly typeHere: TypeHere;

  constructor(tokens: readonly Token[], messages: Messages, typeHere: TypeHere, types: Set<string> = new Set()) {
    this.typeHere = typeHere;
    this.types = types;
    this.#tokens = tokens;
    this.messages = messages;
  }

  get token(): Token {
    return this.#tokens[this.#at] ?? { ...(this.#tokens.at(-1) ?? NOWHERE), kind: 'end', text: '', escaped: false };
  }

  ahead(count: number): Token | undefined {
    return this.#tokens[this.#at + count];
  }

  next(): Token {
    const token = this.token;
    if (this.#at < this.#tokens.length) this.#at++;
    return token;
  }

  /** Words read so far. */
  get position(): number {
    return this.#at;
  }

  get ended(): boolean {
    return this.#at >= this.#tokens.length;
  }

  is(text: string): boolean {
    const token = this.token;
    return token.text === text && token.kind !== 'string' && !token.escaped;
  }

  isAny(texts: ReadonlySet<string>): boolean {
    return texts.has(this.token.text) && !this.token.escaped;
  }

  /** A word that an assignment or a part follows is a name, whatever else it could mean. */
  get isAssigned(): boolean {
    return /^(=|<=|\[|\.)$/.test(this.ahead(1)?.text ?? '');
  }

  /** Takes the token if it is this one. */
  accept(text: string): boolean {
    if (!this.is(text)) return false;
    this.next();
    return true;
  }

  expect(text: string, after: string): Token {
    if (this.is(text)) return this.next();
    throw this.unexpected(`"${text}" ${after}`);
  }

  name(what: string): Token {
    if (this.token.kind === 'word' && (this.token.escaped || !KEYWORDS.has(this.token.text))) return this.next();
    throw this.unexpected(what);
  }

  /**
   * Reads something that may hold its like: keeps the reader, and whatever later walks its tree, clear of the end of
   * the call stack.
   */
  nested<T>(read: () => T): T {
    if (this.#depth >= DEEPEST)
      throw new GiveUp('too-deep', this.token, `This is nested more than ${DEEPEST} levels deep.`);
    this.#depth++;
    try {
      return read();
    } finally {
      this.#depth--;
    }
  }

  /** Passes over `(* ... *)`; `keep` holds a net against optimisation unless it is given as 0 or "false". */
  attributes(): { readonly keep: boolean } {
    let keep = false;
    while (this.accept('(*')) {
      while (!this.ended && !this.accept('*)')) {
        const name = this.next().text;
        if (name !== 'keep') continue;
        const value = this.accept('=') ? this.next().text : '1';
        keep = !/^("?(0|false|no)"?|1'b0)$/i.test(value);
      }
    }
    return { keep };
  }

  wrong(at: Place, message: string): GiveUp {
    return new GiveUp('syntax', at, message);
  }

  unexpected(wanted: string): GiveUp {
    const { token } = this;
    const found = token.kind === 'end' ? 'the end of the file' : `"${token.text}"`;
    const line = this.#tokens.slice(Math.max(0, this.#at - LOOKED_BACK), this.#at + 1);
    const newer = line.find((one) => one.newer && one.line === token.line);
    const hint = newer
      ? ` "${newer.text}" is a word of SystemVerilog and only a name in a file that is Verilog: call the file .sv, or ` +
        'say in the project that it is SystemVerilog.'
      : '';
    return new GiveUp('syntax', token, `Expected ${wanted}, found ${found}.${hint}`);
  }

  /** Skips to just behind the next `;` outside a block, or to one of the given words. */
  recover(stops: ReadonlySet<string>): void {
    while (!this.ended && !this.isAny(stops)) if (this.next().text === ';') return;
  }
}

/** What directives between the modules say of those that follow. */
interface Told {
  implicitNets: boolean;
  timescale: Timescale | null;
  unconnected: Module['unconnected'];
}

const KEYWORDS = new Set(
  `always and assign automatic begin buf bufif0 bufif1 case casex casez cell cmos config deassign default defparam
  design disable edge else end endcase endconfig endfunction endgenerate endmodule endprimitive endspecify endtable
  endtask event for force forever fork function generate genvar if ifnone incdir include initial inout input
  instance integer join large liblist library localparam macromodule medium module nand negedge nmos nor
  noshowcancelled not notif0 notif1 or output parameter pmos posedge primitive pull0 pull1 pulldown pullup real
  realtime reg release repeat rnmos rpmos rtran scalared signed small specify specparam strong0 strong1 supply0
  supply1 table task time tran tri tri0 tri1 triand trior trireg unsigned use vectored wait wand weak0 weak1 while
  wire wor xnor xor always_ff always_comb always_latch logic enum struct typedef endpackage join_any join_none`
    .trim()
    .split(/\s+/),
);
