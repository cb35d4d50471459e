import type { Expression } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { elementCount, type Shape } from './shape.ts';

/** What a pattern gives each field or element, the uppermost first; `deep` where a default is to be spread out. */
export function patternValues(
  pattern: Expression & { kind: 'pattern' },
  shape: Shape,
): { readonly value: Expression; readonly shape: Shape; readonly deep: boolean }[] {
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
  return places.map(({ name, shape: inner }, i) => {
    const part = byOrder ? pattern.parts[i] : pattern.parts.find((one) => one.key === name);
    if (part) return { value: part.value, shape: inner, deep: false };
    if (!rest) throw new GiveUp('pattern', pattern.at, `The pattern gives "${name}" no value, and has no default.`);
    return { value: rest.value, shape: inner, deep: true };
  });
}

/** Fields or elements, the uppermost first. */
export function placesOf(shape: Shape): readonly { readonly name: string; readonly shape: Shape }[] {
  if (shape.fields) return shape.fields;
  const count = elementCount(shape);
  const { element } = shape;
  if (!element)
    return Array.from({ length: shape.width }, (_, i) => ({
      name: `${i}`,
      shape: { ...shape, width: 1, left: 0, right: 0, fields: null, names: null },
    }));
  return Array.from({ length: count }, (_, i) => ({ name: `${i}`, shape: element }));
}
