import type { NetBuilder, NodeId } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import type { Direction, Item } from './ast.ts';
import { GiveUp, type Messages } from './message.ts';

/** A value known at elaboration, such as a parameter's. */
export interface Constant {
  readonly value: bigint;
  readonly width: number;
  readonly signed: boolean;
}

export interface Driver {
  readonly lo: number;
  readonly width: number;
  readonly node: NodeId;
  readonly at: Place;
}

/** A declared vector. `wire` is its node; drivers are collected while behaviours are read and joined at the end. */
export interface Vector {
  readonly kind: 'vector';
  readonly name: string;
  readonly path: string;
  readonly at: Place;
  readonly width: number;
  readonly signed: boolean;
  readonly left: number;
  readonly right: number;
  readonly net: 'wire' | 'reg' | 'integer';
  readonly direction: Direction | null;
  readonly wire: NodeId;
  readonly drivers: Driver[];
  init: bigint | null;
  /** Lives only inside a function call or a block: has no place in the hierarchy. */
  readonly temporary: boolean;
}

export interface MemoryArray {
  readonly kind: 'memory';
  readonly name: string;
  readonly at: Place;
  readonly index: number;
  readonly width: number;
  readonly signed: boolean;
  readonly depth: number;
  readonly lowest: number;
}

export type FunctionItem = Extract<Item, { kind: 'function' }>;

export type TaskItem = Extract<Item, { kind: 'task' }>;

export type Entity =
  | Vector
  | MemoryArray
  | { readonly kind: 'constant'; readonly constant: Constant }
  | { readonly kind: 'function'; readonly item: FunctionItem; readonly scope: Scope }
  | { readonly kind: 'task'; readonly item: TaskItem; readonly scope: Scope };

/** Names of one module instance, generate block or call; looks outward through generate blocks, never out of the instance. */
export class Scope {
  readonly path: string;
  readonly parent: Scope | null;
  readonly names = new Map<string, Entity>();

  constructor(path: string, parent: Scope | null) {
    this.path = path;
    this.parent = parent;
  }

  find(name: string): Entity | null {
    return this.names.get(name) ?? this.parent?.find(name) ?? null;
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
export interface Shared {
  readonly build: NetBuilder;
  readonly messages: Messages;
  /** Modules that are there but have errors of their own. */
  readonly broken: ReadonlySet<string>;
  readonly vectors: Vector[];
  readonly readData: (name: string) => string | null;
}

/** Bit offset of the index written in the source; may lie outside the word. */
export const offsetOf = (vector: Vector, index: number): number => (vector.left >= vector.right ? index - vector.right : vector.right - index);
