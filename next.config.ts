import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['better-sqlite3', 'knex', 'ws', 'tinypool'],
  // Types are checked by `npm run types`, with the compiler's own command.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  // A page that a browser keeps carries the nonce of its own answer, not of the next one that says "unchanged".
  generateEtags: false,
  devIndicators: false,
};

export default config;
