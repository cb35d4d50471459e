/** A design that is run by the fabric and, written anew by hand, by the machine itself. */
export interface Compared {
  readonly name: string;
  /** Module m with the clock clk and an output x of 32 bits at most, by which the two are compared. */
  readonly verilog: string;
  /** Statements before the loop, and those of one cycle; `x` is compared at the end. */
  readonly before: string;
  readonly cycle: string;
  readonly cycles: number;
}
