import type { Place } from '../result.ts';

/** A literal. `value` holds the bits with x and z as 0; `unknown` marks x, `floating` marks z or ? digits. */
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
  | { readonly kind: 'bits'; readonly signed: boolean; readonly dimensions: readonly Range[] }
  | { readonly kind: 'integer'; readonly width: number; readonly signed: boolean }
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
      readonly value: Expression;
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
      readonly block: string | null;
      readonly value: Expression | null;
    }
  | {
      readonly kind: 'call';
      readonly at: Place;
      readonly name: string;
      readonly package?: string;
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
  readonly edge: 'posedge' | 'negedge' | 'any';
  readonly signal: Expression;
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
  | { readonly kind: 'assign'; readonly at: Place; readonly target: Expression; readonly value: Expression }
  | {
      readonly kind: 'always';
      readonly at: Place;
      readonly edges: readonly Edge[] | 'any';
      readonly form: 'always' | 'always_ff' | 'always_comb' | 'always_latch';
      readonly body: Statement;
    }
  | { readonly kind: 'initial'; readonly at: Place; readonly body: Statement }
  | {
      readonly kind: 'instance';
      readonly at: Place;
      readonly module: string;
      readonly name: string;
      /** `name [high:low]` makes one instance for each index. */
      readonly range: Range | null;
      readonly parameters: readonly Connection[];
      readonly ports: readonly Connection[];
      readonly wildcard: boolean;
    }
  | {
      readonly kind: 'function';
      readonly at: Place;
      readonly name: string;
      readonly type: DataType | null;
      readonly items: readonly Item[];
      readonly body: Statement;
    }
  | {
      readonly kind: 'task';
      readonly at: Place;
      readonly name: string;
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
  readonly name: string;
  /** Port names in the order of the header. */
  readonly ports: readonly { readonly name: string; readonly at: Place }[];
  readonly items: readonly Item[];
  /** Undeclared names at ports and on the left of `assign` become wires; `default_nettype none` forbids it. */
  readonly implicitNets: boolean;
}

export interface Package {
  readonly at: Place;
  readonly name: string;
  readonly items: readonly Item[];
}
