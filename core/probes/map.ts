import { z } from 'zod';
import { otherVersion } from '../json-file.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { RecorderPlan } from './plan.ts';

/**
 * A signal and its place in a core's word: `width` bits from bit `lo` up. `names` gives values by the names the source
 * has for them, decimal.
 */
const probedSignal = z.object({
  name: z.string(),
  width: z.number().int().positive(),
  lo: z.number().int().nonnegative(),
  signed: z.boolean(),
  names: z.record(z.string(), z.string().regex(/^\d+$/)).optional(),
  synchronised: z.literal(true).optional(),
  /** Not a signal of the design: 1 where a stepper lets the edge behind the sample through. */
  letThrough: z.literal(true).optional(),
});

const recorderMap = z.object({
  kind: z.literal('recorder'),
  core: z.number().int().positive(),
  name: z.string(),
  clock: z.string(),
  depth: z.number().int(),
  /** Bits stored a sample; may be a few more than the signals need. */
  width: z.number().int(),
  signals: z.array(probedSignal),
  /** 0 in maps of builds from before there was a choice: those recorders cannot be armed any more. */
  comparators: z.number().int().min(0).default(0),
  stages: z.number().int().min(0).default(0),
  /** Can keep chosen samples alone, each with the time it was taken. */
  qualifier: z.boolean().default(false),
  /** The most parts its buffer can be divided into, a power of two. */
  segments: z.number().int().min(1).default(1),
  /** What is read once, `onceDelay` clocks behind the first trigger: a word of its own. */
  atTrigger: z.array(probedSignal).default([]),
  /**
   * Name of the stepper that holds its clock. The upper two bits of each sample are then what it does: whether it lets
   * the edge behind the sample through, and, highest, whether it has let none through since arming.
   */
  stepper: z.string().optional(),
});

/**
 * `enable` is the place of the lever's own switch among the panel's, null when the lever is the signal's only driver.
 */
const leverMap = probedSignal.extend({ enable: z.number().int().nullable() });

const panelMap = z.object({
  kind: z.literal('panel'),
  core: z.number().int().positive(),
  name: z.string(),
  clock: z.string(),
  leverBits: z.number().int(),
  enableBits: z.number().int(),
  gaugeBits: z.number().int(),
  levers: z.array(leverMap),
  gauges: z.array(probedSignal),
  pulse: z.boolean().default(false),
  activity: z.boolean().default(false),
});

const stepperMap = z.object({
  kind: z.literal('stepper'),
  core: z.number().int().positive(),
  name: z.string(),
  clock: z.string(),
  /** Whether the design stands from its first edge on. */
  held: z.boolean(),
  /** Bits that conditions look at; may be a few more than the signals need. */
  width: z.number().int(),
  signals: z.array(probedSignal),
  /** 0 where no condition can be asked for. */
  comparators: z.number().int().min(0),
});

const bridgeMap = z.object({ kind: z.literal('bridge'), core: z.number().int().positive(), name: z.string() });

const probeMap = z.object({
  format: z.literal('nimble-probes'),
  version: z.literal(1),
  fingerprint: z.string().regex(/^[0-9a-f]{32}$/),
  /** Fingerprint that the same design has without debug cores: what can be computed from a record depends on that. */
  sources: z
    .string()
    .regex(/^[0-9a-f]{32}$/)
    .optional(),
  cores: z.array(z.discriminatedUnion('kind', [recorderMap, panelMap, stepperMap, bridgeMap])),
});

export type ProbedSignal = z.infer<typeof probedSignal>;
export type RecorderMap = z.infer<typeof recorderMap>;
export type LeverMap = z.infer<typeof leverMap>;
export type PanelMap = z.infer<typeof panelMap>;
export type StepperMap = z.infer<typeof stepperMap>;
export type BridgeMap = z.infer<typeof bridgeMap>;
export type CoreMap = RecorderMap | PanelMap | StepperMap | BridgeMap;

/** Ports that a bridge adds to the top module, for the pins of the flash. */
export const BRIDGE_PORTS = { cs_n: 'flash_cs_n', sck: 'flash_sck', mosi: 'flash_mosi', miso: 'flash_miso' } as const;

/** Where every probed signal is in the hardware of one build. docs/formats.md, section 3 */
export type ProbeMap = z.infer<typeof probeMap>;

/** Bits that are read once, at the trigger. */
export const onceBits = ({ atTrigger }: Pick<RecorderMap, 'atTrigger'>): number =>
  atTrigger.reduce((sum, { width }) => sum + width, 0);

/** Wider words are compared in parts of 64 bits, a clock each. */
const PART_BITS = 64;

/** Clocks from the sample that triggers to the one of which `atTrigger` is read. */
export const onceDelay = ({ width, stages }: Pick<RecorderMap, 'width' | 'stages'>): number =>
  Math.ceil(width / PART_BITS) + 2 + (stages > 2 ? 1 : 0);

/** What a trace is called that says whether a stepper lets the edges of a clock through. */
export const letThroughName = (clock: string): string => `let_through.${clock}`;

/** Bits of a time stamp: clocks since arming. */
export const STAMP_BITS = 32;

/** Bits of one stored word: the sample, its time stamp, whether it triggered, from low to high. */
export const wordBits = ({ width, qualifier, segments }: RecorderMap): number =>
  width + (qualifier ? STAMP_BITS : 0) + (segments > 1 ? 1 : 0);

/** What a recorder's plan said when it was built. */
export const planOf = ({
  name,
  clock,
  depth,
  comparators,
  stages,
  qualifier,
  segments,
  signals,
  atTrigger,
}: RecorderMap): RecorderPlan => {
  const synchronised = signals.flatMap((signal) => (signal.synchronised ? [signal.name] : []));
  return {
    name,
    clock,
    depth,
    comparators,
    stages,
    signals: signals.flatMap((signal) => (signal.letThrough ? [] : [signal.name])),
    ...(qualifier ? { qualifier } : {}),
    ...(segments > 1 ? { segments } : {}),
    ...(synchronised.length > 0 ? { synchronised } : {}),
    ...(atTrigger.length > 0 ? { atTrigger: atTrigger.map(({ name }) => name) } : {}),
  };
};

export const mapOf = (fingerprint: string, cores: ProbeMap['cores']): ProbeMap => ({
  format: 'nimble-probes',
  version: 1,
  fingerprint,
  cores,
});

export function readProbeMap(data: unknown): Result<ProbeMap> {
  const read = probeMap.safeParse(data);
  if (read.success) return ok(read.data);
  const version = otherVersion(data, read.error);
  if (version !== null) return fail(problem('probe-map (version)', { version }));
  const [first] = read.error.issues;
  return fail(problem('probe-map', { path: first?.path.join('.') || 'the file', why: first?.message ?? '' }));
}
