import { item } from '../lists.ts';
import { GiveUp, type Messages } from './message.ts';
import { MOST_TOKENS, type Token, tokenize } from './lexer.ts';

export interface SourceFile {
  readonly name: string;
  readonly text: string;
}

interface Macro {
  readonly parameters: readonly string[] | null;
  readonly body: readonly Token[];
}

/** What is left of `default_nettype none` for the reader of modules. */
export const NO_IMPLICIT_NETS = '`default_nettype none';

const DEEPEST = 60;
const SKIP_LINE = new Set(['`timescale', '`line', '`pragma']);
const SKIP_WORD = new Set(['`celldefine', '`endcelldefine']);

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
          `${name}(${parameters?.join(',') ?? '-'}) ${body.map((token) => token.text).join(' ')}`,
      )
      .join('\n');
  }

  run(file: SourceFile): Token[] {
    const out: Token[] = [];
    this.#file(file, out);
    return out;
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
        if (conditions.active) out.push(token);
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
          if (conditions.active) out.push({ ...token, text: '`default_nettype' });
          break;
        default:
          if (SKIP_LINE.has(token.text)) restOfLine();
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
    const close = line.findIndex((token) => token.text === ')');
    const parameters = line.slice(2, close).filter((token) => token.kind === 'word');
    this.#macros.set(name.text, { parameters: parameters.map((p) => p.text), body: line.slice(close + 1) });
  }

  #include(at: Token, name: Token | undefined, out: Token[]): void {
    const wanted = name?.text.replace(/^"|"$/g, '') ?? '';
    const file = this.#files.get(wanted) ?? [...this.#files.values()].find((f) => f.name.endsWith(`/${wanted}`));
    if (!file) this.#messages.error('include', at, `The included file "${wanted}" is not among the project's files.`);
    else if (this.#open.includes(file.name))
      this.#messages.error('include', at, `"${wanted}" includes itself: ${[...this.#open, file.name].join(' > ')}.`);
    else this.#file(file, out);
  }

  #refuseTooLarge(out: readonly Token[], at: Token | undefined): void {
    if (out.length > MOST_TOKENS)
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
      for (const [k, parameter] of macro.parameters.entries()) given.set(parameter, call.values[k] ?? []);
    }
    const body = macro.body.flatMap(
      (token) => given.get(token.text) ?? [{ ...token, file: use.file, line: use.line, column: use.column }],
    );
    for (let k = 0; k < body.length; ) {
      const token = item(body, k++);
      if (token.kind === 'directive') k = this.#expand(token, body, k, out, depth + 1);
      else out.push(token);
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
