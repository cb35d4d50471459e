import { item } from '../lists.ts';
import { fail, ok, type Problem, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { type Word, wordsOf } from './words.ts';

export type Comparator = '==' | '!=' | '<' | '<=' | '>' | '>=';

/** What must hold in a sample. */
export type Expression =
  | { readonly kind: 'compare'; readonly signal: Word; readonly relation: Comparator; readonly value: Word }
  | { readonly kind: 'range'; readonly signal: Word; readonly low: Word; readonly high: Word }
  | { readonly kind: 'edge'; readonly signal: Word; readonly edge: 'rises' | 'falls' | 'changes' }
  | { readonly kind: 'is'; readonly signal: Word }
  | { readonly kind: 'not'; readonly of: Expression }
  | { readonly kind: 'both' | 'either'; readonly left: Expression; readonly right: Expression };

/** One condition of a sequence. */
export interface Stage {
  readonly condition: Expression;
  /** How many samples it must hold in; `inARow` where they must follow each other. */
  readonly times: number;
  readonly inARow: boolean;
  /** Samples after the stage before; null without an end. */
  readonly within: number | null;
  /** Stage to go to when it does not come in time, from 0. */
  readonly otherwise: number;
  readonly at: number;
}

const RELATIONS: readonly string[] = ['==', '!=', '<', '<=', '>', '>='];
const EDGES: readonly string[] = ['rises', 'falls', 'changes'];
/** Words with a meaning, which no signal can be called by alone. */
const KEYWORDS: readonly string[] = [
  ...EDGES,
  'and',
  'or',
  'not',
  'in',
  'times',
  'for',
  'then',
  'within',
  'else',
  'stage',
  'whenever',
];

/**
 * A condition as a sentence:
 *
 *     gate_open rises then level > 40 and not (state in 3..5) for 10 samples within 2000 else stage 1
 *
 * Stages are joined by `then`. Each is an expression, then `N times` or `for N samples`, then `within N samples`, then
 * `else stage N` (counted from 1; without it the first). Problems name the column.
 */
export function readSentence(text: string): Result<readonly Stage[]> {
  return new Reader(text).stages();
}

/** An expression alone: what must hold in one sample, without counts or stages. */
export function readExpression(text: string): Result<Expression> {
  const sentence = readSentence(text);
  if (!sentence.ok) return sentence;
  const [only, more] = sentence.value;
  const plain = only && !more && only.times === 1 && !only.inARow && only.within === null;
  return plain ? ok(only.condition) : fail(problem('trigger-syntax'));
}

/**
 * What is looked for in a record: places where something holds, or places where it holds and what must follow from it
 * does not.
 */
interface Rule {
  readonly when: Expression;
  readonly must: Expression | null;
}

/** `state == RAISE`, or `whenever gate rises, level < 5`. Problems name the column. */
export function readRule(text: string): Result<Rule> {
  return new Reader(text).rule();
}

/** Where in the text something is wrong. */
export const wrongAt = (word: Word, code: string, message: string, ...tryNext: string[]): Problem => ({
  ...plainProblem(code, message, ...tryNext),
  place: { file: 'condition', line: 1, column: word.at + 1 },
});

const FORM = 'Write signal == value, signal rises, signal in 3..9; join with and, or, not, brackets and then.';

/** Brackets in each other. */
const DEEPEST = 100;
/** Recorders have few comparators, and what looks through a record goes down all terms at every sample. */
const MOST_WORDS = 5000;

/** Thrown to leave the descent at the first wrong word. */
class Wrong extends Error {
  readonly problem: Problem;
  constructor(found: Problem) {
    super(found.message);
    this.problem = found;
  }
}

class Reader {
  readonly #words: readonly Word[];
  #next = 0;
  #depth = 0;

  constructor(text: string) {
    this.#words = wordsOf(text);
  }

  stages(): Result<readonly Stage[]> {
    try {
      this.#checkLength();
      const stages = [this.#stage()];
      while (this.#take('then')) stages.push(this.#stage());
      const rest = this.#word;
      if (rest.kind !== 'end') this.#fail(rest, `"${rest.text}" does not belong here.`, FORM);
      for (const stage of stages)
        if (stage.otherwise >= stages.length)
          this.#fail(
            { kind: 'value', text: '', at: stage.at, end: stage.at },
            `There is no stage ${stage.otherwise + 1}; the sentence has ${stages.length}.`,
            'Name one of its stages, counted from 1.',
          );
      return ok(stages);
    } catch (error) {
      if (error instanceof Wrong) return fail(error.problem);
      throw error;
    }
  }

  rule(): Result<Rule> {
    try {
      this.#checkLength();
      const wanted = this.#take('whenever');
      const when = this.#either();
      if (wanted && !this.#take(','))
        this.#fail(
          this.#word,
          'After "whenever" and its condition come a comma and what must hold then.',
          'Write whenever gate rises, level < 5.',
        );
      const must = wanted ? this.#either() : null;
      if (this.#word.kind !== 'end') this.#fail(this.#word, `"${this.#word.text}" does not belong here.`, FORM);
      return ok({ when, must });
    } catch (error) {
      if (error instanceof Wrong) return fail(error.problem);
      throw error;
    }
  }

  get #word(): Word {
    return item(this.#words, this.#next);
  }

  #take(...texts: string[]): boolean {
    if (!texts.includes(this.#word.text)) return false;
    this.#next++;
    return true;
  }

  #fail(word: Word, message: string, ...tryNext: string[]): never {
    throw new Wrong(wrongAt(word, 'trigger-syntax', message, ...tryNext));
  }

  #stage(): Stage {
    const { at } = this.#word;
    const condition = this.#either();
    let [times, inARow, within, otherwise]: [number, boolean, number | null, number] = [1, false, null, 0];
    if (this.#word.kind === 'value') {
      times = this.#number('A count');
      if (!this.#take('times')) this.#fail(this.#word, 'After a count comes "times".', 'Write 3 times.');
    } else if (this.#take('for')) {
      times = this.#number('"for"');
      inARow = true;
      this.#take('samples', 'sample');
    }
    if (this.#take('within')) {
      within = this.#number('"within"');
      this.#take('samples', 'sample');
    }
    if (this.#take('else')) {
      if (within === null)
        this.#fail(
          this.#word,
          '"else" says what happens after "within"; there is none.',
          'Write within N samples before it.',
        );
      this.#take('stage');
      otherwise = this.#number('"else stage"') - 1;
    }
    return { condition, times, inARow, within, otherwise, at };
  }

  #number(what: string): number {
    const word = this.#word;
    const value = Number(word.text);
    if (word.kind !== 'value' || !Number.isInteger(value) || value < 1)
      this.#fail(word, `${what} takes a number of 1 or more.`, 'Write a decimal number.');
    this.#next++;
    return value;
  }

  #either(): Expression {
    let left = this.#both();
    while (this.#take('or', '||')) left = { kind: 'either', left, right: this.#both() };
    return left;
  }

  #both(): Expression {
    let left = this.#one();
    while (this.#take('and', '&&')) left = { kind: 'both', left, right: this.#one() };
    return left;
  }

  #checkLength(): void {
    if (this.#words.length > MOST_WORDS)
      this.#fail(item(this.#words, MOST_WORDS), `The sentence has more than ${MOST_WORDS} words.`, 'Write it shorter.');
  }

  /** What stands in a bracket, or behind a `not`. */
  #inside<T>(read: () => T): T {
    if (++this.#depth > DEEPEST)
      this.#fail(
        this.#word,
        `More than ${DEEPEST} brackets stand in each other.`,
        'Write it flatter, with and and or.',
      );
    const found = read();
    this.#depth--;
    return found;
  }

  #one(): Expression {
    if (this.#take('not', '!')) return { kind: 'not', of: this.#inside(() => this.#one()) };
    if (this.#take('(')) {
      const inside = this.#inside(() => this.#either());
      if (!this.#take(')')) this.#fail(this.#word, 'A bracket is not closed.', 'Write ) behind what it holds.');
      return inside;
    }
    const signal = this.#word;
    if (signal.kind !== 'name' || KEYWORDS.includes(signal.text))
      this.#fail(
        signal,
        signal.kind === 'end' ? 'The condition ends too early.' : `"${signal.text}" is no signal.`,
        FORM,
      );
    this.#next++;
    const sign = this.#word;
    if (RELATIONS.includes(sign.text)) {
      this.#next++;
      return { kind: 'compare', signal, relation: sign.text as Comparator, value: this.#value() };
    }
    if (EDGES.includes(sign.text)) {
      this.#next++;
      return { kind: 'edge', signal, edge: sign.text as 'rises' | 'falls' | 'changes' };
    }
    if (this.#take('in')) {
      const low = this.#value();
      if (!this.#take('..')) this.#fail(this.#word, 'A range has two ends.', 'Write signal in 3..9.');
      return { kind: 'range', signal, low, high: this.#value() };
    }
    return { kind: 'is', signal };
  }

  #value(): Word {
    const word = this.#word;
    if (word.kind !== 'value' && word.kind !== 'name')
      this.#fail(
        word,
        word.kind === 'end' ? 'A value is missing.' : `"${word.text}" is no value.`,
        "Write a decimal number, 0x1f, 0b01x1, 4'h0F or the name of a value.",
      );
    this.#next++;
    return word;
  }
}
