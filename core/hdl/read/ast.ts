import type { Place } from '../../result.ts';

/** A number literal. `value` holds the bits with x and z as 0; `unknown` marks x, `floating` marks z or ? digits. */
export interface NumberLiteral {
  readonly kind: 'number';
  readonly at: Place;
  readonly width: number | null;
  readonly signed: boolean;
  readonly value: bigint;
  readonly unknown: bigint;
  readonly floating: bigint;
  /** '0 and '1: as wide as the context asks. */
  readonly fill?: boolean;
}

export type Expression =
  | NumberLiteral
  | { readonly kind: 'string'; readonly at: Place; readonly text: string }
  | { readonly kind: 'real'; readonly at: Place; readonly value: number }
  /** A number with a unit of time, in seconds. */
  | { readonly kind: 'time'; readonly at: Place; readonly seconds: number }
  /** An argument that is left out, as in `$display(, a)`. */
  | { readonly kind: 'nothing'; readonly at: Place }
  /** A call through a name of names: a function of another instance, or a method of an enum or a string. */
  | {
      readonly kind: 'method';
      readonly at: Place;
      readonly base: Expression;
      readonly name: string;
      readonly arguments: readonly Expression[];
    }
  /** `{<< 8 {a, b}}`: parts taken in slices from the right (`<<`) or as they stand (`>>`). */
  | {
      readonly kind: 'stream';
      readonly at: Place;
      readonly right: boolean;
      readonly slice: Expression | DataType | null;
      readonly parts: readonly Expression[];
    }
  /** `package` stands before `::`. */
  | { readonly kind: 'name'; readonly at: Place; readonly name: string; readonly package?: string }
  /** A field of a structure, or a name inside a generate block. */
  | { readonly kind: 'member'; readonly at: Place; readonly base: Expression; readonly name: string }
  | { readonly kind: 'index'; readonly at: Place; readonly base: Expression; readonly index: Expression }
  | {
      readonly kind: 'range';
      readonly at: Place;
      readonly base: Expression;
      readonly high: Expression;
      readonly low: Expression;
    }
  | {
      readonly kind: 'indexed-range';
      readonly at: Place;
      readonly base: Expression;
      readonly start: Expression;
      readonly width: Expression;
      readonly up: boolean;
    }
  | { readonly kind: 'unary'; readonly at: Place; readonly operator: string; readonly operand: Expression }
  | {
      readonly kind: 'binary';
      readonly at: Place;
      readonly operator: string;
      readonly left: Expression;
      readonly right: Expression;
    }
  | {
      readonly kind: 'conditional';
      readonly at: Place;
      readonly condition: Expression;
      readonly then: Expression;
      readonly otherwise: Expression;
    }
  | { readonly kind: 'concatenation'; readonly at: Place; readonly parts: readonly Expression[] }
  | { readonly kind: 'replication'; readonly at: Place; readonly count: Expression; readonly part: Expression }
  | {
      readonly kind: 'call';
      readonly at: Place;
      readonly name: string;
      readonly package?: string;
      readonly arguments: readonly Expression[];
    }
  /** `type'(value)`, `8'(value)`, `signed'(value)`. */
  | {
      readonly kind: 'cast';
      readonly at: Place;
      readonly to: DataType | Expression | 'signed' | 'unsigned';
      readonly value: Expression;
    }
  /** `'{...}`: values by order, by field name, or for all the rest. */
  | {
      readonly kind: 'pattern';
      readonly at: Place;
      readonly parts: readonly { readonly key: string | null; readonly value: Expression }[];
    }
  /** `value inside {a, [b:c]}`. */
  | {
      readonly kind: 'inside';
      readonly at: Place;
      readonly value: Expression;
      readonly among: readonly (Expression | Range)[];
    }
  /** A type where a value could stand, as in `$bits(word_t)`. */
  | { readonly kind: 'type'; readonly at: Place; readonly type: DataType };

