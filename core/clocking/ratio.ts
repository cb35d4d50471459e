/** A frequency in terms of another one: `times / over` of it. Both are whole and at least 1. */
interface Ratio {
  readonly times: number;
  readonly over: number;
}

type Edge = 'posedge' | 'negedge';

/** @source Euclid, Elements, book VII, proposition 2 */
function greatestDivisor(x: number, y: number): number {
  let [a, b] = [x, y];
  while (b > 0) [a, b] = [b, a % b];
  return a;
}

/** The same ratio in the smallest numbers. */
export function reduced({ times, over }: Ratio): Ratio {
  const divisor = greatestDivisor(times, over);
  return { times: times / divisor, over: over / divisor };
}

/**
 * From an edge of one clock to the next edge of another that comes after it, at the worst, in cycles of the clock both
 * are made from. All of them rise together once, and are high for half of their cycle. Edges that coincide do not
 * count: what one launches, the other takes at its next.
 */
function edgeDistance(from: Ratio, fromEdge: Edge, to: Ratio, toEdge: Edge): Ratio {
  // Counted in 1 / (2 × from.times × to.times) of the source's cycle every edge of both lies at a whole number.
  const unit = 2 * from.times * to.times;
  const [step, other] = [2 * from.over * to.times, 2 * to.over * from.times];
  const start = fromEdge === 'posedge' ? 0 : step / 2;
  const end = toEdge === 'posedge' ? 0 : other / 2;
  const divisor = greatestDivisor(step, other);
  const behind = (((end - start) % divisor) + divisor) % divisor;
  return reduced({ times: behind === 0 ? divisor : behind, over: unit });
}

/** A clock that a generator makes: by its name, and how often it rises in a cycle of the clock it is made from. */
export interface MadeClock {
  readonly name: string;
  readonly source: string;
  readonly ratio: Ratio;
}

/** Clocks that belong together because they come from one. */
export class ClockFamilies {
  readonly #made: ReadonlyMap<string, MadeClock>;

  constructor(made: readonly MadeClock[]) {
    this.#made = new Map(made.map((one) => [one.name, one]));
  }

  #sourceOf(clock: string): string {
    return this.#made.get(clock)?.source ?? clock;
  }

  #ratioOf(clock: string): Ratio {
    return this.#made.get(clock)?.ratio ?? ITSELF;
  }

  /**
   * From an edge of one clock to the next of another, at the worst, in cycles of the latter; null where they have
   * nothing to do with each other.
   */
  cyclesBetween(from: string, fromEdge: Edge, to: string, toEdge: Edge): number | null {
    if (this.#sourceOf(from) !== this.#sourceOf(to)) return null;
    const { times, over } = this.#ratioOf(to);
    const distance = edgeDistance(this.#ratioOf(from), fromEdge, { times, over }, toEdge);
    return (distance.times * times) / (distance.over * over);
  }
}

const ITSELF: Ratio = { times: 1, over: 1 };
