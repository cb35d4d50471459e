import { numberAt } from '../../lists.ts';
import { inputsOf, isChain, isGate, isInverted, KIND, type Literal, type Network, nodeOf } from './network.ts';
import { Rebuilt } from './rebuilt.ts';

/** Gates joined into one at most. */
const MOST_JOINED = 64;

/**
 * The same gates with rows of equal ones as trees, in which what is there last passes the fewest.
 *
 * @source balancing of and-inverter graphs by the code of D. A. Huffman, 1952 (common practice)
 */
export function balanced(network: Network, roots: readonly Literal[]): { network: Network; roots: Literal[] } {
  const uses = new Int32Array(network.kind.length);
  for (const root of roots) uses[nodeOf(root)] = (uses[nodeOf(root)] ?? 0) + 2;
  const chains = new Set<number>();
  for (let node = network.kind.length - 1; node > 0; node--) {
    if (isChain(network.kind[node])) {
      const chain = numberAt(network.first, node);
      if (chains.has(chain)) continue;
      chains.add(chain);
      for (const input of inputsOf(network, node)) uses[input] = (uses[input] ?? 0) + 2;
    } else if ((uses[node] ?? 0) > 0) for (const input of inputsOf(network, node)) uses[input] = (uses[input] ?? 0) + 1;
  }
  const copy = new Rebuilt(network);
  for (let node = 1; node < network.kind.length; node++) {
    if (!isGate(network.kind[node])) copy.keep(node);
    else if ((uses[node] ?? 0) > 0) copy.put(node, (into) => joined(into, network, node, uses, copy));
  }
  return { network: copy.network, roots: roots.map((root) => copy.at(root)) };
}

function joined(into: Network, network: Network, node: number, uses: Int32Array, copy: Rebuilt): Literal {
  const isXor = network.kind[node] === KIND.xor;
  const open = [numberAt(network.first, node), numberAt(network.second, node)];
  const operands: Literal[] = [];
  let turned = 0;
  for (let literal = open.pop(); literal !== undefined; literal = open.pop()) {
    const at = nodeOf(literal);
    const isSame = network.kind[at] === network.kind[node] && (isXor || !isInverted(literal));
    if (isSame && uses[at] === 1 && open.length + operands.length < MOST_JOINED) {
      if (isXor) turned ^= literal & 1;
      open.push(numberAt(network.first, at), numberAt(network.second, at));
    } else operands.push(copy.at(literal));
  }
  while (operands.length > 1) {
    operands.sort((x, y) => into.levelOf(y) - into.levelOf(x));
    const [x, y] = [operands.pop() ?? 0, operands.pop() ?? 0];
    operands.push(isXor ? into.xor(x, y) : into.and(x, y));
  }
  return (operands[0] ?? 0) ^ turned;
}
