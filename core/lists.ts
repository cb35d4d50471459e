// Looking into lists where the place is known to be there. Every other look-up says what it does when there is nothing.
// (`at` is what places are called here, so no function has that name.)

/** A place was looked up that is not there: a fault of the program, told apart from a stack or a number too large. */
export class PlaceError extends RangeError {}

const outside = (list: ArrayLike<unknown>, index: number): never => {
  throw new PlaceError(`place ${index} of ${list.length}`);
};

/**
 * What stands at a place that the caller knows to exist; a place outside is a fault of the program and throws
 * `PlaceError`, so that it cannot go on as `undefined`.
 */
export function item<T>(list: ArrayLike<T>, index: number): T {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}

/** The last of a list that is not empty. */
export const last = <T>(list: ArrayLike<T>): T => item(list, list.length - 1);

/** What a map holds for a key that the caller knows to be in it; another key is a fault of the program and throws. */
export function entry<K, V>(map: ReadonlyMap<K, V>, key: K): V {
  const found = map.get(key);
  if (found === undefined) throw new PlaceError(`nothing for ${String(key)} among ${map.size}`);
  return found;
}

/**
 * What a table says under a name that somebody gave. Every object answers to `constructor` and a few more, which are in
 * no table.
 */
export const own = <T>(table: Readonly<Record<string, T>> | undefined, name: string): T | undefined =>
  table !== undefined && Object.hasOwn(table, name) ? table[name] : undefined;

// The same for inner loops, one for each kind of list: a function that has seen many kinds of lists takes twenty times
// as long for a load, one that has seen a single kind takes no longer than the load alone.

export function byteAt(list: Uint8Array, index: number): number {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}

export function wordAt(list: Uint32Array, index: number): number {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}

export function intAt(list: Int32Array, index: number): number {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}

export function floatAt(list: Float64Array, index: number): number {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}

export function numberAt(list: readonly number[], index: number): number {
  const found = list[index];
  return found === undefined ? outside(list, index) : found;
}
