import { z } from 'zod';
import { MOST_COMPARATORS, MOST_SEGMENTS, MOST_STAGES } from './program.ts';

const MOST_DEPTH = 1 << 16;
const isPowerOfTwo = (n: number) => (n & (n - 1)) === 0;

/** What the user wants to see: any signals of one clock, in a buffer of `depth` samples. */
const recorderPlan = z.object({
  name: z.string().min(1),
  /** Kept in the plan, left out of the build. */
  off: z.boolean().optional(),
  clock: z.string().min(1),
  depth: z.number().int().min(16).max(MOST_DEPTH).refine(isPowerOfTwo, 'the depth must be a power of two'),
  signals: z.array(z.string().min(1)).min(1),
  /**
   * Those of its signals that belong to another clock and come in through two registers of this one, two samples late.
   */
  synchronised: z.array(z.string().min(1)).optional(),
  /** How many things can be compared at once, and how many conditions can follow each other; fixed by the build. */
  comparators: z.number().int().min(1).max(MOST_COMPARATORS).optional(),
  stages: z.number().int().min(1).max(MOST_STAGES).optional(),
  /** Whether it can keep chosen samples alone, each with its time. */
  qualifier: z.boolean().optional(),
  /** How many short captures its buffer can hold one after another. */
  segments: z
    .number()
    .int()
    .min(1)
    .max(MOST_SEGMENTS)
    .refine(isPowerOfTwo, 'the number of segments must be a power of two')
    .optional(),
  /** What is read once, at its first trigger, instead of in every sample; of its own clock. */
  atTrigger: z.array(z.string().min(1)).optional(),
});

/** What the user wants to drive and read by hand. A lever on a driven signal overrides it until it is released. */
const panelPlan = z.object({
  name: z.string().min(1),
  off: z.boolean().optional(),
  /** A clock of the design; empty for TCK, which the debug link brings, in a design that has none. */
  clock: z.string(),
  levers: z.array(z.string().min(1)),
  gauges: z.array(z.string().min(1)),
  /** Whether levers can be set for so many cycles of its clock alone. */
  pulse: z.boolean().optional(),
  /** Whether it keeps, of each bit of its gauges, if it rose or fell since it was read last. */
  activity: z.boolean().optional(),
});

/** Lets the edges of a clock through to the design, none, all, or so many; see docs/silicon.md, section 6. */
const stepperPlan = z.object({
  name: z.string().min(1),
  off: z.boolean().optional(),
  clock: z.string().min(1),
  /** Whether the design stands from its first edge on, until it is let go. */
  held: z.boolean().optional(),
  /** What a condition to run until may look at, and how many things it can compare at once. */
  signals: z.array(z.string().min(1)).optional(),
  comparators: z.number().int().min(1).max(MOST_COMPARATORS).optional(),
});

/** Reaches a flash on four pins of the fabric: for a part whose flash nothing else here reaches. */
const bridgePlan = z.object({ name: z.string().min(1), off: z.boolean().optional() });

/** Signals are named by their full path in the hierarchy. docs/formats.md, section 3 */
export const probePlan = z.object({
  recorders: z.array(recorderPlan),
  panels: z.array(panelPlan),
  steppers: z.array(stepperPlan).optional(),
  bridge: bridgePlan.optional(),
});

export type RecorderPlan = z.infer<typeof recorderPlan>;
export type PanelPlan = z.infer<typeof panelPlan>;
export type StepperPlan = z.infer<typeof stepperPlan>;
export type ProbePlan = z.infer<typeof probePlan>;

/** The cores of both. */
export const joinedPlans = (a: ProbePlan, b: ProbePlan): ProbePlan => ({
  recorders: [...a.recorders, ...b.recorders],
  panels: [...a.panels, ...b.panels],
  steppers: [...(a.steppers ?? []), ...(b.steppers ?? [])],
  ...((a.bridge ?? b.bridge) ? { bridge: a.bridge ?? b.bridge } : {}),
});

/** How many debug cores a plan asks for, those that are switched off among them. */
export const coresIn = ({ recorders, panels, steppers = [], bridge }: ProbePlan): number =>
  recorders.length + panels.length + steppers.length + (bridge ? 1 : 0);

export const emptyPlan: ProbePlan = { recorders: [], panels: [] };
