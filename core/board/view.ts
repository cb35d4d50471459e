import { z } from 'zod';

const text = z.string().max(100);
const label = { name: text, label: text };
/** Pin of the FPGA that it is wired to; null where that is not known. */
const pin = text.nullable().default(null);
/** Of a part with several; none where they are not known. */
const pins = z.array(text).max(64).default([]);

/** Kinds of parts that every page can draw. Levels 0 to 1. */
const part = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('lamp'), ...label, pin, level: z.number(), hertz: z.number().nullable() }),
  z.object({ kind: z.literal('button'), ...label, pin, down: z.boolean() }),
  z.object({ kind: z.literal('switch'), ...label, pin, on: z.boolean() }),
  /** One of several positions, as a boot switch has them. */
  z.object({ kind: z.literal('selector'), ...label, position: text, positions: z.array(text).max(16) }),
  /** Seven-segment digits, the rightmost first; eight levels each, a to g and the point. */
  z.object({ kind: z.literal('digits'), name: text, pins, rows: z.array(z.array(z.number()).max(8)).max(32) }),
  /** Rows of characters. */
  z.object({ kind: z.literal('text'), ...label, pins, isOn: z.boolean(), rows: z.array(text).max(8) }),
  /** Keys by their names; one is operated as the keyboard's name, a slash and its own. */
  z.object({ kind: z.literal('keyboard'), ...label, pins, keys: z.array(text).max(200), down: z.array(text).max(200) }),
  /** A reading that hands set between two limits. */
  z.object({
    ...{ kind: z.literal('dial'), ...label, value: z.number(), low: z.number(), high: z.number() },
    unit: z.string().max(20),
    pins,
  }),
  /** Runs to a pin of the FPGA; hertz. */
  z.object({ kind: z.literal('oscillator'), name: text, pin: text, hz: z.number() }),
  /** Something of its own kind that a pod brings; who knows `scene` draws it, all others pass it over. */
  z.object({ kind: z.literal('scene'), name: text, scene: text, state: z.record(z.string(), z.unknown()) }),
]);

/** A live picture of a board as a pod sends it: what a person in front of it sees, and where hands last left it. */
export const boardView = z.object({
  /** Microseconds on the board's own clock. */
  time: z.number(),
  /** Place in the chain of the FPGA that the parts hang on; -1 where that is not known. */
  fpga: z.number().int(),
  parts: z.array(part).max(400),
});

export type BoardView = z.infer<typeof boardView>;
export type BoardPart = BoardView['parts'][number];
