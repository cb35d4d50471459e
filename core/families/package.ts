/**
 * One pad of a package. `x` and `y` are millimetres from the body's upper left corner to the pad's centre, y downwards.
 */
export interface PackagePin {
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly kind: 'io' | 'supply' | 'config';
  /** Bank of a user pin; all pins of a bank share one supply. */
  readonly bank: number | null;
  /** Reaches the clock network. */
  readonly clock: boolean;
}

/** A package seen from above, to scale. */
export interface PackageDrawing {
  readonly name: string;
  readonly style: 'quad' | 'grid';
  /** Millimetres. */
  readonly body: number;
  readonly pitch: number;
  readonly pins: readonly PackagePin[];
}

/** Numbers of the banks of a package, ascending. */
export const banksOf = ({ pins }: PackageDrawing): readonly number[] =>
  [...new Set(pins.flatMap(({ bank }) => (bank === null ? [] : [bank])))].sort((a, b) => a - b);
