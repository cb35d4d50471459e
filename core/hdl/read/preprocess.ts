import { item } from '../../lists.ts';
import { isNewer, type Language, languageNamed, languageOf } from './keywords.ts';
import { GiveUp, type Messages } from './message.ts';
import { MOST_TOKENS, type Token, tokenize } from './lexer.ts';

export interface SourceFile {
  readonly name: string;
  readonly text: string;
  /** Where the ending of its name does not say it: .v is Verilog, .sv SystemVerilog. */
  readonly language?: Language;
}

interface Macro {
  readonly parameters: readonly MacroParameter[] | null;
  readonly body: readonly Token[];
}

interface MacroParameter {
  readonly name: string;
  /** What stands for an argument that is not given. */
  readonly otherwise: readonly Token[] | null;
}

/** What is left of `default_nettype none` for the reader of modules. */
export const NO_IMPLICIT_NETS = '`default_nettype none';

const DEEPEST = 60;
const SKIP_LINE = new Set(['`line', '`pragma', '`default_decay_time', '`default_trireg_strength']);
/** Handed on to the reader of modules with what stands behind them on the line. */
const HANDED_ON = new Set(['`timescale', '`unconnected_drive', '`nounconnected_drive']);
const SKIP_WORD = new Set(['`celldefine', '`endcelldefine']);

/** Uses of macros in one file, an include taken as so many: what comes to few words may take long all the same. */
const MOST_STEPS = 300_000;
const STEPS_OF_INCLUDE = 5;

/**
 * Carries out compiler directives: define with arguments, undef, ifdef, ifndef, elsif, else, endif, include of files of
 * the same project. `macros` carries over from file to file, as in one compilation unit.
 *
 * @source IEEE 1364-2005, clause 19
 */
export class Preprocessor {
  #macros = new Map<string, Macro>();
  readonly #files: ReadonlyMap<string, SourceFile>;
  readonly #messages: Messages;
  #open: string[] = [];
  #language: Language = 'verilog';
  #steps = 0;

  constructor(files: readonly SourceFile[], messages: Messages) {
    this.#files = new Map(files.map((file) => [file.name, file]));
    this.#messages = messages;
  }

