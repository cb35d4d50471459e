// What a replay found, in words for a terminal.
import type { Meaning, Reason, Unknown } from '../core/replay/index.ts';
import { counted } from '../core/words.ts';

export function unknownText({ samples, why, by }: Unknown): string {
  if (samples !== null) return `in the first ${counted(samples, 'sample')}`;
  switch (why) {
    case 'loaded':
      return `until a value is loaded into ${by}`;
    case 'written':
      return `until the words of ${by} that are read were written`;
    case 'reset':
      return `until ${by} is reset`;
    default:
      return `for good: nothing sets ${by} while it runs`;
  }
}

export function reasonText(reason: Reason): string {
  switch (reason.kind) {
    case 'input':
      return `${reason.name}, which comes from outside`;
    case 'lever':
      return `${reason.name}, which a lever held`;
    case 'free':
      return `${reason.name}, which nothing in the design drives`;
    case 'loop':
      return `${reason.name}, which feeds itself without a register`;
    case 'clock':
      return `${reason.name}, a register of ${reason.clock}, whose edges are not in the record`;
    case 'edge':
      return `${reason.name}, which takes its value at falling edges, between two samples`;
  }
}

const MEANINGS: Readonly<Record<Meaning, string>> = {
  'another-build': 'Nearly all of it disagrees from the beginning: the record is of another build.',
  crossing: 'Signals of another clock feed it: they were taken at another moment than they were recorded.',
  outside: 'It follows from a pin that moved between two samples.',
  lever: 'Something that it follows from may have been driven by hand.',
  logic: 'The hardware did what the design does not say, as it does where it is too slow for its clock.',
};

export const meaningText = (meaning: Meaning): string => MEANINGS[meaning];