/** What a declaration says of a name's values. Packed dimensions, leftmost first. */
export type DataType =
  | {
      readonly kind: 'bits';
      readonly signed: boolean;
      readonly dimensions: readonly Range[];
      /** `bit`: has no x and z. */
      readonly twoState?: boolean;
    }
  | { readonly kind: 'integer'; readonly width: number; readonly signed: boolean; readonly twoState?: boolean }
  | { readonly kind: 'real' }
  | { readonly kind: 'text' }
  | { readonly kind: 'event' }
  | {
      readonly kind: 'enum';
      readonly base: DataType;
      readonly members: readonly EnumMember[];
      readonly dimensions: readonly Range[];
    }
  | {
      readonly kind: 'struct';
      readonly signed: boolean;
      readonly fields: readonly StructField[];
      readonly dimensions: readonly Range[];
    }
  | {
      readonly kind: 'named';
      readonly at: Place;
      readonly package: string | null;
      readonly name: string;
      readonly dimensions: readonly Range[];
    };

export interface EnumMember {
  readonly at: Place;
  readonly name: string;
  readonly value: Expression | null;
}

export interface StructField {
  readonly at: Place;
  readonly name: string;
  readonly type: DataType;
}

export interface Range {
  readonly high: Expression;
  readonly low: Expression;
}

/** A delay, in units of the module's time: for rise, fall and to z, as many as are written. */
export type Delay = readonly Expression[];

/** What is waited for: any of the events; `any` stands for whatever the statement behind it reads. */
export type EventList = readonly Edge[] | 'any';

/** What stands between `=` and the value of an assignment. */
export type Timing =
  | { readonly kind: 'delay'; readonly delay: Expression }
  | { readonly kind: 'events'; readonly events: EventList; readonly times: Expression | null };

export type Statement =
  | {
      readonly kind: 'block';
      readonly at: Place;
      readonly name: string | null;
      readonly declarations: readonly Item[];
      readonly body: readonly Statement[];
    }
  | {
      readonly kind: 'assign';
      readonly at: Place;
      readonly blocking: boolean;
      readonly target: Expression;
      readonly timing: Timing | null;
      readonly value: Expression;
    }
  | {
      readonly kind: 'delay';
      readonly at: Place;
      readonly delay: Expression;
      readonly body: Statement;
    }
  | { readonly kind: 'events'; readonly at: Place; readonly events: EventList; readonly body: Statement }
  | { readonly kind: 'wait'; readonly at: Place; readonly condition: Expression; readonly body: Statement }
  | { readonly kind: 'forever'; readonly at: Place; readonly body: Statement }
  | {
      readonly kind: 'fork';
      readonly at: Place;
      readonly name: string | null;
      readonly join: 'join' | 'join_any' | 'join_none';
      readonly declarations: readonly Item[];
      readonly body: readonly Statement[];
    }
  | { readonly kind: 'trigger'; readonly at: Place; readonly event: Expression }
  /** `assign` and `force`: the value holds until `deassign` or `release`. */
  | {
      readonly kind: 'hold';
      readonly at: Place;
      readonly force: boolean;
      readonly target: Expression;
      readonly value: Expression;
    }
  | { readonly kind: 'let-go'; readonly at: Place; readonly force: boolean; readonly target: Expression }
  | {
      readonly kind: 'assert';
      readonly at: Place;
      readonly condition: Expression;
      readonly then: Statement | null;
      readonly otherwise: Statement | null;
    }
  | {
      readonly kind: 'foreach';
      readonly at: Place;
      readonly array: Expression;
      readonly variables: readonly (string | null)[];
      readonly body: Statement;
    }
  | {
      readonly kind: 'if';
      readonly at: Place;
      readonly promise: 'unique' | 'unique0' | 'priority' | null;
      readonly condition: Expression;
      readonly then: Statement;
      readonly otherwise: Statement | null;
    }
  | {
      readonly kind: 'case';
      readonly at: Place;
      readonly wild: 'none' | 'z' | 'xz' | 'inside';
      /** `unique`: at most one arm fits. `priority`: the first that fits. Both promise that one does. */
      readonly promise: 'unique' | 'unique0' | 'priority' | null;
      readonly subject: Expression;
      readonly arms: readonly { readonly labels: readonly Expression[]; readonly body: Statement }[];
      readonly otherwise: Statement | null;
      /** Where `endcase` stands. */
      readonly end: Place;
    }
  | {
      readonly kind: 'for';
      readonly at: Place;
      readonly first: Statement | null;
      readonly local: Item | null;
      readonly condition: Expression;
      readonly step: Statement;
      readonly body: Statement;
    }
  | { readonly kind: 'repeat'; readonly at: Place; readonly count: Expression; readonly body: Statement }
  | {
      readonly kind: 'while';
      readonly at: Place;
      readonly condition: Expression;
      readonly body: Statement;
      readonly bodyFirst: boolean;
    }
  | {
      readonly kind: 'leave';
      readonly at: Place;
      readonly what: 'return' | 'break' | 'continue' | 'disable';
      /** The block or task that `disable` names. */
      readonly block: Expression | null;
      readonly value: Expression | null;
    }
  | {
      readonly kind: 'call';
      readonly at: Place;
      readonly name: string;
      readonly package?: string;
      /** The instance or block that the task stands in, where one is named. */
      readonly base?: Expression;
      readonly arguments: readonly Expression[];
    }
  | { readonly kind: 'empty'; readonly at: Place };

