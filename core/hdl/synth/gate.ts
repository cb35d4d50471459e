import { type BehaviourItem, constantNumber, typeOf } from '../names/index.ts';
import { type Expression, GiveUp } from '../read/index.ts';
import type { ExpressionContext } from './expressions.ts';

type Gate = BehaviourItem & { readonly kind: 'gate' };
type Assign = BehaviourItem & { readonly kind: 'assign' };

/** Gates of the language and the operators they stand for. @source IEEE 1364-2005, clauses 7.2 and 7.3 */
const OPERATORS: Readonly<Record<string, string>> = { and: '&', nand: '&', or: '|', nor: '|', xor: '^', xnor: '^' };

/**
 * What a gate does, as continuous assignments. An array of gates is one assignment of words, its terminals of one bit
 * spread over all of them.
 */
export function gateAssignments(gate: Gate, context: ExpressionContext): Assign[] {
  const count = gate.range
    ? Math.abs(constantNumber(gate.range.high, context) - constantNumber(gate.range.low, context)) + 1
    : 1;
  const { at } = gate;
  const spread = (part: Expression): Expression => {
    if (count === 1 || typeOf(part, context).width !== 1) return part;
    const number = { width: null, signed: true, value: BigInt(count), unknown: 0n, floating: 0n };
    return { kind: 'replication', at, count: { kind: 'number', at, ...number }, part };
  };
  const assign = (target: Expression, value: Expression): Assign => ({
    kind: 'assign',
    at,
    target,
    value,
    delay: gate.delay,
    strength: gate.strength,
  });
  const invert = (value: Expression): Expression =>
    /^n(and|or|ot)|^xnor/.test(gate.gate) ? { kind: 'unary', at, operator: '~', operand: value } : value;
  const [first, ...rest] = gate.terminals as [Expression, ...Expression[]];
  const operator = OPERATORS[gate.gate];
  if (operator !== undefined) {
    const [one, ...others] = rest.map(spread) as [Expression, ...Expression[]];
    const joined = others.reduce<Expression>((left, right) => ({ kind: 'binary', at, operator, left, right }), one);
    return [assign(first, invert(joined))];
  }
  if (gate.gate === 'buf' || gate.gate === 'not') {
    const input = gate.terminals.at(-1) as Expression;
    return gate.terminals.slice(0, -1).map((target) => assign(target, invert(spread(input))));
  }
  return [assign(first, switched(gate, rest, count))];
}

/** `bufif1` and its like: the data, or nothing driven. @source IEEE 1364-2005, clauses 7.4 and 7.5 */
function switched({ gate, at }: Gate, [data, control]: readonly Expression[], count: number): Expression {
  if (!/^(bufif|notif)[01]$|^[np]mos$/.test(gate) || !data || !control || count > 1)
    throw new GiveUp(
      'not-synthesizable',
      at,
      gate.startsWith('pull')
        ? 'Set the pull of the pin in the ports table.'
        : `"${gate}" has no hardware here. Write what it does with "assign".`,
    );
  const floating: Expression = {
    kind: 'number',
    at,
    width: 1,
    signed: false,
    value: 0n,
    unknown: 0n,
    floating: 1n,
    fill: true,
  };
  const value: Expression = gate.startsWith('not') ? { kind: 'unary', at, operator: '~', operand: data } : data;
  const whenHigh = gate.endsWith('1') || gate === 'nmos';
  return whenHigh
    ? { kind: 'conditional', at, condition: control, then: value, otherwise: floating }
    : { kind: 'conditional', at, condition: control, then: floating, otherwise: value };
}
