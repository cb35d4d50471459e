import { z } from 'zod';
import { base64FromBytes, bytesFromBase64, packedLength } from '../bits/index.ts';
import type { CableOp } from '../jtag/index.ts';
import { boardView } from '../board/index.ts';
import { lineSettings } from '../serial/index.ts';

export const POD_PROTOCOL = 4;
const MOST_CYCLES = 1 << 24;

const count = z.number().int().min(0).max(MOST_CYCLES);

/** A cable operation on the wire: packed bits in base64. */
const wireOp = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('tms'), count, tms: z.string() }),
  z.object({ kind: z.literal('shift'), count, tdi: z.string(), capture: z.boolean(), exit: z.boolean() }),
  z.object({ kind: z.literal('clock'), count }),
  z.object({ kind: z.literal('wait'), microseconds: z.number().min(0).max(60_000_000) }),
  z.object({ kind: z.literal('trst'), asserted: z.boolean() }),
]);

type WireOp = z.infer<typeof wireOp>;

const id = z.number().int();

/** Of one message on the serial line, in base64; and the longest break. */
const MOST_LINE_TEXT = 1 << 17;
const MOST_BENCH_TEXT = 1 << 20;
const MOST_LOW_MILLISECONDS = 5000;

/** Something done to the board by whoever used the pod, told so that others know. docs/pod-protocol.md, section 5 */
const podDeed = z.object({
  kind: z.enum(['load', 'flash']),
  outcome: z.enum(['done', 'failed']),
  /** Place in the chain; null where it was not found. */
  device: z.number().int().min(0).max(1000).nullable(),
  part: z.string().max(60),
  /** Of the design that was loaded, or that boots from the flash now; null where there is none, or nobody knows. */
  fingerprint: z.string().max(64).nullable(),
  /** File or build it came from. */
  source: z.string().max(200),
  verified: z.boolean().nullable(),
  /** Of a change of the flash: what booted before is still there. */
  leaves: z.boolean().default(false),
  chip: z.string().max(100).nullable(),
  message: z.string().max(1000),
});

export type PodDeed = z.input<typeof podDeed>;

/** The same with who did it, when, and its number since this start of the pod. */
const toldDeed = podDeed.extend({
  by: z.string().max(200),
  time: z.string().max(40),
  number: z.number().int().min(1),
  pod: z.string().max(80),
});

export type ToldDeed = z.infer<typeof toldDeed>;

/** docs/pod-protocol.md, section 2 */
export const podRequest = z.discriminatedUnion('method', [
  z.object({
    id,
    method: z.literal('hello'),
    token: z.string().max(1000),
    client: z.string().min(1).max(200),
    protocol: z.number(),
  }),
  z.object({ id, method: z.literal('lease') }),
  z.object({ id, method: z.literal('release') }),
  z.object({ id, method: z.literal('run'), ops: z.array(wireOp) }),
  z.object({ id, method: z.literal('state') }),
  z.object({ id, method: z.literal('frequency'), hz: z.number().positive(), keep: z.boolean().default(false) }),
  z.object({ id, method: z.literal('fault'), name: z.string().max(60), on: z.boolean() }),
  z.object({ id, method: z.literal('power'), on: z.boolean() }),
  z.object({ id, method: z.literal('reconfigure') }),
  z.object({ id, method: z.literal('reset') }),
  z.object({ id, method: z.literal('boot-source'), source: z.enum(['flash', 'jtag']) }),
  z.object({ id, method: z.literal('operate'), name: z.string().max(100), on: z.boolean() }),
  z.object({ id, method: z.literal('turn'), name: z.string().max(100), value: z.number() }),
  z.object({ id, method: z.literal('line-settings'), settings: lineSettings }),
  z.object({ id, method: z.literal('line-send'), data: z.string().max(MOST_LINE_TEXT) }),
  z.object({ id, method: z.literal('line-low'), milliseconds: z.number().positive().max(MOST_LOW_MILLISECONDS) }),
  z.object({ id, method: z.literal('line-drop') }),
  z.object({ id, method: z.literal('line-listen'), from: z.number().int().min(0).nullable() }),
  z.object({ id, method: z.literal('bench-file'), text: z.string().max(MOST_BENCH_TEXT) }),
  z.object({ id, method: z.literal('watch') }),
  z.object({ id, method: z.literal('ask') }),
  z.object({ id, method: z.literal('tell'), deed: podDeed }),
  z.object({
    id,
    method: z.literal('stage'),
    name: z.string().max(200),
    bytes: z.number().int().min(1),
    sha256: z.string().regex(/^[0-9a-f]{64}$/),
  }),
  z.object({ id, method: z.literal('stage-piece'), file: z.number().int(), data: z.string() }),
  z.object({ id, method: z.literal('stage-check'), file: z.number().int() }),
  z.object({ id, method: z.literal('stage-drop'), file: z.number().int() }),
  z.object({ id, method: z.literal('stage-stop'), file: z.number().int() }),
  z.object({ id, method: z.literal('staged') }),
  z.object({
    id,
    method: z.literal('execute'),
    file: z.number().int(),
    what: z.enum(['load', 'svf']),
    device: z.number().int().min(0).nullable(),
  }),
]);

export type PodRequest = z.infer<typeof podRequest>;

