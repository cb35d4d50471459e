import type { NodeId } from '../../netlist/index.ts';
import { patternValues, placesOf, type Shape } from '../names/index.ts';
import type { Expression } from '../read/index.ts';
import { emitAssigned, type ExpressionContext } from './expressions.ts';

/** `'{...}` as a word of a structure or an array. @source IEEE 1800, assignment patterns */
export function emitPattern(
  pattern: Expression & { kind: 'pattern' },
  shape: Shape,
  context: ExpressionContext,
): NodeId {
  const words = patternValues(pattern, shape).map(({ value, shape: inner, deep }) =>
    deep ? filled(value, inner, context) : emitAssigned(value, inner, context),
  );
  return context.shared.build.concat(words.reverse());
}

/** A default goes down into every single word of a structure or array. */
function filled(value: Expression, shape: Shape, context: ExpressionContext): NodeId {
  if (!shape.fields && !shape.element) return emitAssigned(value, shape, context);
  return context.shared.build.concat(
    placesOf(shape)
      .map((place) => filled(value, place.shape, context))
      .reverse(),
  );
}
