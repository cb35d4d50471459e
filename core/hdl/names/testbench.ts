import type { Module, Statement } from '../read/index.ts';

/** Says something, or ends a run: what a testbench does and hardware does not. */
const SAYS = /^\$(f?(display|write|monitor|strobe)[bho]?|finish|stop|dump\w+|error|fatal|warning|info)$/;
const WAITS = new Set(['delay', 'wait', 'forever', 'fork', 'hold']);

/**
 * Whether a module looks like a testbench: nothing goes in or out of it, and it waits for times, or prints. Only a
 * guess: the project may say otherwise.
 */
export const isTestbench = ({ ports, items }: Module): boolean =>
  ports.length === 0 &&
  items.some((item) => {
    if (item.kind === 'always') return contains(item.body, isWaiting);
    return item.kind === 'initial' && contains(item.body, (one) => isWaiting(one) || isSaying(one));
  });

const isWaiting = (statement: Statement): boolean =>
  WAITS.has(statement.kind) || (statement.kind === 'assign' && statement.timing !== null);

const isSaying = (statement: Statement): boolean => statement.kind === 'call' && SAYS.test(statement.name);

function contains(statement: Statement, is: (statement: Statement) => boolean): boolean {
  if (is(statement)) return true;
  switch (statement.kind) {
    case 'block':
      return statement.body.some((one) => contains(one, is));
    case 'if':
      return contains(statement.then, is) || (statement.otherwise !== null && contains(statement.otherwise, is));
    case 'case':
      return statement.arms.some((arm) => contains(arm.body, is));
    case 'for':
    case 'while':
    case 'repeat':
    case 'events':
      return contains(statement.body, is);
    default:
      return false;
  }
}
