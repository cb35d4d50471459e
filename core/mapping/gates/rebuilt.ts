import { entry, item, numberAt } from '../../lists.ts';
import { inputsOf, isChain, KIND, type Literal, Network, nodeOf } from './network.ts';

/**
 * A network made anew from another one, node by node in its order. Leaves, chains and what is made keep the origin of
 * what they are made for.
 */
export class Rebuilt {
  readonly network = new Network();
  readonly #source: Network;
  readonly #moved = new Map<number, Literal>([[0, 0]]);
  readonly #chains = new Set<number>();

  constructor(source: Network) {
    this.#source = source;
  }

  at(literal: Literal): Literal {
    return entry(this.#moved, nodeOf(literal)) ^ (literal & 1);
  }

  put(node: number, make: (network: Network) => Literal): void {
    this.#moved.set(node, this.make(node, make));
  }

  /** Something for a node that is not the node itself. */
  make(node: number, make: (network: Network) => Literal): Literal {
    this.network.for = numberAt(this.#source.origin, node);
    return make(this.network);
  }

  /** A leaf, a gate or the outputs of a chain as they are. */
  keep(node: number): void {
    const { kind, first, second, chains } = this.#source;
    if (kind[node] === KIND.leaf) this.put(node, (network) => network.leaf());
    else if (isChain(kind[node])) {
      const index = numberAt(first, node);
      if (this.#chains.has(index)) return;
      this.#chains.add(index);
      const chain = item(chains, index);
      // What nobody needs any more is not there to be taken.
      if (!inputsOf(this.#source, node).every((input) => this.#moved.has(input))) return;
      const bits = chain.bits.map(({ a, b }) => ({ a: this.at(a), b: this.at(b) }));
      const made = this.network.chainLike({ ...chain, bits, carryIn: this.at(chain.carryIn) });
      for (const [i, sum] of chain.sums.entries()) if (sum >= 0) this.#moved.set(sum, numberAt(made.sums, i) * 2);
      if (chain.out >= 0) this.#moved.set(chain.out, made.out * 2);
    } else {
      const [x, y] = [this.at(numberAt(first, node)), this.at(numberAt(second, node))];
      this.put(node, (network) => (kind[node] === KIND.and ? network.and(x, y) : network.xor(x, y)));
    }
  }
}
