import type { NodeId } from '../../netlist/index.ts';
import {
  elementCount,
  elementWidth,
  entityOf,
  isPart,
  type Part,
  partShape,
  type Shape,
  type Vector,
  type WordAccess,
  wordAccess,
} from '../names/index.ts';
import { type Expression, GiveUp } from '../read/index.ts';
import type { ExpressionContext } from './expressions.ts';
import { MOST_CHOICES, type Selection, selection } from './select.ts';

/** What an assignment changes: a declared word or a word of a memory, and the parts of it, outermost first. */
interface Target {
  readonly root: Vector | WordAccess;
  readonly parts: readonly Part[];
}

/** Takes the left side of an assignment apart; concatenations are the caller's. */
export function targetOf(target: Expression, context: ExpressionContext): Target {
  const parts: Part[] = [];
  let at: Expression = target;
  for (;;) {
    const access = at.kind === 'index' ? wordAccess(at, context) : null;
    if (access) return { root: access, parts };
    const entity = entityOf(at, context);
    if (entity?.kind === 'vector') return { root: entity, parts };
    if (entity) throw new GiveUp('target', at.at, `This is a ${entity.kind} and cannot be assigned to as a whole.`);
    if (!isPart(at)) throw new GiveUp('target', target.at, 'This cannot be assigned to.');
    parts.unshift(at);
    at = at.base;
  }
}

const rootShape = (root: Target['root']): Shape => ('memory' in root ? root.memory.shape : root.shape);

/** Shape of what is assigned. */
export function targetShape({ root, parts }: Target, context: ExpressionContext): Shape {
  return parts.reduce((shape, part) => partShape(part, shape, context), rootShape(root));
}

/** A whole word with one part replaced. */
export function updated(
  now: NodeId,
  shape: Shape,
  parts: readonly Part[],
  value: NodeId,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  const [part, ...inner] = parts;
  if (!part) return build.resize(value, shape.width, false);
  const select = selection(part, shape, context);
  const partial = partShape(part, shape, context);
  if (select.lo !== null) {
    if (inner.length === 0) return splice(now, select.lo, build.resize(value, select.width, false), context);
    if (select.lo < 0 || select.lo + select.width > shape.width) return now;
    return splice(
      now,
      select.lo,
      updated(build.slice(now, select.lo, select.width), partial, inner, value, context),
      context,
    );
  }
  const size = elementWidth(shape);
  const count = elementCount(shape);
  if (select.width === size && count <= MOST_CHOICES && (size > 1 || inner.length > 0)) {
    const width = build.width(select.element);
    const elements = Array.from({ length: count }, (_, i) => {
      const old = build.slice(now, i * size, size);
      return build.mux(
        build.eq(select.element, build.constant(BigInt(i), width)),
        updated(old, partial, inner, value, context),
        old,
      );
    });
    return build.concat(elements);
  }
  if (inner.length > 0)
    throw new GiveUp(
      'target',
      part.at,
      'A part of a part at a place that depends on a signal is not taken. Assign the whole element.',
    );
  return masked(now, select, value, shape.width, context);
}

function masked(
  now: NodeId,
  select: Selection & { lo: null },
  value: NodeId,
  width: number,
  { shared: { build } }: ExpressionContext,
): NodeId {
  const ones = build.constant((1n << BigInt(Math.min(width, select.width))) - 1n, width);
  const mask = build.make('shl', width, [ones, select.offset]);
  const moved = build.make('shl', width, [
    build.resize(build.resize(value, select.width, false), width, false),
    select.offset,
  ]);
  return build.or(build.and(now, build.not(mask)), build.and(moved, mask));
}

/** Bits that would fall outside the word are lost. */
function splice(now: NodeId, lo: number, value: NodeId, { shared: { build } }: ExpressionContext): NodeId {
  const width = build.width(now);
  const from = Math.max(0, lo);
  const to = Math.min(width, lo + build.width(value));
  if (from >= to) return now;
  return build.withBits(now, from, build.slice(value, from - lo, to - from));
}
