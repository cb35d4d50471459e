/**
 * How the bits of a word are divided. `left` and `right` are the bounds as written; `element` is what lies between two
 * indexes, null for single bits; `fields` are those of a packed structure. A structure's first field lies uppermost.
 */
export interface Shape {
  readonly width: number;
  readonly signed: boolean;
  readonly left: number;
  readonly right: number;
  readonly element: Shape | null;
  readonly fields: readonly Field[] | null;
  /** Names of an enum's values. */
  readonly names: ReadonlyMap<bigint, string> | null;
  /** Its last range stands behind the name: an array, no number. */
  readonly unpacked?: boolean;
  /** No bits at all: a real number, a text, a named event. */
  readonly special?: 'real' | 'text' | 'event';
  /** Has no x and z. */
  readonly twoState?: boolean;
}

/** `lo` is the place of the field's lowest bit. */
interface Field {
  readonly name: string;
  readonly lo: number;
  readonly shape: Shape;
}

export const bitsShape = (width: number, signed = false, left = width - 1, right = 0): Shape => ({
  width,
  signed,
  left,
  right,
  element: null,
  fields: null,
  names: null,
});

export const arrayShape = (element: Shape, left: number, right: number): Shape => ({
  ...bitsShape(element.width * (Math.abs(left - right) + 1), false, left, right),
  element,
});

/**
 * Fields in the order they are written. @source IEEE 1800, packed structures: the first field is the most significant
 */
export function structShape(
  fields: readonly { readonly name: string; readonly shape: Shape }[],
  signed: boolean,
): Shape {
  const width = fields.reduce((sum, { shape }) => sum + shape.width, 0);
  let at = width;
  const placed = fields.map(({ name, shape }) => ({ name, shape, lo: (at -= shape.width) }));
  return { ...bitsShape(width, signed), fields: placed };
}

export const elementCount = (shape: Shape): number => Math.abs(shape.left - shape.right) + 1;

export const elementWidth = (shape: Shape): number => shape.element?.width ?? 1;

/** Number of the element that an index of the source names, counted from the lowest; may lie outside. */
export const elementAt = ({ left, right }: Shape, index: number): number =>
  left >= right ? index - right : right - index;

/** What one index gives. */
export const elementOf = (shape: Shape): Shape => shape.element ?? bitsShape(1);