export type Direction = 'input' | 'output' | 'inout';

/** A declared name. `dimensions` after the name make a memory or an array. */
export interface Declarator {
  readonly at: Place;
  readonly name: string;
  readonly dimensions: readonly Range[];
  readonly value: Expression | null;
}

export interface Edge {
  readonly edge: 'posedge' | 'negedge' | 'both' | 'any';
  readonly signal: Expression;
  /** `iff`: counts only while this is true. */
  readonly only?: Expression;
}

/** Kinds of nets that differ in what several drivers make, or none. @source IEEE 1364-2005, clause 4.6 */
export type Resolution = 'wire' | 'wand' | 'wor' | 'tri0' | 'tri1' | 'trireg' | 'supply0' | 'supply1';

/** Drive strengths of 0 and of 1, from 0 (high impedance) to 7 (supply). @source IEEE 1364-2005, clause 7.10 */
export interface Strength {
  readonly zero: number;
  readonly one: number;
}

export type Item =
  | {
      readonly kind: 'declaration';
      readonly at: Place;
      /** `reg` is a variable of any type; `integer` a variable that counts loops. */
      readonly net: 'wire' | 'reg' | 'integer' | 'genvar';
      readonly direction: Direction | null;
      readonly type: DataType;
      readonly keep: boolean;
      readonly resolution: Resolution;
      readonly delay: Delay | null;
      readonly strength: Strength | null;
      readonly names: readonly Declarator[];
    }
  | { readonly kind: 'typedef'; readonly at: Place; readonly name: string; readonly type: DataType }
  | { readonly kind: 'import'; readonly at: Place; readonly package: string; readonly name: string | null }
  | {
      readonly kind: 'parameter';
      readonly at: Place;
      readonly local: boolean;
      /** Null where the value decides. */
      readonly type: DataType | null;
      readonly name: string;
      readonly value: Expression;
    }
  | {
      readonly kind: 'assign';
      readonly at: Place;
      readonly target: Expression;
      readonly value: Expression;
      readonly delay: Delay | null;
      readonly strength: Strength | null;
    }
  | {
      readonly kind: 'gate';
      readonly at: Place;
      readonly gate: string;
      readonly name: string | null;
      readonly range: Range | null;
      readonly delay: Delay | null;
      readonly strength: Strength | null;
      /** Outputs before inputs, as written. */
      readonly terminals: readonly Expression[];
    }
  | { readonly kind: 'defparam'; readonly at: Place; readonly target: Expression; readonly value: Expression }
  | {
      readonly kind: 'always';
      readonly at: Place;
      /** Null where nothing is waited for before the body. */
      readonly edges: EventList | null;
      readonly form: 'always' | 'always_ff' | 'always_comb' | 'always_latch';
      readonly body: Statement;
    }
  | { readonly kind: 'initial'; readonly at: Place; readonly body: Statement; readonly atEnd: boolean }
  | {
      readonly kind: 'instance';
      readonly at: Place;
      readonly module: string;
      readonly name: string;
      /** `name [high:low]` makes one instance for each index. */
      readonly range: Range | null;
      readonly parameters: readonly Connection[];
      /** Of a primitive. */
      readonly delay: Delay | null;
      readonly strength: Strength | null;
      readonly ports: readonly Connection[];
      readonly wildcard: boolean;
    }
  | {
      readonly kind: 'function';
      readonly at: Place;
      readonly name: string;
      readonly automatic: boolean;
      readonly type: DataType | null;
      readonly items: readonly Item[];
      readonly body: Statement;
    }
  | {
      readonly kind: 'task';
      readonly at: Place;
      readonly name: string;
      readonly automatic: boolean;
      /** A function without a value: it takes no time. */
      readonly isVoid: boolean;
      readonly items: readonly Item[];
      readonly body: Statement;
    }
  | {
      readonly kind: 'generate-if';
      readonly at: Place;
      readonly condition: Expression;
      readonly then: readonly Item[];
      readonly otherwise: readonly Item[];
      readonly names: readonly [string | null, string | null];
    }
  | {
      readonly kind: 'generate-case';
      readonly at: Place;
      readonly subject: Expression;
      readonly arms: readonly {
        readonly labels: readonly Expression[];
        readonly items: readonly Item[];
        readonly name: string | null;
      }[];
    }
  | {
      readonly kind: 'generate-for';
      readonly at: Place;
      readonly variable: string;
      readonly first: Expression;
      readonly condition: Expression;
      readonly step: Expression;
      readonly items: readonly Item[];
      readonly name: string | null;
    };

