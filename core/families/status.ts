/** What an FPGA says of its configuration, in words that all families have. */
export interface ConfigStatus {
  readonly startSeen: boolean;
  readonly idcodeMismatch: boolean;
  readonly crcError: boolean;
  /** Configuration memory is clear and ready to be written, or holds a design. */
  readonly memoryClear: boolean;
  readonly done: boolean;
  /** Where the running design came from. */
  readonly source: 'jtag' | 'flash' | 'none';
  /** What the boot switch says: where the part looks at power-on. */
  readonly bootSource: 'flash' | 'jtag';
  readonly enabled: boolean;
  readonly checked: boolean;
  /** The boot header named an update and the part could not use it: what runs, if anything, is the golden image. */
  readonly fellBack: boolean;
  /** The running design is the update that the boot header names. */
  readonly fromUpdate: boolean;
  readonly raw: string;
}
