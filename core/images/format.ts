import type { Result } from '../result.ts';
import type { ImageFormat } from './image.ts';

/** A container that this folder does not know itself: how it is recognised, and its data. */
export interface Container {
  readonly format: 'nbits';
  readonly recognises: (file: Uint8Array) => boolean;
  readonly read: (file: Uint8Array) => Result<Uint8Array>;
  readonly write: (bytes: Uint8Array) => Result<Uint8Array>;
}

const LOOK_BYTES = 4096;

/** The format of a file by its content alone: text whose first line is a record, else a container, else plain bytes. */
export function detectFormat(file: Uint8Array, containers: readonly Container[]): ImageFormat {
  const container = containers.find((one) => one.recognises(file));
  if (container) return container.format;
  const head = file.subarray(0, LOOK_BYTES);
  const text = head.every(
    (byte) => byte === 0x09 || byte === 0x0a || byte === 0x0d || (byte >= 0x20 && byte < 0x7f) || byte >= 0x80,
  );
  const first = text
    ? new TextDecoder()
        .decode(head)
        .replace(/^\uFEFF/, '')
        .split(/[\r\n]+/)
        .map((line) => line.trim())
        .find((line) => line !== '')
    : undefined;
  if (first !== undefined && /^:[0-9A-Fa-f]{8}/.test(first)) return 'intel-hex';
  if (first !== undefined && /^[Ss][0-9][0-9A-Fa-f]{2}/.test(first)) return 's-record';
  return 'binary';
}
