import { type Expression, type Shape, typeOf } from '../../hdl/index.ts';
import { asWord, type Operand } from './code.ts';
import type { Context } from './context.ts';
import { referenceOf } from './context.ts';

interface Emitters {
  readonly emitSelf: (expression: Expression, context: Context) => Operand;
  readonly emitReal: (expression: Expression, context: Context) => string;
  readonly asText: (expression: Expression, context: Context) => Operand;
  readonly emitFor: (expression: Expression, shape: Shape, context: Context) => Operand;
}

/**
 * The arguments of `$display` and its like as a list of what each is: a text that may be a format, a word with width
 * and sign, a real number, or nothing.
 */
export function emitArguments(values: readonly Expression[], context: Context, emitters: Emitters): string {
  const { evaluation, shared } = context;
  const all = values.map((value) => {
    if (value.kind === 'nothing') return 'null';
    if (value.kind === 'string') return `{ kind: 'text', text: ${JSON.stringify(value.text)}, literal: true }`;
    const reference = value.kind === 'name' ? referenceOf(value, context) : null;
    if (reference?.cell.kind === 'event') return 'null';
    const type = typeOf(value, evaluation);
    if (type.special === 'real') return `{ kind: 'real', real: ${emitters.emitReal(value, context)} }`;
    if (type.special === 'text') return `{ kind: 'text', text: ${emitters.asText(value, context).v}, literal: false }`;
    const word = emitters.emitSelf(value, context);
    const isTime = value.kind === 'call' && value.name === '$time';
    return `{ kind: 'word', word: ${asWord(word)}, width: ${type.width}, signed: ${type.signed}${isTime ? ', isTime: true' : ''} }`;
  });
  const scope = shared.constants.push({
    path: evaluation.scope.path,
    unit: shared.timeOf(evaluation.scope).unit,
  });
  return `C[${scope - 1}], [${all.join(', ')}]`;
}
