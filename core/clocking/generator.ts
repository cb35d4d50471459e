/** From the least to the greatest that is allowed, both included. */
interface Span {
  readonly least: number;
  readonly most: number;
}

/** What a clock generator can do. Frequencies in hertz. */
export interface GeneratorLimits {
  readonly multiply: Span;
  readonly divide: Span;
  /** Of each output. */
  readonly divideOutput: Span;
  /** What it takes. */
  readonly input: Span;
  /** What it compares: the input divided. */
  readonly compared: Span;
  /** What it makes inside, before the outputs divide it. */
  readonly inner: Span;
}

/** An output gives input × multiply / (divide × its divider); a divider of 0 leaves it at rest. */
export interface GeneratorSetting {
  readonly multiply: number;
  readonly divide: number;
  readonly outputs: readonly number[];
}

/** Hertz of an output with that divider; null for one at rest. */
export const madeHertz = (
  input: number,
  { multiply, divide }: Pick<GeneratorSetting, 'multiply' | 'divide'>,
  divider: number,
): number | null => (divider === 0 ? null : (input * multiply) / (divide * divider));

/** A factor, or a frequency in hertz, that the cell does not do. `output` counts from 0. */
export interface OutOfRange extends Span {
  readonly what: 'multiply' | 'divide' | 'output' | 'input' | 'compared' | 'inner';
  readonly value: number;
  readonly output?: number;
}

/** Everything about a setting that the cell does not do; frequencies only where that of the input is known. */
export function outOfRange(limits: GeneratorLimits, setting: GeneratorSetting, input: number | null): OutOfRange[] {
  const { multiply, divide } = setting;
  const found: OutOfRange[] = [];
  const check = (of: Omit<OutOfRange, 'least' | 'most'>, span: Span) => {
    if (!isWithin(of.value, span)) found.push({ ...of, ...span });
  };
  check({ what: 'multiply', value: multiply }, limits.multiply);
  check({ what: 'divide', value: divide }, limits.divide);
  for (const [output, value] of setting.outputs.entries())
    if (value !== 0) check({ what: 'output', value, output }, limits.divideOutput);
  if (found.length > 0 || input === null) return found;
  check({ what: 'input', value: input }, limits.input);
  check({ what: 'compared', value: input / divide }, limits.compared);
  check({ what: 'inner', value: (input * multiply) / divide }, limits.inner);
  return found;
}

/** A frequency that is computed may be wrong in its last digits. */
const ROUNDING = 1e-9;

export const isWithin = (value: number, { least, most }: Span): boolean =>
  value >= least * (1 - ROUNDING) && value <= most * (1 + ROUNDING);
