import { type JoinedText, joinTexts, lex, type Token } from './lex.ts';
import type { BsdlProblem, PortBit } from './model.ts';

/** Value of an attribute or constant as it stands in the file. */
export type Value =
  | { readonly kind: 'text'; readonly text: JoinedText }
  | { readonly kind: 'number'; readonly value: number; readonly line: number }
  | { readonly kind: 'word'; readonly text: string; readonly line: number }
  | { readonly kind: 'list'; readonly parts: readonly string[]; readonly line: number };

/** The statements of one entity, not yet understood. Names of attributes in capitals. */
export interface RawEntity {
  readonly name: string;
  readonly line: number;
  readonly generics: ReadonlyMap<string, string>;
  readonly ports: readonly Omit<PortBit, 'pin'>[];
  readonly uses: readonly string[];
  readonly attributes: readonly {
    readonly name: string;
    readonly of: string;
    readonly value: Value;
    readonly line: number;
  }[];
  readonly constants: ReadonlyMap<string, { readonly value: Value; readonly line: number }>;
}

const LARGEST_VECTOR = 100_000;
const DIRECTIONS = new Set(['in', 'out', 'inout', 'buffer', 'linkage']);

class GaveUp extends Error {
  readonly line: number;

  constructor(line: number, message: string) {
    super(message);
    this.line = line;
  }
}

/**
 * Reads the statements of the first entity of a file; null when there is none. A statement that cannot be read is
 * reported and skipped.
 */
export function parseEntity(source: string, complain: (problem: BsdlProblem) => void): RawEntity | null {
  return new Parser(lex(source, complain), complain).entity();
}

class Parser {
  readonly #tokens: readonly Token[];
  readonly #complain: (problem: BsdlProblem) => void;
  #at = 0;

  constructor(tokens: readonly Token[], complain: (problem: BsdlProblem) => void) {
    this.#tokens = tokens;
    this.#complain = complain;
  }

