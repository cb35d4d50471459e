import { item } from '../lists.ts';
import type { Known } from './known.ts';
import { lowOf, type Netlist, type NodeId } from './types.ts';

/** A word turned round by an amount less than its width, or as much. */
export interface Rotation {
  readonly word: NodeId;
  readonly amount: NodeId;
  readonly towards: 'up' | 'down';
}

/**
 * The rotation that `(a << n) | (a >> (W - n))` is, W being the width of `a` and `n` no larger, or the same with `^` or
 * `+`: written out it would be two shifts and a subtraction.
 */
export function rotationOf(source: Netlist, known: readonly Known[], id: NodeId): Rotation | null {
  const node = item(source.nodes, id);
  if (node.op !== 'or' && node.op !== 'xor' && node.op !== 'add') return null;
  const [first, second] = [item(source.nodes, node.args[0]), item(source.nodes, node.args[1])];
  const [up, down] = first.op === 'shl' ? [first, second] : [second, first];
  if (up.op !== 'shl' || down.op !== 'shr' || up.args[0] !== down.args[0]) return null;
  const [word, left] = up.args;
  const right = down.args[1];
  if (isRest(source, known, right, left, node.width)) return { word, amount: left, towards: 'up' };
  if (isRest(source, known, left, right, node.width)) return { word, amount: right, towards: 'down' };
  return null;
}

/** Whether one amount is the width less the other, which is never larger. */
function isRest(source: Netlist, known: readonly Known[], rest: NodeId, amount: NodeId, width: number): boolean {
  const node = item(source.nodes, withoutZeros(source, rest));
  if (node.op !== 'sub') return false;
  const whole = item(source.nodes, node.args[0]);
  if (whole.op !== 'const' || whole.value !== BigInt(width)) return false;
  if (withoutZeros(source, node.args[1]) !== withoutZeros(source, amount)) return false;
  // Shifted by the whole width nothing is left: at 0 and at the width it is the word itself.
  return item(known, amount).max <= BigInt(width);
}

function withoutZeros({ nodes }: Netlist, id: NodeId): NodeId {
  let at = id;
  for (let low = lowOf(nodes, at); low !== null; low = lowOf(nodes, at)) at = low;
  return at;
}