const problemShape = z.object({ code: z.string(), message: z.string(), tryNext: z.array(z.string()).readonly() });

/** What a pod can do beside clocking a chain; what it lacks is hidden, or asked of the person at the desk. */
const capabilities = z.object({
  /** Switches the board's supply. */
  power: z.boolean(),
  /** Sets where the FPGA boots from. */
  bootSwitch: z.boolean(),
  /** Pulls the reconfigure wire. */
  reconfigure: z.boolean(),
  /** Pulls the board's system reset. */
  reset: z.boolean().default(false),
  /** Sends a live picture of the board. */
  view: z.boolean(),
  /** Makes things go wrong, for practice. */
  practice: z.boolean(),
  /** Has a serial line to the board. */
  line: z.boolean().default(false),
  /** Takes a bench file instead of the one it runs: only a simulation does. */
  bench: z.boolean().default(false),
});
export type PodCapabilities = z.infer<typeof capabilities>;

const cableState = z.object({
  attached: z.boolean(),
  referenceVolts: z.number().nullable(),
  tckHz: z.number().positive(),
  leastHz: z.number().positive(),
  mostHz: z.number().positive(),
  trouble: problemShape.nullable().optional(),
});

const stagedFile = z.object({
  id,
  name: z.string(),
  bytes: z.number(),
  sha256: z.string(),
  state: z.enum(['arriving', 'ready', 'running', 'done', 'failed']),
  log: z.array(z.string()),
  problem: problemShape.nullable(),
});

/** What the result of each method looks like; the client believes nothing else. */
export const podResults = {
  hello: z.object({ pod: z.string().max(200), state: cableState, capabilities }),
  run: z.array(z.string()),
  state: cableState,
  frequency: z.number().positive(),
  'line-settings': lineSettings,
  'line-send': z.number().int().min(0),
  'line-listen': z.object({ next: z.number().int().min(0), settings: lineSettings }),
  stage: z.object({ id }),
  staged: z.array(stagedFile),
} as const;

/** What a pod tells unasked about itself and the board. Nulls where it has nothing of the kind. */
const podStatus = z.object({
  cable: cableState,
  /** Who holds the cable, and who would like to. */
  lease: z.string().nullable(),
  asked: z.string().nullable(),
  /** Simulated time per wall time over the last second; null on a real pod. */
  speed: z.number().nullable(),
  view: boardView.nullable(),
  /** How the serial line is spoken, bytes that wait to be sent, and whether the board asks for a pause. */
  line: z.object({ settings: lineSettings, queued: z.number(), waits: z.boolean() }).nullable().default(null),
  faults: z.array(z.object({ name: z.string().max(60), label: z.string().max(200), on: z.boolean() })).max(200),
});
export type PodStatusEvent = z.infer<typeof podStatus>;

/** What came on the serial line. docs/pod-protocol.md, section 6 */
const heardOnLine = z.object({
  /** Number of the first byte, counted from the pod's start, and how many before it came and are gone. */
  first: z.number().int().min(0),
  lost: z.number().int().min(0),
  /** Microseconds on the pod's clock. */
  now: z.number(),
  /** Bytes without a pause between them: when the first one began, how far they are apart, and what they are. */
  runs: z.array(z.object({ at: z.number(), every: z.number().min(0), data: z.string() })),
  troubles: z.array(z.object({ byte: z.number().int(), trouble: z.enum(['framing', 'parity', 'break']) })),
  /** Some pulses of the line, the first one at `level`, then by turns. */
  pulses: z
    .object({ level: z.union([z.literal(0), z.literal(1)]), nanoseconds: z.array(z.number().min(0)) })
    .nullable(),
});
export type HeardOnLine = z.infer<typeof heardOnLine>;

/** Everything that comes from a pod: answers, that a request is still being worked on, and what it tells unasked. */
export const podReply = z.union([
  z.object({ id, ok: z.literal(true), result: z.unknown() }),
  z.object({ id, ok: z.literal(false), problem: problemShape }),
  z.object({ id, done: z.number(), total: z.number() }),
  z.object({ event: z.literal('status'), status: podStatus }),
  z.object({ event: z.literal('deed'), deed: toldDeed }),
  z.object({ event: z.literal('line'), line: heardOnLine }),
]);
export type PodReply = z.infer<typeof podReply>;

export function toWire(op: CableOp): WireOp {
  switch (op.kind) {
    case 'tms':
      return { ...op, tms: base64FromBytes(op.tms) };
    case 'shift':
      return { ...op, tdi: base64FromBytes(op.tdi) };
    default:
      return op;
  }
}

/** Null for what is no base64. */
export function fromBase64(text: string): Uint8Array | null {
  try {
    return bytesFromBase64(text);
  } catch {
    return null;
  }
}

/** Null when there are fewer bits than the count says. */
export function fromWire(op: WireOp): CableOp | null {
  switch (op.kind) {
    case 'tms': {
      const tms = fromBase64(op.tms);
      return tms && tms.length >= packedLength(op.count) ? { ...op, tms } : null;
    }
    case 'shift': {
      const tdi = fromBase64(op.tdi);
      return tdi && tdi.length >= packedLength(op.count) ? { ...op, tdi } : null;
    }
    default:
      return op;
  }
}
