import type { NodeId } from '../../netlist/index.ts';
import type { Shared } from './shared.ts';

/**
 * A choice between words that keeps bits neither side touched recognisable: where both have the same part in the same
 * place it stays as it is.
 */
export function muxBits({ build }: Shared, condition: NodeId, x: NodeId, y: NodeId): NodeId {
  if (x === y) return x;
  const cuts = new Set<number>();
  for (const side of [x, y]) {
    const { op, args } = build.node(side);
    let at = 0;
    if (op === 'concat') for (const part of args) cuts.add((at += build.width(part)));
  }
  const width = build.width(x);
  cuts.add(width);
  const parts: { x: NodeId; y: NodeId; lo: number; width: number }[] = [];
  let lo = 0;
  for (const cut of [...cuts].sort((a, b) => a - b)) {
    parts.push({ x: build.slice(x, lo, cut - lo), y: build.slice(y, lo, cut - lo), lo, width: cut - lo });
    lo = cut;
  }
  if (!parts.some((part) => part.x === part.y)) return build.mux(condition, x, y);
  return build.concat(parts.map((part) => build.mux(condition, part.x, part.y)));
}