/** A connection by order has no name; an unconnected one has no value. */
export interface Connection {
  readonly at: Place;
  readonly name: string | null;
  readonly value: Expression | null;
}

export interface Module {
  readonly at: Place;
  /** Behind its header, where what stands in it begins. */
  readonly body: Place;
  readonly name: string;
  /** Port names in the order of the header. */
  readonly ports: readonly { readonly name: string; readonly at: Place }[];
  readonly items: readonly Item[];
  /** Undeclared names at ports and on the left of `assign` become wires; `default_nettype none` forbids it. */
  readonly implicitNets: boolean;
  /** `timescale` as powers of ten of a second; null where none was given before the module. */
  readonly timescale: Timescale | null;
  /** What an input reads that nothing is connected to: `unconnected_drive`. */
  readonly unconnected: 'z' | 'pull0' | 'pull1';
  /** A cell of the part: hardware has it ready-made, the text says how it behaves. */
  readonly isCell?: boolean;
}

export interface Timescale {
  readonly unit: number;
  readonly precision: number;
}

/**
 * A primitive described by a table. Rows as written: the level or the edge of each input, for a sequential one the
 * state, and the output; `-` keeps the state.
 *
 * @source IEEE 1364-2005, clause 8
 */
export interface Primitive {
  readonly at: Place;
  readonly name: string;
  readonly output: string;
  readonly inputs: readonly string[];
  readonly sequential: boolean;
  readonly initial: '0' | '1' | 'x';
  readonly rows: readonly PrimitiveRow[];
}

export interface PrimitiveRow {
  readonly at: Place;
  /** One entry an input: a level (`0 1 x ? b`) or an edge of two levels, such as `01`. */
  readonly inputs: readonly string[];
  readonly state: string | null;
  readonly output: string;
}

export interface Package {
  readonly at: Place;
  readonly name: string;
  readonly items: readonly Item[];
}