  /** Macros as they stand. */
  snapshot(): ReadonlyMap<string, Macro> {
    return new Map(this.#macros);
  }

  restore(macros: ReadonlyMap<string, Macro>): void {
    this.#macros = new Map(macros);
  }

  /** Macros as text, equal for equal ones. */
  describe(): string {
    return [...this.#macros]
      .map(
        ([name, { parameters, body }]) =>
          `${name}(${parameters?.map((one) => one.name).join(',') ?? '-'}) ${body.map((token) => token.text).join(' ')}`,
      )
      .join('\n');
  }

  run(file: SourceFile): Token[] {
    const out: Token[] = [];
    this.#language = file.language ?? languageOf(file.name);
    this.#file(file, out);
    return joinNumbers(out);
  }

  #file(file: SourceFile, out: Token[]): void {
    this.#open.push(file.name);
    const tokens = tokenize(file.name, file.text, this.#messages);
    this.#refuseTooLarge(tokens, tokens[0]);
    this.#tokens(tokens, out);
    this.#open.pop();
  }

  #tokens(tokens: readonly Token[], out: Token[]): void {
    this.#refuseTooLarge(out, tokens[0]);
    const conditions = new Conditions(this.#messages);
    const languages: Language[] = [];
    let i = 0;
    const restOfLine = (): Token[] => {
      const line: Token[] = [];
      for (; i < tokens.length; i++) {
        const token = item(tokens, i);
        if (token.text === '\\\n') continue;
        if (token.kind === 'newline') break;
        line.push(token);
      }
      return line;
    };
    while (i < tokens.length) {
      const token = item(tokens, i++);
      if (token.kind === 'newline') continue;
      if (token.kind !== 'directive') {
        if (conditions.active) out.push(this.#worded(token));
        continue;
      }
      switch (token.text) {
        case '`ifdef':
        case '`ifndef':
          conditions.open(token, this.#macros.has(tokens[i++]?.text ?? '') === (token.text === '`ifdef'));
          break;
        case '`elsif':
          conditions.otherwise(token, this.#macros.has(tokens[i++]?.text ?? ''));
          break;
        case '`else':
          conditions.otherwise(token, true);
          break;
        case '`endif':
          conditions.close(token);
          break;
        case '`define':
          if (conditions.active) this.#define(restOfLine());
          else restOfLine();
          break;
        case '`undef':
          if (conditions.active) this.#macros.delete(tokens[i]?.text ?? '');
          i++;
          break;
        case '`include':
          if (conditions.active) this.#include(token, tokens[i], out);
          i++;
          break;
        case '`default_nettype':
          if (conditions.active)
            out.push({ ...token, text: tokens[i]?.text === 'none' ? NO_IMPLICIT_NETS : '`default_nettype' });
          i++;
          break;
        case '`resetall':
          if (conditions.active) out.push({ ...token, text: '`default_nettype' }, { ...token, text: '`resetall' });
          break;
        case '`begin_keywords': {
          const standard = tokens[i++];
          languages.push(this.#language);
          const named = languageNamed(standard?.text.slice(1, -1) ?? '');
          if (named) this.#language = named;
          else this.#messages.error('directive', token, `${standard?.text ?? 'This'} names no standard known here.`);
          break;
        }
        case '`end_keywords':
          this.#language = languages.pop() ?? this.#language;
          break;
        default:
          if (HANDED_ON.has(token.text)) {
            const text = [token, ...restOfLine()].map((one) => one.text).join(' ');
            if (conditions.active) out.push({ ...token, text });
          } else if (SKIP_LINE.has(token.text)) restOfLine();
          else if (SKIP_WORD.has(token.text) || !conditions.active) break;
          else i = this.#expand(token, tokens, i, out, 0);
      }
    }
    conditions.end();
  }

  #define(line: Token[]): void {
    const [name, open] = line;
    if (!name) return;
    const adjoined = open?.text === '(' && open.column === name.column + name.text.length && open.line === name.line;
    if (!adjoined) {
      this.#macros.set(name.text, { parameters: null, body: line.slice(1) });
      return;
    }
    const call = readArguments(line, 1);
    const parameters = call.values.flatMap(([parameter, equals, ...otherwise]) =>
      parameter ? [{ name: parameter.text, otherwise: equals ? otherwise : null }] : [],
    );
    this.#macros.set(name.text, { parameters, body: line.slice(call.next) });
  }

  /** A word of SystemVerilog in a file that is Verilog is marked as a name. */
  #worded(token: Token): Token {
    if (this.#language !== 'verilog' || token.kind !== 'word' || token.escaped || !isNewer(token.text)) return token;
    return { ...token, escaped: true, newer: true };
  }

  #include(at: Token, name: Token | undefined, out: Token[]): void {
    const wanted = name?.text.replace(/^"|"$/g, '') ?? '';
    const file = findBeside(this.#files, wanted, at.file);
    if (!file) this.#messages.error('include', at, `The included file "${wanted}" is not among the project's files.`);
    else if (this.#open.includes(file.name))
      this.#messages.error('include', at, `"${wanted}" includes itself: ${[...this.#open, file.name].join(' > ')}.`);
    else {
      this.#refuseTooLarge(out, at, STEPS_OF_INCLUDE);
      this.#file(file, out);
    }
  }

  #refuseTooLarge(out: readonly Token[], at: Token | undefined, steps = 1): void {
    this.#steps += steps;
    if (out.length > MOST_TOKENS || this.#steps > MOST_STEPS)
      throw new GiveUp(
        'too-large',
        at ?? { file: '', line: 1, column: 1 },
        `The sources come to more than ${MOST_TOKENS} words once includes and macros are carried out.`,
      );
  }

  /**
   * Replaces a macro use that starts at `use`; returns the index after it. Expanded tokens keep the place of their use.
   */
  #expand(use: Token, tokens: readonly Token[], next: number, out: Token[], depth: number): number {
    this.#refuseTooLarge(out, use);
    if (use.text === '`__FILE__' || use.text === '`__LINE__') {
      const [kind, text] =
        use.text === '`__FILE__' ? (['string', `"${use.file}"`] as const) : (['number', `${use.line}`] as const);
      out.push({ ...use, kind, text });
      return next;
    }
    const macro = this.#macros.get(use.text.slice(1));
    if (!macro || depth > DEEPEST) {
      this.#messages.error(
        'macro',
        use,
        macro ? `The macro ${use.text} expands into itself.` : `The macro ${use.text} is not defined.`,
      );
      return next;
    }
    const given = new Map<string, readonly Token[]>();
    if (macro.parameters) {
      const call = readArguments(tokens, next);
      if (!call.closed) this.#messages.error('macro', use, `The arguments of ${use.text} are never closed by ")".`);
      next = call.next;
      for (const [k, { name, otherwise }] of macro.parameters.entries()) {
        const value = call.values[k] ?? [];
        given.set(name, value.length === 0 && otherwise ? otherwise : value);
      }
    }
    const placed = (token: Token): Token => ({ ...token, file: use.file, line: use.line, column: use.column });
    const body = joined(macro.body, given, use, this.#messages).map((token) => (token.given ? token : placed(token)));
    for (let k = 0; k < body.length; ) {
      const token = item(body, k++);
      if (token.kind === 'directive') k = this.#expand(token, body, k, out, depth + 1);
      else out.push(this.#worded(token));
    }
    return next;
  }
}

function readArguments(tokens: readonly Token[], from: number): { values: Token[][]; next: number; closed: boolean } {
  let i = from;
  while (tokens[i]?.kind === 'newline') i++;
  if (tokens[i]?.text !== '(') return { values: [], next: from, closed: true };
  const values: Token[][] = [[]];
  let depth = 1;
  for (i++; i < tokens.length; i++) {
    const token = item(tokens, i);
    if (token.kind === 'newline') continue;
    if ('([{'.includes(token.text)) depth++;
    else if (')]}'.includes(token.text) && --depth === 0) return { values, next: i + 1, closed: true };
    if (token.text === ',' && depth === 1) values.push([]);
    else values.at(-1)?.push(token);
  }
  return { values, next: i, closed: false };
}

/** A macro's body with its arguments put in, `` carried out between words and `" around text. */
function joined(
  body: readonly Token[],
  given: ReadonlyMap<string, readonly Token[]>,
  use: Token,
  messages: Messages,
): (Token & { readonly given?: boolean })[] {
  const out: (Token & { given?: boolean })[] = [];
  let text: Token[] | null = null;
  let paste = false;
  for (const token of body) {
    if (token.text === '`"') {
      if (text) out.push({ ...use, kind: 'string', text: `"${spelled(text)}"` });
      text = text ? null : [];
      continue;
    }
    if (token.text === '``') {
      paste = true;
      continue;
    }
    const argument = token.kind === 'word' ? given.get(token.text) : undefined;
    const put = argument ? argument.map((one) => ({ ...one, given: true })) : [{ ...token }];
    if (text) {
      text.push(...put);
      continue;
    }
    const before = out.at(-1);
    const [first, ...rest] = put;
    if (paste && before && first) {
      const made = tokenize(use.file, before.text + first.text, messages);
      out.splice(
        -1,
        1,
        ...made.map((one) => ({ ...one, file: use.file, line: use.line, column: use.column })),
        ...rest,
      );
    } else out.push(...put);
    paste = false;
  }
  return out;
}

/** Words as they stood, with one blank where there were any. */
function spelled(tokens: readonly Token[]): string {
  return tokens
    .map((token, i) => {
      const before = tokens[i - 1];
      const apart = before && (before.line !== token.line || before.column + before.text.length < token.column);
      return (apart ? ' ' : '') + (token.text === '`\\`"' ? '\\"' : token.text.replace(/^"|"$/g, '\\"'));
    })
    .join('');
}

/**
 * A number whose size, base or digits came from macros stands in several words: `8` `'hFF`, or `8` `'` `h` `FF`. They
 * are put together.
 *
 * @source IEEE 1364-2005, clause 3.5.1: size, base and digits may be apart
 */
function joinNumbers(tokens: readonly Token[]): Token[] {
  const out: Token[] = [];
  for (let i = 0; i < tokens.length; i++) {
    const token = item(tokens, i);
    const before = out.at(-1);
    const isSize = before?.kind === 'number' && /^[0-9][0-9_]*$/.test(before.text);
    if (token.kind === 'number' && isSize && /^'[sS]?[bBoOdDhH]/.test(token.text)) {
      out.splice(-1, 1, { ...before, text: before.text + token.text });
      continue;
    }
    const base = tokens[i + 1];
    const isBase = token.text === "'" && base?.kind === 'word' && /^[sS]?[bBoOdDhH]$/.test(base.text);
    const digits = isBase ? digitsFrom(tokens, i + 2) : [];
    if (isBase && digits.length > 0) {
      const text = `'${base.text}${digits.join('')}`;
      if (isSize) out.splice(-1, 1, { ...before, text: before.text + text });
      else out.push({ ...token, kind: 'number', text });
      i += 1 + digits.length;
      continue;
    }
    out.push(token);
  }
  return out;
}

/** The words from a place on that can be digits: of `2a` there are two. */
function digitsFrom(tokens: readonly Token[], from: number): string[] {
  const found: string[] = [];
  for (let i = from; /^[0-9a-fA-FxXzZ?_]+$/.test(tokens[i]?.text ?? ''); i++) found.push(item(tokens, i).text);
  return found;
}

/** A file that another names: beside it, then in the project as named, then wherever one of that name lies. */
export function findBeside<T>(files: ReadonlyMap<string, T>, wanted: string, from: string): T | undefined {
  const folder = from.includes('/') ? from.slice(0, from.lastIndexOf('/') + 1) : '';
  const beside = files.get(plainPath(folder + wanted)) ?? files.get(plainPath(wanted));
  if (beside !== undefined) return beside;
  const end = `/${plainPath(wanted)}`;
  for (const [name, file] of files) if (name.endsWith(end)) return file;
  return undefined;
}

/** Without `.` and `..`. */
function plainPath(path: string): string {
  const parts: string[] = [];
  for (const part of path.split('/')) {
    if (part === '..' && parts.length > 0 && parts.at(-1) !== '..') parts.pop();
    else if (part !== '.' && part !== '') parts.push(part);
  }
  return parts.join('/');
}

/** The conditions that are open, and whether what stands here is read. */
class Conditions {
  active = true;
  readonly #open: { taken: boolean; readonly outer: boolean; readonly at: Token }[] = [];
  readonly #messages: Messages;

  constructor(messages: Messages) {
    this.#messages = messages;
  }

  open(at: Token, holds: boolean): void {
    this.#open.push({ taken: holds, outer: this.active, at });
    this.active = this.active && holds;
  }

  otherwise(at: Token, holds: boolean): void {
    const top = this.#open.at(-1);
    if (!top) {
      this.#messages.error('directive', at, `${at.text} without an ifdef before it.`);
      return;
    }
    this.active = top.outer && !top.taken && holds;
    top.taken = top.taken || holds;
  }

  close(at: Token): void {
    const top = this.#open.pop();
    if (top) this.active = top.outer;
    else this.#messages.error('directive', at, '`endif without an ifdef before it.');
  }

  /** The file ends: what is still open is told. */
  end(): void {
    for (const { at } of this.#open) this.#messages.error('directive', at, `${at.text} is never closed by \`endif.`);
  }
}
