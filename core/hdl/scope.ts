import type { NetBuilder, NodeId } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import type { Direction, Item } from './ast.ts';
import { GiveUp, type Messages } from './message.ts';
import type { Shape } from './shape.ts';

/** A value known at elaboration, such as a parameter's. */
export interface Constant {
  readonly value: bigint;
  readonly width: number;
  readonly signed: boolean;
  /** Bits that are x, in a four-state reading. */
  readonly unknown?: bigint;
  /** Bits written as z or ?, which a casez label leaves open. */
  readonly open?: bigint;
  readonly shape?: Shape;
}

export interface Driver {
  readonly lo: number;
  readonly width: number;
  readonly node: NodeId;
  readonly at: Place;
  /** Pins only: where 0, the pin floats. One bit for each of `width`. */
  readonly enable?: NodeId;
}

/** A declared vector. `wire` is its node; drivers are collected while behaviours are read and joined at the end. */
export interface Vector {
  readonly kind: 'vector';
  readonly name: string;
  readonly path: string;
  readonly at: Place;
  readonly width: number;
  readonly signed: boolean;
  readonly shape: Shape;
  readonly net: 'wire' | 'reg' | 'integer';
  readonly keep: boolean;
  readonly direction: Direction | null;
  readonly wire: NodeId;
  readonly drivers: Driver[];
  init: bigint | null;
  /** Names of values that case labels use for this vector. */
  readonly labels: Map<bigint, string>;
  /** Lives only inside a function call or a block: has no place in the hierarchy. */
  readonly temporary: boolean;
}

export interface MemoryArray {
  readonly kind: 'memory';
  readonly name: string;
  readonly at: Place;
  readonly index: number;
  readonly width: number;
  readonly shape: Shape;
  /** Bounds of the ranges behind the name, in the order written. */
  readonly dimensions: readonly { readonly left: number; readonly right: number }[];
  /** Words in all. */
  readonly depth: number;
}

export type FunctionItem = Extract<Item, { kind: 'function' }>;

export type TaskItem = Extract<Item, { kind: 'task' }>;

export type Entity =
  | Vector
  | MemoryArray
  | { readonly kind: 'constant'; readonly constant: Constant }
  | { readonly kind: 'function'; readonly item: FunctionItem; readonly scope: Scope }
  | { readonly kind: 'task'; readonly item: TaskItem; readonly scope: Scope }
  | { readonly kind: 'type'; readonly shape: Shape }
  | { readonly kind: 'block'; readonly scope: Scope }
  | { readonly kind: 'blocks'; readonly scopes: ReadonlyMap<number, Scope> };

/**
 * Names of one module instance, generate block or call; looks outward through generate blocks and into imported
 * packages, never into another instance.
 */
export class Scope {
  readonly path: string;
  readonly parent: Scope | null;
  readonly names = new Map<string, Entity>();
  /** Packages whose names are all imported here. */
  readonly imports: Scope[] = [];
  /** Generate constructs met so far; unnamed blocks are named by it. @source IEEE 1364-2005, clause 12.4.3 */
  constructs = 0;

  constructor(path: string, parent: Scope | null) {
    this.path = path;
    this.parent = parent;
  }

  find(name: string): Entity | null {
    const own = this.names.get(name);
    if (own) return own;
    for (const scope of this.imports) {
      const imported = scope.names.get(name);
      if (imported) return imported;
    }
    return this.parent?.find(name) ?? null;
  }

  /** The nearest function of that name: inside a function its own name is also that of its result. */
  findFunction(name: string): (Entity & { kind: 'function' }) | null {
    for (let scope: Scope | null = this; scope; scope = scope.parent) {
      for (const names of [scope.names, ...scope.imports.map((imported) => imported.names)]) {
        const found = names.get(name);
        if (found?.kind === 'function') return found;
      }
    }
    return null;
  }

  declare(name: string, entity: Entity, at: Place): void {
    if (this.names.has(name)) throw new GiveUp('declared-twice', at, `"${name}" is declared twice here.`);
    this.names.set(name, entity);
  }
}

/** One module instance of the elaborated design; `path` is its full name, `children` its instances. */
export interface HierarchyNode {
  readonly path: string;
  readonly name: string;
  readonly module: string;
  readonly file: string;
  readonly line: number;
  readonly children: readonly HierarchyNode[];
}

/** What all parts of one elaboration share. */
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

export interface Shared {
  readonly build: NetBuilder;
  readonly messages: Messages;
  /** Modules that are there but have errors of their own. */
  readonly broken: ReadonlySet<string>;
  readonly vectors: Vector[];
  /** Stores of all clocked blocks into memories, in the order of the source. */
  readonly stores: ClockedStore[];
  readonly packages: ReadonlyMap<string, Scope>;
  /** Names declared outside any module. */
  readonly unit: Scope | null;
  /** Keep x and z apart from 0, for a simulation without hardware. */
  readonly fourState: boolean;
  /** Statements carried out, turns of loops and instances made so far. */
  readonly work: { done: number };
  readonly readData: (name: string) => string | null;
}

const MOST_NODES = 3_000_000;
const MOST_PARTS = 3_000_000;
/** Three steps for each word of the largest memory that a loop may fill. */
const MOST_WORK = 200_000;

/** Counts more work, and stops a design that grows beyond all bounds. */
export function countWork({ build, work }: Shared, at: Place, steps = 1): void {
  work.done += steps;
  if (work.done > MOST_WORK)
    throw new GiveUp(
      'too-large',
      at,
      `Reading the design took more than ${MOST_WORK} steps; a loop or a parameter is probably far too large.`,
    );
  if (build.netlist.nodes.length > MOST_NODES || build.parts > MOST_PARTS)
    throw new GiveUp(
      'too-large',
      at,
      'The design grew past what any part could hold; a loop or a parameter is probably far too large.',
    );
}
