import type { Delays } from '../../families/index.ts';
import { item } from '../../lists.ts';
import type { Step } from './path.ts';

/** A wire that reaches more places than this takes long by that alone. */
const MANY_PLACES = 16;
/** Savings below this many nanoseconds are none. */
const LEAST_SAVING = 0.1;

interface Advice {
  readonly saves: number;
  readonly text: string;
}

/**
 * What would shorten a way most, in one sentence with the time it saves; null where it is as short as can be. Reckoned
 * with the same delays as the way.
 */
export function adviceFor(steps: readonly Step[], delays: Delays): string | null {
  const all = [...cuts(steps, delays), ...fewerPlaces(steps, delays), ...narrower(steps, delays)];
  const best = all.filter(({ saves }) => saves >= LEAST_SAVING).sort((x, y) => y.saves - x.saves)[0];
  return best?.text ?? null;
}

const named = ({ name, file, line }: Step): string => `${name}${file === '' ? '' : ` (${file}:${line})`}`;
const ns = (time: number): string => `${time.toFixed(2)} ns`;

/**
 * A register in the middle makes two ways of one. Of a way through a pin the clock's own way counts for the half at the
 * pin, and not for that between registers.
 */
function cuts(steps: readonly Step[], { clockToOut, setup, route }: Delays): Advice[] {
  const whole = item(steps, steps.length - 1).at;
  const clockIn = Math.abs(steps.find(({ what }) => what === 'clock')?.own ?? 0);
  return steps.flatMap((step, i) => {
    // A block RAM takes long to answer: its value may rest in a register first.
    const isMemory = i === 0 && step.what === 'memory';
    if (!isMemory && step.what !== 'LUT' && step.what !== 'carry chain') return [];
    const first = step.at + route + setup - clockIn;
    const second = clockToOut + whole - step.at + clockIn;
    const place = `${isMemory ? 'the memory ' : ''}${named(step)}`;
    return [
      {
        saves: whole - Math.max(first, second),
        text: `A register behind ${place} makes two ways of it, ${ns(first)} and ${ns(second)}.`,
      },
    ];
  });
}

/** Copies of what very many places take. */
function fewerPlaces(steps: readonly Step[], { routeGrowth }: Delays): Advice[] {
  return steps.flatMap((step, i) => {
    const source = steps[i - 1];
    if (step.what !== 'wire' || !source || step.fanout <= MANY_PLACES) return [];
    const saves = routeGrowth * Math.log2(step.fanout / MANY_PLACES);
    return [
      {
        saves,
        text: `${named(source)} reaches ${step.fanout} places; copies of it for ${MANY_PLACES} each save ${ns(saves)}.`,
      },
    ];
  });
}

/** A carry chain of half the bits. */
function narrower(steps: readonly Step[], { lut, chainEnds, carry }: Delays): Advice[] {
  return steps.flatMap((step) => {
    if (step.what !== 'carry chain') return [];
    const bits = Math.round((step.own - lut - chainEnds) / carry);
    return [
      {
        saves: Math.floor(bits / 2) * carry,
        text: `${named(step)} carries over ${bits} bits; each 8 bits fewer save ${ns(8 * carry)}.`,
      },
    ];
  });
}
