/** A way to one SPI flash chip. Bytes go out bit 7 first; chip select is low for exactly one call. */
export interface SpiPort {
  /** Queues a command that has no answer. */
  send(bytes: Uint8Array): void;
  /** Sends a command, then reads. Carries out what is queued before it. */
  exchange(command: Uint8Array, answerBytes: number): Promise<Uint8Array>;
  /** The same, carried out by a later `exchange` or `flush`. */
  later(command: Uint8Array, answerBytes: number): Promise<Uint8Array>;
  /** About how fast bits go; work is cut by it, so that it can be followed and stopped. */
  readonly bitsPerSecond: number;
  /** Queues a pause. */
  wait(microseconds: number): void;
  flush(): Promise<void>;
  /** Counts payload for the speed figures; commands and addresses are no payload. */
  countSent(bytes: number): void;
}
