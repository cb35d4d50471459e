import { item } from '../../lists.ts';
import { counted } from '../../words.ts';
import {
  bounds,
  type Expression,
  type FunctionItem,
  functionShape,
  GiveUp,
  type Item,
  resolveType,
  type Scope,
  type Shape,
  arrayShape,
  type TaskItem,
} from '../../hdl/index.ts';
import type { Operand } from './code.ts';
import { kindOf } from './code.ts';
import { type Context, inScope } from './context.ts';

/** An argument of a function or a task as it is declared. */
export interface Port {
  readonly name: string;
  readonly direction: 'input' | 'output' | 'inout';
  readonly shape: Shape;
  readonly otherwise: Expression | null;
}

/** The arguments a routine takes, in order. */
export function portsOf(routine: FunctionItem | TaskItem, scope: Scope, context: Context): Port[] {
  const { evaluation } = inScope(context, scope);
  const found = new Map<string, Port>();
  for (const one of routine.items) {
    if (one.kind !== 'declaration' || one.direction === null) continue;
    const { direction } = one;
    const word = resolveType(one.type, evaluation);
    for (const { name, dimensions, value } of one.names) {
      const shape = [...dimensions]
        .reverse()
        .reduce<Shape>(
          (inner, range) => ({ ...arrayShape(inner, ...bounds(range, evaluation)), unpacked: true }),
          widened(routine.items, name, word, evaluation),
        );
      found.set(name, { name, direction, shape, otherwise: value });
    }
  }
  return [...found.values()];
}

/** `input a; reg [7:0] a;` of the older style: the second says how wide it is. */
function widened(items: readonly Item[], name: string, word: Shape, context: Context['evaluation']): Shape {
  for (const one of items)
    if (one.kind === 'declaration' && one.direction === null && one.names.some((n) => n.name === name)) {
      const again = resolveType(one.type, context);
      if (again.width > word.width || again.special) return again;
    }
  return word;
}

export function given(
  routine: FunctionItem | TaskItem,
  ports: readonly Port[],
  values: readonly Expression[],
  at: Expression['at'],
): Expression[] {
  const all = ports.map((port, i) => {
    const value = values[i];
    return value === undefined || value.kind === 'nothing' ? port.otherwise : value;
  });
  const complete = all.filter((one) => one !== null);
  if (values.length > ports.length || complete.length < ports.length)
    throw new GiveUp(
      'arguments',
      at,
      `The ${routine.kind} "${routine.name}" takes ${counted(ports.length, 'argument')}, ${values.length} are given.`,
    );
  return complete;
}

/** Calls a function; its value comes back, and what is unknown of it beside. */
export function emitRoutineCall(
  routine: FunctionItem,
  scope: Scope,
  values: readonly Expression[],
  context: Context,
  { emitFor }: { readonly emitFor: (expression: Expression, shape: Shape, context: Context) => Operand },
): Operand {
  const { code, shared } = context;
  const ports = portsOf(routine, scope, context);
  if (ports.some(({ direction }) => direction !== 'input'))
    throw new GiveUp(
      'not-taken',
      routine.at,
      `A function with outputs is not taken here: make "${routine.name}" a task.`,
    );
  const place = values[0]?.at ?? routine.at;
  const complete = given(routine, ports, values, place);
  const operands = ports.map((port, i) => emitFor(item(complete, i), port.shape, context));
  const { name, soiled } = shared.routine(routine, scope);
  for (const id of soiled) context.soiled?.add(id);
  const shape = functionShape(routine, scope, context.evaluation);
  const v = code.name();
  code.line(`const ${v} = ${name}(${operands.flatMap((one) => [one.v, one.x]).join(', ')});`);
  const kind = shape.special ?? kindOf(shape.width);
  if (shape.special) return { kind, v, x: '0', width: 64 };
  const x = code.name();
  code.line(`const ${x} = R.x;`);
  return { kind, v, x, width: shape.width };
}
