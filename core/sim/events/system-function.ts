import { item } from '../../lists.ts';
import { type Expression, GiveUp, mathFunction, type Shape, typeOf } from '../../hdl/index.ts';
import { asNumber, asWord, type Code, fromWord, narrow, type Operand } from './code.ts';
import { type Context, innerShape, referenceOf } from './context.ts';
import { emitArguments } from './system-arguments.ts';

/** The rest of expressions, handed in. */
interface Emitters {
  readonly emitSelf: (expression: Expression, context: Context) => Operand;
  readonly emitReal: (expression: Expression, context: Context) => string;
  readonly asText: (expression: Expression, context: Context) => Operand;
  readonly emitFor: (expression: Expression, shape: Shape, context: Context) => Operand;
}

const real = (v: string): Operand => ({ kind: 'real', v, x: '0', width: 64 });
const integer = (code: Code, text: string): Operand => narrow(code.held(`(${text}) | 0`), '0', 32);

/** What the simulation itself answers. @source IEEE 1364-2005, clause 17 */
export function emitSystemFunction(
  expression: Expression & { kind: 'call' },
  context: Context,
  emitters: Emitters,
): Operand {
  const { code, shared, evaluation } = context;
  const { name, at, arguments: values } = expression;
  const { unit } = shared.timeOf(evaluation.scope);
  const value = (i: number): Expression => {
    const found = values[i];
    if (!found) throw new GiveUp('arguments', at, `${name} takes more arguments.`);
    return found;
  };
  switch (name) {
    case '$time':
      return fromWord(code, `K.timeWord(${unit})`, 64);
    case '$stime':
      return integer(code, `Number(K.timeWord(${unit}).v & 0xffffffffn)`);
    case '$realtime':
      return real(code.held(`K.realTime(${unit})`));
    case '$rtoi':
      return integer(code, `Math.trunc(${emitters.emitReal(value(0), context)})`);
    case '$itor':
      return real(emitters.emitReal(value(0), context));
    case '$realtobits':
      return fromWord(code, `K.bitsOfReal(${emitters.emitReal(value(0), context)})`, 64);
    case '$bitstoreal':
      return real(code.held(`K.realOfBits(${asWord(emitters.emitSelf(value(0), context))})`));
    case '$countones':
      return integer(code, `K.ones(${asWord(emitters.emitSelf(value(0), context))})`);
    case '$onehot':
    case '$onehot0': {
      const count = `K.ones(${asWord(emitters.emitSelf(value(0), context))})`;
      return narrow(code.held(`${count} ${name === '$onehot' ? '===' : '<='} 1 ? 1 : 0`), '0', 1);
    }
    case '$isunknown': {
      const word = emitters.emitSelf(value(0), context);
      return narrow(code.held(`${word.x} ${word.kind === 'wide' ? '!== 0n' : '!== 0'} ? 1 : 0`), '0', 1);
    }
    case '$sformatf':
      return { kind: 'text', v: code.held(`K.format(${emitArguments(values, context, emitters)})`), x: '0', width: 64 };
    default:
  }
  if (mathFunction(name, [1, 1]) !== null)
    return real(
      code.held(
        `K.math(${[JSON.stringify(name), ...values.map((one) => emitters.emitReal(one, context))].join(', ')})`,
      ),
    );
  if (/^\$(u?random|dist_)/.test(name)) return emitRandom(expression, context, emitters);
  if (name === '$test$plusargs') return integer(code, `K.plusarg(${emitters.asText(value(0), context).v})`);
  if (name === '$value$plusargs')
    return integer(code, `K.plusargValue(${emitters.asText(value(0), context).v}, ${emitStore(value(1), context)})`);
  return emitFileFunction(expression, context, emitters);
}

/** A seed is read and written back. @source IEEE 1364-2005, clause 17.9 */
function emitRandom(expression: Expression & { kind: 'call' }, context: Context, emitters: Emitters): Operand {
  const { code, evaluation } = context;
  const { name, arguments: values } = expression;
  const numbers = (from: number) =>
    values.slice(from).map((one) => {
      const { signed } = typeOf(one, evaluation);
      return asNumber(emitters.emitSelf(one, context), signed);
    });
  if (name === '$urandom' && values.length === 0) return integer(code, 'K.urandom()');
  if (name === '$urandom_range') return integer(code, `K.urandomRange(${numbers(0).join(', ')})`);
  const [seed] = values;
  if (!seed) return integer(code, `K.random(${JSON.stringify(name)}, null, null, [])`);
  const now = asNumber(emitters.emitSelf(seed, context), true);
  return integer(
    code,
    `K.random(${JSON.stringify(name)}, ${now}, ${emitStore(seed, context)}, [${numbers(1).join(', ')}])`,
  );
}

function emitFileFunction(expression: Expression & { kind: 'call' }, context: Context, emitters: Emitters): Operand {
  const { code } = context;
  const { name, at, arguments: values } = expression;
  const [first, second] = values;
  if (!first) throw new GiveUp('arguments', at, `${name} takes an argument.`);
  const file = () => asNumber(emitters.emitSelf(first, context), false);
  const textOf = (one: Expression | undefined) => (one ? emitters.asText(one, context).v : '""');
  switch (name) {
    case '$fopen':
      return integer(code, `K.files.open(${textOf(first)}, ${second ? textOf(second) : 'null'})`);
    case '$fgetc':
      return integer(code, `K.files.getCharacter(${file()})`);
    case '$ungetc':
      return integer(
        code,
        `K.files.putBack(${asNumber(emitters.emitSelf(item(values, 1), context), true)}, ${asNumber(emitters.emitSelf(first, context), true)})`,
      );
    case '$feof':
      return integer(code, `K.files.atEnd(${file()})`);
    case '$ftell':
      return integer(code, `K.files.tell(${file()})`);
    case '$rewind':
      return integer(code, `K.files.seek(${file()}, 0, 0)`);
    case '$fseek': {
      const [, offset, operation] = values.map((one) => asNumber(emitters.emitSelf(one, context), true));
      return integer(code, `K.files.seek(${file()}, ${offset}, ${operation})`);
    }
    case '$ferror':
      return integer(code, '0');
    case '$fgets': {
      if (!second) throw new GiveUp('arguments', at, '$fgets takes a variable and a file.');
      const from = asNumber(emitters.emitSelf(second, context), false);
      return integer(code, `K.getLine(${from}, ${widthOf(first, context)}, ${emitStore(first, context)})`);
    }
    case '$fscanf':
    case '$sscanf': {
      const source = name === '$fscanf' ? `K.fileSource(${file()})` : `K.textSource(${textOf(first)})`;
      const stores = values.slice(2).map((one) => emitStore(one, context));
      return integer(code, `K.scan(${source}, ${textOf(second)}, [${stores.join(', ')}])`);
    }
    default:
      throw new GiveUp('system-function', at, `${name} is not known here.`);
  }
}

function widthOf(target: Expression, context: Context): number {
  const reference = referenceOf(target, context);
  return reference ? innerShape(reference, context).width : 64;
}

/** A function that writes a word, a number or a text to a target. The target's shape goes with it. */
function emitStore(target: Expression, context: Context): string {
  const reference = referenceOf(target, context);
  if (!reference) throw new GiveUp('target', target.at, 'A variable is wanted here.');
  const shape = innerShape(reference, context);
  const kind = shape.special ?? (shape.width <= 32 ? 'narrow' : 'wide');
  return `{ kind: "${kind}", width: ${shape.width}, signed: ${shape.signed}, put: ${context.shared.store(target, context)} }`;
}
