// Primitives given by a table. @source IEEE 1364-2005, clause 8
import type { Primitive } from '../../hdl/index.ts';
import { item } from '../../lists.ts';

/** Levels of a primitive: 0, 1, and 2 for x. */
type Level = 0 | 1 | 2;

const LEVELS: Readonly<Record<string, readonly Level[]>> = {
  '0': [0],
  '1': [1],
  x: [2],
  '?': [0, 1, 2],
  b: [0, 1],
};

/** Edges by the sign that stands for them. @source IEEE 1364-2005, table 8-1 */
const EDGES: Readonly<Record<string, readonly string[]>> = {
  r: ['01'],
  f: ['10'],
  p: ['01', '0x', 'x1'],
  n: ['10', '1x', 'x0'],
  '*': ['??'],
};

interface Row {
  readonly levels: readonly (readonly Level[] | null)[];
  /** The input whose edge is wanted, and from what to what. */
  readonly edge: { readonly input: number; readonly from: readonly Level[]; readonly to: readonly Level[] }[] | null;
  readonly state: readonly Level[] | null;
  readonly output: Level | null;
}

/** One instance of a primitive: its last inputs and its state. */
export class Table {
  readonly #rows: readonly Row[];
  readonly #sequential: boolean;
  #before: Level[];
  #state: Level;

  constructor({ rows, sequential, initial, inputs }: Primitive) {
    this.#rows = rows.flatMap(({ inputs: signs, state, output }) => rowOf(signs, state, output));
    this.#sequential = sequential;
    this.#before = inputs.map(() => 2);
    this.#state = initial === '0' ? 0 : initial === '1' ? 1 : 2;
  }

  get state(): Level {
    return this.#state;
  }

  /** The output after the inputs have become these. Level rows come before edge rows; what no row says is x. */
  next(inputs: readonly Level[]): Level {
    const before = this.#before;
    this.#before = [...inputs];
    const fits = (row: Row): boolean =>
      row.levels.every((levels, i) => levels === null || levels.includes(item(inputs, i))) &&
      (row.state === null || row.state.includes(this.#state));
    const found =
      this.#rows.find((row) => row.edge === null && fits(row)) ??
      this.#rows.find(
        (row) =>
          row.edge?.some(
            ({ input, from, to }) =>
              item(before, input) !== item(inputs, input) &&
              from.includes(item(before, input)) &&
              to.includes(item(inputs, input)),
          ) && fits(row),
      );
    const changed = inputs.some((level, i) => level !== before[i]);
    if (!found) return this.#sequential && !changed ? this.#state : (this.#state = 2);
    if (found.output !== null) this.#state = found.output;
    return this.#state;
  }
}

function rowOf(signs: readonly string[], state: string | null, output: string): Row[] {
  const edge: NonNullable<Row['edge']> = [];
  const levels = signs.map((sign, input) => {
    const plain = LEVELS[sign];
    if (plain) return plain;
    for (const pair of EDGES[sign] ?? [sign])
      edge.push({ input, from: LEVELS[pair.charAt(0)] ?? [], to: LEVELS[pair.charAt(1)] ?? [] });
    return null;
  });
  const out = output === '-' ? null : (LEVELS[output]?.[0] ?? 2);
  return [
    {
      levels,
      edge: edge.length === 0 ? null : edge,
      state: state === null ? null : (LEVELS[state] ?? null),
      output: out,
    },
  ];
}
