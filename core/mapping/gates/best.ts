import { item } from '../../lists.ts';
import { inverted, type Literal, type Network } from './network.ts';
import { transformOf } from './npn.ts';
import { STRUCTURES } from './structures.ts';

/** A gate of a structure; literals are twice an input or, from 8 on, a gate of it, plus one where it is turned round. */
interface Gate {
  readonly isXor: boolean;
  readonly x: number;
  readonly y: number;
}

interface Structure {
  readonly gates: readonly Gate[];
  readonly inverted: boolean;
}

let structures: ReadonlyMap<number, Structure> | null = null;

function all(): ReadonlyMap<number, Structure> {
  structures ??= new Map(
    STRUCTURES.split(' ').map((row) => {
      const [name = '', gates = ''] = row.split(':');
      return [
        Number.parseInt(name, 16),
        {
          gates: [...gates.matchAll(/([&^])(.)(.)/g)].map(([, kind, x = '0', y = '0']) => ({
            isXor: kind === '^',
            x: Number.parseInt(x, 36),
            y: Number.parseInt(y, 36),
          })),
          inverted: gates.endsWith('!'),
        },
      ];
    }),
  );
  return structures;
}

/** Gates that a function of four inputs takes at most, when nothing of it is there. */
export const gatesFor = (truth: number): number => all().get(transformOf(truth).class)?.gates.length ?? 0;

/** Puts the fewest gates for a function of up to four inputs into a network. */
export function build(network: Network, truth: number, inputs: readonly Literal[]): Literal {
  const { class: name, order, flips, inverted: isTurned } = transformOf(truth);
  const structure = all().get(name);
  const literals: Literal[] = order.map((from, k) => (inputs[from] ?? 0) ^ ((flips >> k) & 1));
  if (!structure) {
    // What is no gate is constant, or the last input turned round.
    const plain = name === 0 ? 0 : inverted(item(literals, 3));
    return isTurned ? inverted(plain) : plain;
  }
  for (const { isXor, x, y } of structure.gates) {
    const of = (literal: number): Literal => item(literals, literal >> 1) ^ (literal & 1);
    literals.push(isXor ? network.xor(of(x), of(y)) : network.and(of(x), of(y)));
  }
  return item(literals, literals.length - 1) ^ (structure.inverted ? 1 : 0) ^ (isTurned ? 1 : 0);
}
