// Heavy computation on designs and files, in worker threads. Knows nothing of projects as they are stored.
export { type BlockFacts, type GivenFile, ReadingThread } from './reading-thread.ts';
export { SimulationThread, type TestbenchRequest, type TestbenchRun } from './simulation-thread.ts';
export { DesignThread, type PlanCost, type PricedPlan } from './design-thread.ts';
