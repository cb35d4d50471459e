// Heavy computation on designs, in worker threads. Knows nothing of projects as they are stored.
export { DesignThread, type PlanCost, type PricedPlan } from './design-thread.ts';
