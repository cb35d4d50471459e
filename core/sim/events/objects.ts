import type { MemoryArray, Shape, Vector } from '../../hdl/index.ts';
import { bitsShape, four, type Word } from '../../hdl/index.ts';

/** How a value is held: narrow in 32 bits, wide as big integers, or without bits. */
export type Kind = 'narrow' | 'wide' | 'real' | 'text' | 'event';

/** A declared thing that holds a value while the design runs. */
export interface Cell {
  readonly id: number;
  readonly kind: Kind;
  readonly path: string;
  readonly width: number;
  readonly signed: boolean;
  readonly twoState: boolean;
  readonly isNet: boolean;
  readonly shape: Shape;
  /** Bounds of the ranges behind its name; none for a single word. */
  readonly dimensions: readonly Dimension[];
  /** Words in all. */
  readonly depth: number;
}

interface Dimension {
  readonly left: number;
  readonly right: number;
}

/** Of an array: values of its words by address, the lowest index of each range first. */
export interface Bank {
  readonly v: Int32Array | bigint[] | number[] | string[];
  readonly x: Int32Array | bigint[];
}

/** The last range behind the name of an array that is one vector of words, taken apart. */
function dimensionsOf(shape: Shape): { readonly dimensions: Dimension[]; readonly word: Shape } {
  const dimensions: Dimension[] = [];
  let word = shape;
  while (word.unpacked) {
    dimensions.push({ left: word.left, right: word.right });
    word = word.element ?? bitsShape(1);
  }
  return { dimensions, word };
}

/** All cells of a simulation. Vectors that are one net, such as a port and what is connected to it, share a cell. */
export class Objects {
  readonly cells: Cell[] = [];
  readonly #cells = new Map<Vector | MemoryArray, Cell>();
  readonly #same = new Map<Vector, Vector>();

  /** From now on `port` is another name of `net`. */
  join(port: Vector, net: Vector): void {
    this.#same.set(port, net);
  }

  #root(vector: Vector): Vector {
    let at = vector;
    for (let up = this.#same.get(at); up; up = this.#same.get(at)) at = up;
    return at;
  }

  /** The cell of a vector or a memory; made when it is first asked for. */
  of(thing: Vector | MemoryArray): Cell {
    const root = thing.kind === 'vector' ? this.#root(thing) : thing;
    const known = this.#cells.get(root);
    if (known) return known;
    const made = this.#make(root);
    this.#cells.set(root, made);
    return made;
  }

  has(thing: Vector | MemoryArray): boolean {
    return this.#cells.has(thing.kind === 'vector' ? this.#root(thing) : thing);
  }

  #make(thing: Vector | MemoryArray): Cell {
    const { dimensions, word } =
      thing.kind === 'memory' ? { dimensions: [...thing.dimensions], word: thing.shape } : dimensionsOf(thing.shape);
    const depth = dimensions.reduce((product, { left, right }) => product * (Math.abs(left - right) + 1), 1);
    return this.add({
      path: thing.path,
      width: word.width,
      signed: word.signed,
      shape: word,
      kind: word.special ?? (word.width <= 32 ? 'narrow' : 'wide'),
      twoState: word.twoState ?? false,
      isNet: thing.kind === 'vector' && thing.net === 'wire',
      dimensions,
      depth,
    });
  }

  /** A cell that no name stands for, such as what one of several drivers of a net says. */
  add(cell: Omit<Cell, 'id'>): Cell {
    const made = { id: this.cells.length, ...cell };
    this.cells.push(made);
    return made;
  }
}

/** What a cell holds before anything runs: a net floats, a variable is unknown. @source IEEE 1364-2005, clause 4.2 */
export function startOf({ isNet, twoState, width }: Cell): Word {
  if (twoState) return four.known(0n);
  return isNet ? { v: 0n, x: four.mask(width) } : four.allUnknown(width);
}
