import { type GeneratorLimits, type GeneratorSetting, isWithin, madeHertz } from './generator.ts';

/** A setting, and what comes of it. */
export interface Factors {
  readonly setting: GeneratorSetting;
  /** Of each output that is used, in hertz. */
  readonly hertz: readonly number[];
  /** The largest departure from what is wanted, as a share of it; below 0 where that output is too slow. */
  readonly error: number;
}

/** An error this small is none: a frequency that is computed may be wrong in its last digits. */
const NONE = 1e-9;
const MOST_OFFERED = 4;

/**
 * Settings for frequencies that are wanted of the outputs, in hertz, the best first: one alone where it hits all of
 * them, else the nearest ones, for a single output on both sides. Among equals the one that compares at the highest
 * frequency: it locks soonest. All that there are are tried. Empty where the input cannot be used at all.
 */
export function factorsFor(limits: GeneratorLimits, input: number, wanted: readonly number[]): readonly Factors[] {
  const best = new Map<string, Factors>();
  for (const [multiply, divide] of innerSettings(limits, input)) {
    for (const outputs of dividersFor(limits, (input * multiply) / divide, wanted)) {
      const setting = { multiply, divide, outputs };
      const hertz = outputs.map((divider) => madeHertz(input, setting, divider) ?? 0);
      const error = hertz
        .map((made, i) => made / (wanted[i] ?? made) - 1)
        .reduce((worst, one) => (Math.abs(one) > Math.abs(worst) ? one : worst), 0);
      const key = hertz.map((made) => made.toPrecision(12)).join(' ');
      const known = best.get(key);
      if (!known || divide < known.setting.divide) best.set(key, { setting, hertz, error });
    }
  }
  const sorted = [...best.values()].sort((x, y) => Math.abs(x.error) - Math.abs(y.error));
  const [first] = sorted;
  if (!first || Math.abs(first.error) < NONE) return sorted.slice(0, 1);
  if (wanted.length > 1) return sorted.slice(0, MOST_OFFERED);
  const nearest = [sorted.find(({ error }) => error < 0), sorted.find(({ error }) => error > 0)];
  return sorted.filter((one) => nearest.includes(one));
}

/** Factors before the outputs that are allowed for an input. */
function innerSettings(limits: GeneratorLimits, input: number): [multiply: number, divide: number][] {
  if (!isWithin(input, limits.input)) return [];
  const found: [number, number][] = [];
  for (let divide = limits.divide.least; divide <= limits.divide.most; divide++) {
    if (!isWithin(input / divide, limits.compared)) continue;
    for (let multiply = limits.multiply.least; multiply <= limits.multiply.most; multiply++)
      if (isWithin((input * multiply) / divide, limits.inner)) found.push([multiply, divide]);
  }
  return found;
}

/** Dividers on both sides of each wanted frequency; of several outputs the nearest of each. */
function dividersFor({ divideOutput }: GeneratorLimits, inner: number, wanted: readonly number[]): number[][] {
  const near = wanted.map((hertz) => {
    const low = Math.min(divideOutput.most, Math.max(divideOutput.least, Math.floor(inner / hertz)));
    const high = Math.min(divideOutput.most, low + 1);
    return Math.abs(inner / low - hertz) <= Math.abs(inner / high - hertz) ? [low, high] : [high, low];
  });
  const [only = [], ...others] = near;
  return others.length === 0 ? only.map((one) => [one]) : [near.map(([nearest = divideOutput.least]) => nearest)];
}
