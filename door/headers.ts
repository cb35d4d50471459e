/**
 * What a browser is to allow our pages: scripts of ours alone, and of those in the text of a page only the ones that
 * carry this nonce; nothing in frames, nothing to and from elsewhere (Content Security Policy Level 3, W3C). Styles may
 * stand in attributes, as panels that are dragged set them.
 */
export const contentPolicy = (nonce: string | null): string =>
  [
    "default-src 'none'",
    `script-src 'self'${nonce === null ? '' : ` 'nonce-${nonce}'`} 'wasm-unsafe-eval'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "manifest-src 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');

/** Of every answer. */
export const SAFE_HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
};
