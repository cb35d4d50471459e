// Debug cores: their Verilog, their insertion into a design, the map that says where what is, and the host side that
// speaks to them through one JTAG user register. docs/silicon.md, section 6, and docs/formats.md, section 3.

export { insertCores } from './insert.ts';
export { type CheaperPlan, cheapestFit, fits, planCost, type ProbeCost, type Room } from './cost.ts';
export {
  activePlan,
  missingNames,
  type PlanShelf,
  planShelf,
  readPlanFile,
  readShelf,
  writePlanFile,
} from './shelf.ts';
export {
  letThroughName,
  type LeverMap,
  onceDelay,
  type PanelMap,
  planOf,
  type ProbedSignal,
  type ProbeMap,
  readProbeMap,
  type RecorderMap,
  STAMP_BITS,
  type StepperMap,
  wordBits,
} from './map.ts';
export {
  coresIn,
  emptyPlan,
  joinedPlans,
  type PanelPlan,
  type ProbePlan,
  probePlan,
  type RecorderPlan,
  type StepperPlan,
} from './plan.ts';
export { partOf, signalPart } from './part.ts';
export { type Standstill, standstillOf } from './hold.ts';
export {
  READINGS_KEPT,
  readingRate,
  readingsCsv,
  stepped,
  type TimedReading,
  withReading,
} from './readings.ts';
export { parseLimit, parseValues } from './values-in-turn.ts';
export { truthTable } from './truth-table.ts';
export { planForTable, type TablePlan } from './table-plan.ts';
export { isAtRest, StepperClient, type StepperState } from './stepper-client.ts';
export { BridgeClient } from './bridge-client.ts';
export { HubClient } from './hub-client.ts';
export { MOST_PULSE } from './panel-client.ts';
export { DEBUG_FILE } from './verilog.ts';
export {
  RecorderClient,
  type Filled,
  type RecorderState,
} from './recorder-client.ts';
export type { RecorderStatus } from './recorder-words.ts';
export {
  AT_ONCE,
  type ComparatorSetting,
  DEFAULT_COMPARATORS,
  DEFAULT_STAGES,
  KEEP_ALL,
  MOST_COMPARATORS,
  MOST_SEGMENTS,
  MOST_STAGES,
  MOST_TIMES,
  MOST_WITHIN,
  type StageSetting,
  type TriggerProgram,
} from './program.ts';
export { PanelClient, type PanelReading } from './panel-client.ts';
export { takeAlong, writtenAlong } from './take-along.ts';
export { parseLeverValue } from './lever-value.ts';
export { formsOf, parseValueIn, type ValueForm, writeValue } from './value-form.ts';
export type { Placement } from './recorder-words.ts';
