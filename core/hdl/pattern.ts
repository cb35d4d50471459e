import type { NodeId } from '../netlist/index.ts';
import type { Expression } from './ast.ts';
import { emitAssigned, type ExpressionContext } from './expressions.ts';
import { GiveUp } from './message.ts';
import { elementCount, type Shape } from './shape.ts';

type Pattern = Expression & { readonly kind: 'pattern' };

/** `'{...}` as a word of a structure or an array. @source IEEE 1800, assignment patterns */
export function emitPattern(pattern: Pattern, shape: Shape, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const places = placesOf(shape);
  const byOrder = pattern.parts.every((part) => part.key === null);
  if (byOrder && pattern.parts.length !== places.length)
    throw new GiveUp(
      'pattern',
      pattern.at,
      `The pattern has ${pattern.parts.length} values for ${places.length} ${shape.fields ? 'fields' : 'elements'}.`,
    );
  const stray = pattern.parts.find(
    (part) => part.key !== null && part.key !== 'default' && !places.some((place) => place.name === part.key),
  );
  if (stray) throw new GiveUp('no-field', pattern.at, `The structure has no field "${stray.key}".`);
  const rest = pattern.parts.find((part) => part.key === 'default');
  const words = places.map(({ name, shape: inner }, i) => {
    const part = byOrder ? pattern.parts[i] : pattern.parts.find((p) => p.key === name);
    if (part) return emitAssigned(part.value, inner, context);
    if (!rest) throw new GiveUp('pattern', pattern.at, `The pattern gives "${name}" no value, and has no default.`);
    return filled(rest.value, inner, context);
  });
  return build.concat(words.reverse());
}

/** Fields or elements, the uppermost first. */
function placesOf(shape: Shape): readonly { readonly name: string; readonly shape: Shape }[] {
  if (shape.fields) return shape.fields;
  const count = elementCount(shape);
  const element = shape.element;
  if (!element)
    return Array.from({ length: shape.width }, (_, i) => ({
      name: `${i}`,
      shape: { ...shape, width: 1, left: 0, right: 0, fields: null, names: null },
    }));
  return Array.from({ length: count }, (_, i) => ({ name: `${i}`, shape: element }));
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
