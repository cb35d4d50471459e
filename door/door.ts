import { randomBytes } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Problem } from '../core/result.ts';
import { contentPolicy, SAFE_HEADERS } from './headers.ts';
import { problem } from './problems.ts';
import { refusalOf } from './refusal.ts';
import { placeHere, setCookie, type SignIn, signInPage } from './sign-in.ts';

type Handle = (request: IncomingMessage, response: ServerResponse) => Promise<void>;

/** A token, and where to go: nobody needs more to sign in. */
const MOST_FORM_BYTES = 8192;
const NONCE_BYTES = 16;

/**
 * What stands before the application: who may come in, and what browsers are told of its pages. `signIn` is null where
 * everybody on this machine may.
 */
export function door(inside: Handle, signIn: SignIn | null): Handle {
  return async (request, response) => {
    const { method = '', headers } = request;
    // Whatever it is, its query does not matter here.
    const path = (request.url ?? '/').split('?', 1)[0] ?? '/';
    for (const [name, value] of Object.entries(SAFE_HEADERS)) response.setHeader(name, value);
    response.setHeader('content-security-policy', contentPolicy(null));
    const one = (name: string) => {
      const value = headers[name];
      return Array.isArray(value) ? (value[0] ?? null) : (value ?? null);
    };
    const refused = refusalOf({
      ...{ method, path, host: headers.host ?? null, origin: headers.origin ?? null },
      ...{ site: one('sec-fetch-site'), page: one('x-nimble-page') },
    });
    if (refused) {
      if (refused.status === 405) response.setHeader('allow', 'GET, HEAD, POST');
      return answerJson(response, refused.status, refused.problem);
    }
    if (path === '/sign-in') return answerSignIn(request, response, signIn);
    if (signIn && !path.startsWith('/_next/static/') && !signIn.knows(headers.cookie)) {
      if (path.startsWith('/api/')) return answerJson(response, 401, problem('sign-in'));
      const to = placeHere(request.url ?? null);
      response.writeHead(303, { location: `/sign-in?to=${encodeURIComponent(to)}` }).end();
      return;
    }
    if (!path.startsWith('/api/') && !path.startsWith('/_next/')) {
      const policy = contentPolicy(randomBytes(NONCE_BYTES).toString('base64'));
      // The application puts the nonce that it finds here into its own scripts.
      headers['content-security-policy'] = policy;
      response.setHeader('content-security-policy', policy);
    } else delete headers['content-security-policy'];
    await inside(request, response);
  };
}

function answerJson(response: ServerResponse, status: number, found: Problem): void {
  response.writeHead(status, { 'content-type': 'application/json', connection: 'close' });
  response.end(JSON.stringify({ problem: found }));
}

async function answerSignIn(request: IncomingMessage, response: ServerResponse, signIn: SignIn | null): Promise<void> {
  const query = new URLSearchParams((request.url ?? '').split('?')[1] ?? '');
  const page = (status: number, say: Parameters<typeof signInPage>[0], to: string | null) =>
    response
      .writeHead(status, { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' })
      .end(signInPage(say, placeHere(to)));
  const leave = (to: string | null, more: Readonly<Record<string, string>> = {}) =>
    response.writeHead(303, { location: placeHere(to), ...more }).end();
  if (!signIn) return void leave(query.get('to'));
  if (request.method !== 'POST') return void page(200, 'ask', query.get('to'));
  const form = await readForm(request);
  if (!form) return void page(400, 'wrong', null);
  const to = form.get('to');
  const made = signIn.session(form.get('token') ?? '', request.socket.remoteAddress ?? '');
  if (made === 'wrong') return void page(403, 'wrong', to);
  if (made === 'wait') return void page(429, 'wait', to);
  const isSecure = request.headers['x-forwarded-proto'] === 'https';
  leave(to, { 'set-cookie': setCookie(made.cookie, isSecure) });
}

/** Null where it is longer than any form of ours. */
async function readForm(request: IncomingMessage): Promise<URLSearchParams | null> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const part of request as AsyncIterable<Buffer>) {
    bytes += part.length;
    if (bytes > MOST_FORM_BYTES) return null;
    parts.push(part);
  }
  return new URLSearchParams(Buffer.concat(parts).toString('utf8'));
}
