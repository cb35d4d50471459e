import type { readBsdl } from '../../core/bsdl/index.ts';
import type { readArchive } from '../../core/build/index.ts';
import type { ImageFormat, MemoryImage } from '../../core/images/index.ts';
import type { KeepBlock } from '../../core/operations/index.ts';
import { WorkerThread } from './worker-thread.ts';

/** A file as somebody gave it. */
export interface GivenFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** What a memory file is found to be. */
interface ImageFacts {
  readonly format: ImageFormat;
  readonly start: number;
  readonly end: number;
  readonly segments: number;
  readonly crc32: string;
  /** Of the stream that an FPGA would boot from; null where there is none. */
  readonly fingerprint: string | null;
  readonly warnings: readonly string[];
}

/** What bytes say of themselves as a configuration stream, and their SHA-256 in hexadecimal digits. */
export interface BlockFacts {
  readonly idcode: number | null;
  readonly fingerprint: string | null;
  readonly sha256: string;
}

type Good<R> = R extends { readonly ok: true; readonly value: infer T } ? T : never;

/** What the thread can do. Each refuses by a problem what it cannot read. */
export interface ReadingWork {
  archive(file: Pick<GivenFile, 'bytes'>): Good<ReturnType<typeof readArchive>>;
  bsdl(file: Pick<GivenFile, 'bytes'>): {
    readonly entity: string | null;
    readonly problems: ReturnType<typeof readBsdl>['problems'];
    readonly valid: boolean;
  };
  bitstream(file: GivenFile): { readonly part: string; readonly fingerprint: string; readonly bytes: number };
  image(file: GivenFile): ImageFacts;
  /** As blocks of the flash; `at` is where it begins, if it carries no addresses. */
  blocks(file: GivenFile & { readonly at: number }): KeepBlock[];
  placed(file: GivenFile): MemoryImage;
  facts(all: readonly Uint8Array[]): BlockFacts[];
}

/** Far more than any file of 16 MiB takes that was written by a tool. */
const LIMITS = { seconds: 30, megabytes: 512 };

/** Files are read here, so that none of them stops the rest: with a limit of time and one of memory. */
export class ReadingThread extends WorkerThread<ReadingWork> {
  constructor() {
    super('reading', LIMITS);
  }
}
