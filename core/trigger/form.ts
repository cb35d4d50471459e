import { type Comparator, type Expression, readSentence, type Stage } from './sentence.ts';

/** One comparison as fields. `value` is as written; for `in` it is `low..high`, for edges and bare signals empty. */
export interface FormTerm {
  readonly not: boolean;
  readonly signal: string;
  readonly relation: Comparator | 'in' | 'rises' | 'falls' | 'changes' | 'is 1';
  readonly value: string;
}

/** One stage as fields: comparisons joined by one word. */
export interface FormStage {
  readonly terms: readonly FormTerm[];
  readonly join: 'and' | 'or';
  readonly times: number;
  readonly inARow: boolean;
  readonly within: number | null;
  /** Stage to go to when it does not come in time, from 0. */
  readonly otherwise: number;
}

export const FORM_RELATIONS: readonly FormTerm['relation'][] = [
  '==',
  '!=',
  '<',
  '<=',
  '>',
  '>=',
  'in',
  'rises',
  'falls',
  'changes',
  'is 1',
];

/** Whether a relation takes a value. */
export const takesValue = (relation: FormTerm['relation']): boolean =>
  !['rises', 'falls', 'changes', 'is 1'].includes(relation);

export const emptyTerm = (signal: string): FormTerm => ({ not: false, signal, relation: '==', value: '1' });

export const emptyStage = (signal: string): FormStage => ({
  terms: [emptyTerm(signal)],
  join: 'and',
  times: 1,
  inARow: false,
  within: null,
  otherwise: 0,
});

/** The same condition as a sentence. */
export const sentenceOf = (stages: readonly FormStage[]): string => stages.map(stageText).join(' then ');

function stageText({ terms, join, times, inARow, within, otherwise }: FormStage): string {
  const condition = terms.map(termText).join(` ${join} `);
  const count = inARow ? ` for ${times} samples` : times > 1 ? ` ${times} times` : '';
  const end = within === null ? '' : ` within ${within} samples${otherwise > 0 ? ` else stage ${otherwise + 1}` : ''}`;
  return `${condition}${count}${end}`;
}

function termText({ not, signal, relation, value }: FormTerm): string {
  const text =
    relation === 'is 1' ? signal : takesValue(relation) ? `${signal} ${relation} ${value}` : `${signal} ${relation}`;
  if (!not) return text;
  return relation === 'is 1' ? `not ${text}` : `not (${text})`;
}

/**
 * A sentence as fields; null when it does not parse, or has brackets or joins that the fields cannot show. An empty one
 * has no stages.
 */
export function formOf(text: string): readonly FormStage[] | null {
  if (text.trim() === '') return [];
  const sentence = readSentence(text);
  if (!sentence.ok) return null;
  const stages = sentence.value.map(stageOf);
  return stages.some((stage) => stage === null) ? null : (stages as FormStage[]);
}

function stageOf({ condition, times, inARow, within, otherwise }: Stage): FormStage | null {
  const join = condition.kind === 'either' ? 'or' : 'and';
  const terms: FormTerm[] = [];
  const take = (expression: Expression): boolean => {
    if (expression.kind === 'both' || expression.kind === 'either')
      return (expression.kind === 'both') === (join === 'and') && take(expression.left) && take(expression.right);
    const term = expression.kind === 'not' ? termOf(expression.of, true) : termOf(expression, false);
    if (term) terms.push(term);
    return term !== null;
  };
  return take(condition) ? { terms, join, times, inARow, within, otherwise } : null;
}

function termOf(expression: Expression, not: boolean): FormTerm | null {
  switch (expression.kind) {
    case 'compare':
      return { not, signal: expression.signal.text, relation: expression.relation, value: expression.value.text };
    case 'range':
      return {
        not,
        signal: expression.signal.text,
        relation: 'in',
        value: `${expression.low.text}..${expression.high.text}`,
      };
    case 'edge':
      return { not, signal: expression.signal.text, relation: expression.edge, value: '' };
    case 'is':
      return { not, signal: expression.signal.text, relation: 'is 1', value: '' };
    default:
      return null;
  }
}
