/**
 * Numbers in binary, one bit of each net's number a vector, then all of it inverted: every pair of nets differs in some
 * vector, every net is both 0 and 1, and a wired-and or wired-or of two numbers is no other net's sequence in both
 * halves.
 *
 * @source P. T. Wagner, Interconnect testing with boundary scan, International Test Conference 1987 (true/complement
 * counting sequence)
 * @source W. H. Kautz, Testing for faults in wiring networks, IEEE Transactions on Computers, 1974 (counting sequence)
 */
export function countingVectors(nets: number): boolean[][] {
  const bits = Math.max(1, Math.ceil(Math.log2(nets + 2)));
  const numbers = Array.from({ length: nets }, (_, i) => i + 1);
  const half = Array.from({ length: bits }, (_, bit) => numbers.map((number) => ((number >>> bit) & 1) === 1));
  return [...half, ...half.map((vector) => vector.map((level) => !level))];
}
