/**
 * Names of the ports through which a design meets the user register of its FPGA. A `$` cannot begin a name in Verilog,
 * so no design can have them by accident. docs/silicon.md, section 6
 */
export const LINK = {
  tck: '$link.tck',
  tdi: '$link.tdi',
  capture: '$link.capture',
  shift: '$link.shift',
  update: '$link.update',
  tdo: '$link.tdo',
} as const;
