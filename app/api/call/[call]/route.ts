import { fetchRequestHandler } from '@trpc/server/adapters/fetch';
import { routes, server, shownIn } from '../../../../server/index.ts';
import { guarded, MOST_CALL_BYTES, readBody } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** Every call of the contract. Its body is read here, so that its size is limited before anything looks at it. */
const handle = guarded(async (request) => {
  const { url, method, headers } = request;
  const body = method === 'POST' ? await readBody(request, MOST_CALL_BYTES) : null;
  return fetchRequestHandler({
    endpoint: '/api/call',
    req: new Request(url, { method, headers, ...(body ? { body: new Uint8Array(body) } : {}) }),
    router: routes,
    // Queries may be long: a drawing names every block that is opened.
    allowMethodOverride: true,
    createContext: async () => ({ on: await server(), shown: shownIn(headers) }),
    onError: ({ error, path }) => {
      if (error.code === 'INTERNAL_SERVER_ERROR') console.error(`${path ?? ''} failed:`, error.cause ?? error);
    },
  });
});

export { handle as POST };
