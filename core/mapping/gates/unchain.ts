import { numberAt } from '../../lists.ts';
import { type Chain, isChain, type Literal, type Network } from './network.ts';
import { Rebuilt } from './rebuilt.ts';

/**
 * The same with chains of at most so many bits as gates: what is before and behind a short one may be one function with
 * it. Null where there is no such chain.
 */
export function unchained(
  network: Network,
  roots: readonly Literal[],
  mostBits: number,
): { network: Network; roots: Literal[] } | null {
  const short = (chain: Chain | undefined): chain is Chain => chain !== undefined && chain.bits.length <= mostBits;
  if (!network.chains.some(short)) return null;
  const copy = new Rebuilt(network);
  const done = new Set<Chain>();
  for (let node = 1; node < network.kind.length; node++) {
    const chain = isChain(network.kind[node]) ? network.chains[numberAt(network.first, node)] : undefined;
    if (!short(chain)) copy.keep(node);
    else if (!done.has(chain)) {
      done.add(chain);
      ripple(chain, node, copy);
    }
  }
  return { network: copy.network, roots: roots.map((root) => copy.at(root)) };
}

/** Full adders one after another. */
function ripple({ bits, carryIn, sums, out }: Chain, node: number, copy: Rebuilt): void {
  let carry = copy.at(carryIn);
  for (const [i, { a, b }] of bits.entries()) {
    const [x, y] = [copy.at(a), copy.at(b)];
    const below = carry;
    const total = copy.make(node, (network) => {
      const half = network.xor(x, y);
      carry = network.or(network.and(x, y), network.and(half, below));
      return network.xor(half, below);
    });
    const sum = numberAt(sums, i);
    // Nobody may ask for a bit above one that is asked for.
    if (sum >= 0) copy.put(sum, () => total);
  }
  if (out >= 0) copy.put(out, () => carry);
}
