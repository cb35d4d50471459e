// The trigger language and what it becomes in a recorder's registers. So far: comparisons of signals with values, joined by &&.
export { compileCondition, type Comparison, parseValue } from './condition.ts';
