import type { Problem } from '../core/result.ts';
import { problem } from './problems.ts';

/** What of a request says where it comes from; null where it says nothing. */
interface Asked {
  readonly method: string;
  readonly path: string;
  readonly host: string | null;
  readonly origin: string | null;
  /** Sec-Fetch-Site, which browsers set and pages cannot (Fetch Metadata, W3C). */
  readonly site: string | null;
  /** A header of our own pages, which none of another origin can send without being asked about first. */
  readonly page: string | null;
}

const METHODS: readonly string[] = ['GET', 'HEAD', 'POST'];
/** Costs little, and is asked for by what cannot send headers. */
const EVENTS = '/api/events';
const LOOPBACK: readonly string[] = ['127.0.0.1', 'localhost', '[::1]'];

/** Names under which this server may be asked for beside those of this machine: NIMBLE_HOSTS=name,name. */
export const otherHosts = (): readonly string[] =>
  (process.env.NIMBLE_HOSTS ?? '')
    .split(',')
    .map((name) => name.trim().toLowerCase())
    .filter(Boolean);

/** A page of another origin must neither read nor write here, and no other name may be made to point at us. */
export function refusalOf(
  { method, path, host, origin, site, page }: Asked,
  others: readonly string[] = otherHosts(),
): { readonly status: number; readonly problem: Problem } | null {
  if (!METHODS.includes(method)) return { status: 405, problem: problem('method', { method }) };
  const name = (host ?? '').toLowerCase().replace(/:\d+$/, '');
  if (![...LOOPBACK, ...others].includes(name))
    return { status: 403, problem: problem('host', { host: (host ?? '').slice(0, 200) }) };
  const isApi = path.startsWith('/api/');
  // Pages may be linked to from elsewhere; what they are made of is for them alone.
  const isForeign = isApi && site !== null && site !== 'same-origin' && !(site === 'none' && method === 'GET');
  if (isForeign || (origin !== null && hostOf(origin) !== host?.toLowerCase()))
    return { status: 403, problem: problem('origin') };
  // Files are made when they are asked for, which takes long: a picture or a link elsewhere must not ask.
  if (isApi && path !== EVENTS && method !== 'POST' && page === null)
    return { status: 403, problem: problem('not-page') };
  return null;
}

/** Null for what is no origin, such as the `null` of a page in a sandbox. */
function hostOf(origin: string): string | null {
  return URL.canParse(origin) ? new URL(origin).host : null;
}