  entity(): RawEntity | null {
    while (!this.#ended && !this.#is('entity')) this.#at++;
    if (this.#ended) {
      this.#error(1, 'no-entity', 'There is no "entity ... is" in this file.');
      return null;
    }
    const { line } = this.#next();
    const raw = {
      name: '',
      line,
      generics: new Map<string, string>(),
      ports: [] as Omit<PortBit, 'pin'>[],
      uses: [] as string[],
      attributes: [] as RawEntity['attributes'][number][],
      constants: new Map<string, { value: Value; line: number }>(),
    };
    try {
      raw.name = this.#word('the name of the entity').text;
      this.#expect('is');
    } catch (error) {
      this.#recover(error);
    }
    for (;;) {
      if (this.#ended) {
        this.#error(this.#line, 'no-end', `The entity "${raw.name}" is never closed by "end".`);
        return raw;
      }
      if (this.#accept('end')) {
        this.#closing(raw.name);
        return raw;
      }
      try {
        this.#statement(raw);
      } catch (error) {
        this.#recover(error);
      }
    }
  }

  #closing(name: string): void {
    this.#accept('entity');
    const token = this.#peek;
    if (token?.kind === 'word') {
      this.#at++;
      if (token.text.toLowerCase() !== name.toLowerCase())
        this.#error(token.line, 'end-name', `"end ${token.text}" closes an entity named "${name}".`);
    }
    if (!this.#accept(';')) this.#error(this.#line, 'syntax', 'A ";" is missing behind "end".');
  }

  #statement(raw: {
    generics: Map<string, string>;
    ports: Omit<PortBit, 'pin'>[];
    uses: string[];
    attributes: RawEntity['attributes'][number][];
    constants: Map<string, { value: Value; line: number }>;
  }): void {
    const token = this.#next();
    switch (token.text.toLowerCase()) {
      case 'generic':
        return this.#generic(raw.generics);
      case 'port':
        return this.#ports(raw.ports);
      case 'use': {
        raw.uses.push(this.#word('a package').text);
        while (this.#accept('.')) this.#next();
        return this.#expect(';');
      }
      case 'attribute': {
        const name = this.#word('an attribute').text.toUpperCase();
        if (this.#accept(':')) {
          this.#next();
          return this.#expect(';');
        }
        this.#expect('of');
        const of = this.#word('what the attribute belongs to').text;
        this.#skipIndex();
        this.#expect(':');
        this.#word('"entity" or "signal"');
        this.#expect('is');
        const value = this.#value();
        this.#expect(';');
        raw.attributes.push({ name, of, value, line: token.line });
        return;
      }
      case 'constant': {
        const name = this.#word('the name of the constant').text.toUpperCase();
        this.#expect(':');
        this.#word('the type of the constant');
        this.#expect(':=');
        const value = this.#value();
        this.#expect(';');
        raw.constants.set(name, { value, line: token.line });
        return;
      }
      default:
        throw new GaveUp(token.line, `"${token.text}" does not begin a statement of BSDL.`);
    }
  }

  #skipIndex(): void {
    if (!this.#accept('(')) return;
    this.#next();
    this.#expect(')');
  }

  #generic(generics: Map<string, string>): void {
    this.#expect('(');
    do {
      if (this.#is(')')) break;
      const name = this.#word('the name of a generic').text.toUpperCase();
      this.#expect(':');
      this.#word('a type');
      if (this.#accept(':=')) {
        const value = this.#value();
        generics.set(name, value.kind === 'text' ? value.text.text : value.kind === 'word' ? value.text : '');
      }
    } while (this.#accept(';'));
    this.#expect(')');
    this.#expect(';');
  }

  #ports(ports: Omit<PortBit, 'pin'>[]): void {
    this.#expect('(');
    do {
      if (this.#is(')')) break;
      const names = [this.#word('the name of a port')];
      while (this.#accept(',')) names.push(this.#word('the name of a port'));
      this.#expect(':');
      const way = this.#word('a direction');
      const direction = way.text.toLowerCase();
      if (!DIRECTIONS.has(direction))
        throw new GaveUp(way.line, `"${way.text}" is no direction: in, out, inout, buffer or linkage.`);
      const type = this.#word('bit or bit_vector');
      const range = type.text.toLowerCase() === 'bit_vector' ? this.#range() : null;
      if (!range && type.text.toLowerCase() !== 'bit')
        throw new GaveUp(type.line, `A port is of type bit or bit_vector, not "${type.text}".`);
      for (const { text, line } of names) {
        const indices = range ?? [null];
        for (const index of indices)
          ports.push({
            name: index === null ? text : `${text}(${index})`,
            direction: direction as PortBit['direction'],
            line,
          });
      }
    } while (this.#accept(';'));
    this.#expect(')');
    this.#expect(';');
  }

  #range(): number[] {
    this.#expect('(');
    const first = this.#number();
    const way = this.#word('"to" or "downto"');
    const last = this.#number();
    this.#expect(')');
    const down = way.text.toLowerCase() === 'downto';
    if ((down ? first < last : first > last) || Math.abs(last - first) > LARGEST_VECTOR)
      throw new GaveUp(way.line, `The range ${first} ${way.text} ${last} is empty or far too large.`);
    return Array.from({ length: Math.abs(last - first) + 1 }, (_, i) => (down ? first - i : first + i));
  }

  #number(): number {
    const token = this.#next();
    if (token.kind !== 'number') throw new GaveUp(token.line, `A number is expected, not "${token.text}".`);
    return Number(token.text);
  }

  #value(): Value {
    const token = this.#next();
    if (token.kind === 'string') {
      const parts = [token];
      while (this.#accept('&')) {
        const more = this.#next();
        if (more.kind !== 'string') throw new GaveUp(more.line, 'Only another string can follow "&".');
        parts.push(more);
      }
      if (this.#peek?.kind === 'string') throw new GaveUp(this.#peek.line, 'An "&" is missing between two strings.');
      return { kind: 'text', text: joinTexts(parts) };
    }
    if (token.kind === 'number') return { kind: 'number', value: Number(token.text), line: token.line };
    if (token.kind === 'word') return { kind: 'word', text: token.text, line: token.line };
    if (token.text !== '(') throw new GaveUp(token.line, `A value is expected, not "${token.text}".`);
    const parts: string[] = [];
    do parts.push(this.#next().text);
    while (this.#accept(','));
    this.#expect(')');
    return { kind: 'list', parts, line: token.line };
  }

  get #ended(): boolean {
    return this.#at >= this.#tokens.length;
  }

  get #peek(): Token | undefined {
    return this.#tokens[this.#at];
  }

  get #line(): number {
    return this.#tokens[Math.min(this.#at, this.#tokens.length - 1)]?.line ?? 1;
  }

  #is(text: string): boolean {
    const token = this.#peek;
    return token !== undefined && token.kind !== 'string' && token.text.toLowerCase() === text;
  }

  #accept(text: string): boolean {
    if (!this.#is(text)) return false;
    this.#at++;
    return true;
  }

  #next(): Token {
    const token = this.#peek;
    if (!token) throw new GaveUp(this.#line, 'The file ends in the middle of a statement.');
    this.#at++;
    return token;
  }

  #expect(text: string): void {
    if (!this.#accept(text))
      throw new GaveUp(
        this.#line,
        this.#peek
          ? `"${text}" is expected before "${this.#peek.text}".`
          : `The file ends where "${text}" is expected.`,
      );
  }

  #word(what: string): Token {
    const token = this.#next();
    if (token.kind !== 'word')
      throw new GaveUp(token.line, `${what[0]?.toUpperCase()}${what.slice(1)} is expected, not "${token.text}".`);
    return token;
  }

  #recover(error: unknown): void {
    if (!(error instanceof GaveUp)) throw error;
    this.#error(error.line, 'syntax', error.message);
    while (!this.#ended && !this.#accept(';')) this.#at++;
  }

  #error(line: number, code: string, message: string): void {
    this.#complain({ severity: 'error', line, code, message });
  }
}
