// What the names of a design stand for: scopes, types, parameters, generate, constants as four-state values. Gives the
// elaborated design: instances, objects and what each of them does. Computes nothing that happens while it runs.
export {
  asGiveUp,
  type Design,
  type DesignOptions,
  hierarchyOf,
  offeredModules,
  type OfferedModule,
  readDesign,
} from './design.ts';
export {
  bitsOfReal,
  evaluationIn,
  literal,
  mathFunction,
  ofReal,
  realOfBits,
  sliceOf,
} from './evaluate.ts';
export type { Evaluation } from './evaluation.ts';
export {
  castType,
  COMPARISONS,
  functionOf,
  functionShape,
  isPart,
  LOGICAL,
  neededWidth,
  numberFunction,
  type Part,
  partShape,
  routineOf,
  shapeOf,
  SHIFTS,
  simulationFunction,
  type Type,
  typeNamed,
  typeOf,
} from './expression-type.ts';
export * as four from './four-state.ts';
export type { Word } from './four-state.ts';
export { declareLocals, localVector } from './locals.ts';
export { entityOf, lookup, valueless, type WordAccess, wordAccess } from './lookup.ts';
export { memoryEntries, readWords } from './memory-file.ts';
export { patternValues, placesOf } from './pattern.ts';
export { bounds, resolveType } from './resolve-type.ts';
export {
  type Behaviour,
  type BehaviourItem,
  type Constant,
  constantNumber,
  countWork,
  type Elaborated,
  type FunctionItem,
  type HierarchyNode,
  type MemoryArray,
  type NameContext,
  type Names,
  Scope,
  type TaskItem,
  type Vector,
} from './scope.ts';
export { arrayShape, bitsShape, elementAt, elementCount, elementWidth, type Shape } from './shape.ts';
