/** A serial line as bytes. */
export interface BytePort {
  write(bytes: Uint8Array): void;
  close(): void;
  onBytes(listener: (bytes: Uint8Array) => void): void;
  /** Once, with why in a few words, when it is gone without having been closed here. */
  onGone(listener: (why: string) => void): void;
}

/** Where the other end is found, for what is said of it. */
export interface Whereabouts {
  readonly path: string;
  readonly baud: number;
}
