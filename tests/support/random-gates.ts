// Networks grown at random by steps that each join earlier signals.
import fc from 'fast-check';
import { item } from '../../core/lists.ts';
import { type Literal, Network } from '../../core/mapping/gates/index.ts';

interface Growth {
  readonly leaves: number;
  readonly steps: number;
  /** Short additions among the steps. */
  readonly chains: boolean;
}

/** A network, and its last few signals as what is asked of it. */
export function randomGates({ leaves, steps, chains }: Growth) {
  const ops = ['and', 'or', 'xor', 'mux', ...(chains ? (['add'] as const) : [])] as const;
  return fc
    .array(fc.record({ op: fc.constantFrom(...ops), a: fc.nat(), b: fc.nat(), c: fc.nat() }), {
      minLength: 3,
      maxLength: steps,
    })
    .map((made) => {
      const network = new Network();
      const signals: Literal[] = Array.from({ length: leaves }, () => network.leaf());
      const pick = (at: number) => item(signals, at % signals.length) ^ ((at >> 3) & 1);
      for (const { op, a, b, c } of made)
        if (op === 'add') {
          const bits = [a, b, c].map((at, i) => ({ a: pick(at), b: pick(at * 7 + i) }));
          // Of some bits nobody asks for the sum, or nobody for the carry out.
          const { sums, out } = network.chainLike({
            ...{ bits, carryIn: pick(c), origin: -1 },
            sums: bits.map((_, i) => (((a ^ b) >> i) & 1 ? 0 : -1)),
            out: (b & 4) !== 0 ? 0 : -1,
          });
          signals.push(...[...sums, out].filter((node) => node >= 0).map((node) => node * 2));
        } else if (op === 'mux') signals.push(network.mux(pick(a), pick(b), pick(c)));
        else signals.push(network[op](pick(a), pick(b)));
      return { network, roots: signals.slice(-6).filter((root) => root > 1) };
    });
}
