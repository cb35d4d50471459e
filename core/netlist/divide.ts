import type { NetBuilder } from './builder.ts';
import type { NodeId } from './types.ts';

type Division = 'divu' | 'modu' | 'divs' | 'mods';

/** Words up to this width are divided by one operation; wider ones as below. */
export const WIDEST_DIVISION = 32;

/**
 * Division written out as subtractions, one for each bit of the quotient, from the highest down (restoring division,
 * common practice). By zero it gives what the single operation gives: a quotient of all ones, the dividend as
 * remainder.
 */
export function writtenOutDivision(build: NetBuilder, op: Division, a: NodeId, b: NodeId): NodeId {
  const width = build.width(a);
  if (op === 'divu' || op === 'modu') return unsigned(build, a, b)[op === 'divu' ? 'quotient' : 'remainder'];
  const negative = (word: NodeId) => build.slice(word, width - 1, 1);
  const negated = (word: NodeId) => build.sub(build.constant(0n, width), word);
  const magnitude = (word: NodeId) => build.mux(negative(word), negated(word), word);
  const { quotient, remainder } = unsigned(build, magnitude(a), magnitude(b));
  const byZero = build.eq(b, build.constant(0n, width));
  if (op === 'mods') return build.mux(byZero, a, build.mux(negative(a), negated(remainder), remainder));
  return build.mux(
    byZero,
    build.constant(-1n, width),
    build.mux(build.xor(negative(a), negative(b)), negated(quotient), quotient),
  );
}

function unsigned(build: NetBuilder, a: NodeId, b: NodeId): { quotient: NodeId; remainder: NodeId } {
  const width = build.width(a);
  const divisor = build.resize(b, width + 1, false);
  let remainder = build.constant(0n, width + 1);
  const bits: NodeId[] = [];
  for (let i = width - 1; i >= 0; i--) {
    const shifted = build.concat([build.slice(a, i, 1), build.slice(remainder, 0, width)]);
    const fits = build.not(build.make('ltu', 1, [shifted, divisor]));
    remainder = build.mux(fits, build.sub(shifted, divisor), shifted);
    bits.unshift(fits);
  }
  return { quotient: build.concat(bits), remainder: build.slice(remainder, 0, width) };
}
