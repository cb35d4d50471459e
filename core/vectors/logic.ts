/**
 * A word of 0, 1, x and z: where `unknown` has 0 the bit of `value` counts; where it has 1, `value` tells x (1) from z
 * (0).
 */
export interface Logic {
  readonly value: bigint;
  readonly unknown: bigint;
}
