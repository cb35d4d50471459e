import type { NodeId } from '../../netlist/index.ts';
import { typeOf } from '../names/index.ts';
import type { Expression } from '../read/index.ts';
import { emit, emitCondition, type ExpressionContext } from './expressions.ts';

/** A value for pins: where a bit of `enable` is 0, the pin floats. */
interface PinValue {
  readonly value: NodeId;
  readonly enable: NodeId;
}

/** True where a z stands in a place that an output of the top module could float by. */
export function mentionsFloat(expression: Expression): boolean {
  switch (expression.kind) {
    case 'number':
      return expression.floating !== 0n;
    case 'conditional':
      return mentionsFloat(expression.then) || mentionsFloat(expression.otherwise);
    case 'concatenation':
      return expression.parts.some(mentionsFloat);
    case 'replication':
      return mentionsFloat(expression.part);
    default:
      return false;
  }
}

/** `enable ? value : 'bz`, and choices and concatenations of such, at `width` bits. */
export function emitPinValue(expression: Expression, width: number, context: ExpressionContext): PinValue {
  const { build } = context.shared;
  const ones = (bits: number) => build.constant(-1n, bits);
  switch (expression.kind) {
    case 'number':
      if (expression.floating === 0n) break;
      if (expression.fill) return { value: build.constant(0n, width), enable: build.constant(0n, width) };
      return {
        value: build.constant(expression.value, width),
        enable: build.constant(~endless(expression, width), width),
      };
    case 'conditional': {
      if (!mentionsFloat(expression)) break;
      const condition = emitCondition(expression.condition, context);
      const then = emitPinValue(expression.then, width, context);
      const otherwise = emitPinValue(expression.otherwise, width, context);
      return {
        value: build.mux(condition, then.value, otherwise.value),
        enable: build.mux(condition, then.enable, otherwise.enable),
      };
    }
    case 'concatenation': {
      if (!mentionsFloat(expression)) break;
      const parts = expression.parts.map((part) => emitPinValue(part, typeOf(part, context).width, context)).reverse();
      const [value, enable] = [
        build.concat(parts.map((part) => part.value)),
        build.concat(parts.map((part) => part.enable)),
      ];
      const have = build.width(value);
      return {
        value: build.resize(value, width, false),
        enable: have < width ? build.concat([enable, ones(width - have)]) : build.slice(enable, 0, width),
      };
    }
    case 'replication': {
      if (!mentionsFloat(expression)) break;
      const whole = emitPinValue(expression.part, typeOf(expression.part, context).width, context);
      const times = Math.ceil(width / build.width(whole.value));
      return {
        value: build.slice(build.concat(Array<NodeId>(times).fill(whole.value)), 0, width),
        enable: build.slice(build.concat(Array<NodeId>(times).fill(whole.enable)), 0, width),
      };
    }
    default:
  }
  const type = typeOf(expression, context);
  return {
    value: build.resize(emit(expression, Math.max(type.width, width), type.signed, context), width, type.signed),
    enable: ones(width),
  };
}

/** A z in the uppermost digit of an unsized number goes on to the left. */
function endless({ width, floating }: Expression & { kind: 'number' }, wanted: number): bigint {
  const size = width ?? 32;
  if (width !== null || floating >> BigInt(size - 1) === 0n || wanted <= size) return floating;
  return floating | (((1n << BigInt(wanted - size)) - 1n) << BigInt(size));
}
