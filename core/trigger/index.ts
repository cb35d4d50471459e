// The trigger language: a sentence about the signals of a recorder, read and turned into the settings of its
// comparators and stages. Knows nothing of how those reach the hardware. docs/formats.md, section 13.
export { type CompiledCondition, compileCondition, compileStepCondition } from './condition.ts';
export {
  emptyStage,
  emptyTerm,
  FORM_RELATIONS,
  type FormStage,
  type FormTerm,
  formOf,
  sentenceOf,
  takesValue,
} from './form.ts';
export { type Expression, readExpression, readRule, wrongAt } from './sentence.ts';
export { parseValue } from './value.ts';
export type { Word } from './words.ts';
