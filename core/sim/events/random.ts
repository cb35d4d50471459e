// The random numbers of the language, so that a testbench gives the same everywhere.
// @source IEEE 1364-2005, clause 17.9.3, the algorithm of the probabilistic functions (from memory)

/** A seed that goes on with each number drawn: 32 bits, signed. */
export interface Seed {
  value: number;
}

const LEAST = -2147483648;
const MOST = 2147483647;
const FIRST = 259341593;
/** 2 to the power of -23. */
const FRACTION = 0.00000011920928955078125;

const bits = new Uint32Array(1);
const float = new Float32Array(bits.buffer);

/** Evenly between two bounds. */
function uniform(seed: Seed, start: number, end: number): number {
  if (seed.value === 0) seed.value = FIRST;
  const [a, b] = start >= end ? [0, MOST] : [start, end];
  seed.value = (Math.imul(69069, seed.value) + 1) | 0;
  bits[0] = (seed.value >>> 9) | 0x3f800000;
  const single = float[0] as number;
  const c = single + single * FRACTION;
  return (b - a) * (c - 1) + a;
}

const down = (r: number): number => (r >= 0 ? Math.trunc(r) : Math.trunc(r - 1));

function distUniform(seed: Seed, start: number, end: number): number {
  if (start >= end) return start;
  if (end !== MOST) {
    const i = down(uniform(seed, start, end + 1));
    return Math.min(end, Math.max(start, i));
  }
  if (start !== LEAST) {
    const i = down(uniform(seed, start - 1, end) + 1);
    return Math.min(end, Math.max(start, i));
  }
  const r = (uniform(seed, start, end) + 2147483648) / 4294967295;
  return down(r * 4294967296 - 2147483648);
}

function normal(seed: Seed, mean: number, deviation: number): number {
  for (;;) {
    const v1 = uniform(seed, -1, 1);
    const v2 = uniform(seed, -1, 1);
    const s = v1 * v1 + v2 * v2;
    if (s < 1 && s !== 0) return v1 * Math.sqrt((-2 * Math.log(s)) / s) * deviation + mean;
  }
}

function exponential(seed: Seed, mean: number): number {
  const n = uniform(seed, 0, 1);
  return n === 0 ? 0 : -Math.log(n) * mean;
}

function poisson(seed: Seed, mean: number): number {
  const p = Math.exp(-mean);
  let n = 0;
  for (let q = uniform(seed, 0, 1); p < q; q *= uniform(seed, 0, 1)) n++;
  return n;
}

function chiSquare(seed: Seed, degrees: number): number {
  let x = degrees % 2 === 0 ? 0 : normal(seed, 0, 1) ** 2;
  for (let k = 2; k <= degrees; k += 2) x += 2 * exponential(seed, 1);
  return x;
}

const studentT = (seed: Seed, degrees: number): number => {
  const root = Math.sqrt(chiSquare(seed, degrees) / degrees);
  return normal(seed, 0, 1) / root;
};

function erlang(seed: Seed, stages: number, mean: number): number {
  let x = 1;
  for (let i = 1; i <= stages; i++) x *= uniform(seed, 0, 1);
  return (-mean * Math.log(x)) / stages;
}

const nearest = (r: number): number => (r >= 0 ? Math.trunc(r + 0.5) : -Math.trunc(-r + 0.5));

/** The number that a system function of that name draws. */
export function draw(name: string, seed: Seed, values: readonly number[]): number {
  const [a = 0, b = 0] = values;
  switch (name) {
    case '$dist_uniform':
      return distUniform(seed, a, b);
    case '$dist_normal':
      return nearest(normal(seed, a, b));
    case '$dist_exponential':
      return nearest(exponential(seed, Math.max(a, 0)));
    case '$dist_poisson':
      return poisson(seed, Math.max(a, 0));
    case '$dist_chi_square':
      return nearest(chiSquare(seed, a));
    case '$dist_t':
      return nearest(studentT(seed, a));
    case '$dist_erlang':
      return nearest(erlang(seed, a, b));
    default:
      return distUniform(seed, LEAST, MOST);
  }
}
