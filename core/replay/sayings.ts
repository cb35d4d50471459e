// What a replay says, in words. `called` says how a full name is to be shown.
import { counted } from '../words.ts';
import type { Unknown } from './beginning.ts';
import type { Meaning } from './meaning.ts';
import type { Trust } from './proposals.ts';
import type { Reason } from './region.ts';

type Called = (name: string) => string;

const TRUSTS: Readonly<Record<Trust, string>> = {
  none: 'Every register of what you want to see is recorded: all is known from the first sample on.',
  flows: 'Registers that depend on themselves are recorded; the others are known a few samples into the record.',
  loaded: 'Registers that a value is loaded into are computed: each is unknown until that happens.',
  reset: 'Registers that are reset at times are computed as well: each is unknown until it is reset.',
  all: 'The fewest bits: registers that nothing sets while it runs stay unknown.',
};

export const trustText = (trust: Trust): string => TRUSTS[trust];

/** How long a signal is unknown. */
export function unknownText({ samples, why, by }: Unknown, called: Called): string {
  if (samples !== null) return `the first ${counted(samples, 'sample')}`;
  const name = by === null ? 'it' : called(by);
  switch (why) {
    case 'loaded':
      return `until a value is loaded into ${name}`;
    case 'written':
      return `until the words of ${name} that are read were written`;
    case 'reset':
      return `until ${name} is reset`;
    default:
      return `always: nothing sets ${name} while it runs`;
  }
}

/** Why something can only be recorded, and was not. */
export function reasonText(reason: Reason, called: Called): string {
  const name = called(reason.name);
  switch (reason.kind) {
    case 'input':
      return `${name} comes from outside and is not in the record`;
    case 'lever':
      return `${name} was held by a lever`;
    case 'free':
      return `nothing in the design drives ${name}`;
    case 'loop':
      return `${name} feeds itself without a register`;
    case 'clock':
      return `${name} is a register of ${reason.clock}, whose edges are not in the record`;
    case 'edge':
      return `${name} takes its value at falling edges, between two samples`;
  }
}

/** Of a record whose recorder read something at its trigger, but at no sample of the record. */
export const READ_BEHIND_THE_END =
  'What was read once, at the trigger, is of a sample behind the end of this record: leave a few samples behind the trigger.';

const MEANINGS: Readonly<Record<Meaning, string>> = {
  'another-build': 'Nearly all of it disagrees from the beginning: the record is of another build.',
  crossing: 'Signals of another clock feed it, and were taken at another moment than they were recorded.',
  outside: 'It follows from a pin that moved between two samples.',
  lever: 'Something that it follows from may have been driven by hand.',
  logic: 'The hardware did what the design does not say, as it does where it is too slow for its clock.',
};

export const meaningText = (meaning: Meaning): string => MEANINGS[meaning];
