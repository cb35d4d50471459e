import { sha256 } from '@noble/hashes/sha2.js';

/** Raised when the same inputs would give another bitstream than before. */
const RECIPE = 'nimble-build-2';

/** 128 bits over everything a bitstream depends on, as 32 hexadecimal digits. Key order does not matter. */
export function fingerprintOf(inputs: unknown): string {
  const digest = sha256(new TextEncoder().encode(`${RECIPE}\n${canonical(inputs)}`));
  return [...digest.subarray(0, 16)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}

function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([key, inner]) => `${JSON.stringify(key)}:${canonical(inner)}`).join(',')}}`;
}
