/** A part the caller can recognise. The version nibble of `idcode` is ignored, as 1149.1 leaves it to revisions. */
export interface KnownDevice {
  readonly name: string;
  readonly idcode: number;
  readonly irLength: number;
  /** What Capture-IR loads; null where a part does not fix it. */
  readonly irCapture?: number | null;
  /** Opcode of IDCODE; null where it is not known. */
  readonly idcodeOpcode?: number | null;
  /** What a person can see that tells it from a part with the same IDCODE. */
  readonly tells?: string;
}

/**
 * What a person has said of a place: which of several parts it is, or how long the instruction register of an unknown
 * one is.
 */
export interface PlaceAnswer {
  readonly index: number;
  /** Only taken while the place still answers with this IDCODE. */
  readonly idcode: number | null;
  readonly part?: string;
  readonly irLength?: number;
}

/** What a person has said of a chain: what stands where, and descriptions of devices that are not known here. */
export interface ChainMemory {
  readonly answers: readonly PlaceAnswer[];
  readonly described: readonly KnownDevice[];
}
