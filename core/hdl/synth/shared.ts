import { entry } from '../../lists.ts';
import type { NetBuilder, NodeId } from '../../netlist/index.ts';
import type { Place } from '../../result.ts';
import { countWork as countSteps, type MemoryArray, type Names, type Vector } from '../names/index.ts';
import { type Expression, GiveUp } from '../read/index.ts';

export interface Driver {
  readonly lo: number;
  readonly width: number;
  readonly node: NodeId;
  readonly at: Place;
  /** Pins only: where 0, the pin floats. One bit for each of `width`. */
  readonly enable?: NodeId;
}

/** What a vector is in the netlist. `wire` is its node; drivers are collected while behaviours are read. */
export interface Net {
  readonly wire: NodeId;
  readonly drivers: Driver[];
  init: bigint | null;
  /** Names of values that case labels use for this vector. */
  readonly labels: Map<bigint, string>;
}

/** One store of a clocked block. Stores of one `block` are told apart from those of others by its number. */
export interface ClockedStore {
  readonly memory: MemoryArray;
  readonly condition: NodeId;
  readonly address: NodeId;
  readonly data: NodeId;
  /** A wire for the bits of the word that are left as they are; null where the whole word is written. */
  readonly base: NodeId | null;
  readonly clock: { readonly node: NodeId; readonly edge: 'posedge' | 'negedge' };
  readonly block: number;
  readonly at: Place;
}

/** What all parts of one synthesis share. */
export interface Shared extends Names {
  readonly build: NetBuilder;
  /** Stores of all clocked blocks into memories, in the order of the source. */
  readonly stores: ClockedStore[];
  readonly nets: Map<Vector, Net>;
  /** Number of each memory in the netlist. */
  readonly indexes: Map<MemoryArray, number>;
  /** Conditions of loops that were found not to end: they are not tried again for each instance and each call. */
  readonly endless: Set<Expression>;
  /** Where ports of cells are to be found: the cell is in no file. */
  readonly placed: Map<Vector, Place>;
}

/** The net of a vector; one that lives only inside a block gets its net when it is first used. */
export function netOf({ nets, build }: Shared, vector: Vector): Net {
  const found = nets.get(vector);
  if (found) return found;
  const { special } = vector.shape;
  if (special)
    throw new GiveUp(
      'not-synthesizable',
      vector.at,
      `"${vector.name}" is ${{ real: 'a real number', text: 'a text', event: 'an event' }[special]} and has no ` +
        'hardware. Mark the file as one for simulation only, or leave it out of the design.',
    );
  const made = { wire: build.wire(vector.path, vector.width), drivers: [], init: null, labels: new Map() };
  nets.set(vector, made);
  return made;
}

export const memoryIndex = ({ indexes }: Shared, memory: MemoryArray): number => entry(indexes, memory);

const MOST_NODES = 3_000_000;
const MOST_PARTS = 10_000_000;

/** Counts more work, and stops a design that grows beyond all bounds. */
export function countWork(shared: Shared, at: Place, steps = 1): void {
  countSteps(shared, at, steps);
  const { build } = shared;
  if (build.netlist.nodes.length > MOST_NODES || build.parts > MOST_PARTS)
    throw new GiveUp(
      'too-large',
      at,
      'The design grew past what any part could hold; a loop or a parameter is probably far too large.',
    );
}
