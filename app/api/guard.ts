import { ProblemError, type Problem } from '../../core/result.ts';
import { refusalOf } from '../../door/index.ts';
import { problem } from './problems.ts';

export const MOST_CALL_BYTES = 4 << 20;
export const MOST_UPLOAD_BYTES = 16 << 20;
const LONGEST_NAME = 200;

const failure = (found: Problem, status: number): Response => Response.json({ problem: found }, { status });

/** Wraps a route: checks where the request comes from, turns problems into answers. */
export function guarded<C>(
  handler: (request: Request, context: C) => Promise<Response>,
): (request: Request, context: C) => Promise<Response> {
  return async (request, context) => {
    // The door has looked already, where there is one: a server for development has none.
    const refused = refusalOf({
      method: request.method,
      path: new URL(request.url).pathname,
      host: request.headers.get('host'),
      origin: request.headers.get('origin'),
      site: request.headers.get('sec-fetch-site'),
      page: request.headers.get('x-nimble-page'),
    });
    if (refused) return failure(refused.problem, refused.status);
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof ProblemError) return failure(error.problem, 422);
      throw error;
    }
  };
}

/** How many bytes the body of a request is said to have; null where it does not say. */
export function announcedLength(request: Request): number | null {
  const said = request.headers.get('content-length');
  return said !== null && /^\d+$/.test(said) ? Number(said) : null;
}

/** The body of a request, of at most so many bytes. */
export async function readBody(request: Request, most: number): Promise<Uint8Array> {
  const tooLarge = () => new ProblemError(problem('too-large', { most: most >> 20 }));
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge();
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    length += part.length;
    if (length > most) throw tooLarge();
    parts.push(part);
  }
  return new Uint8Array(Buffer.concat(parts));
}

/** Name that the address gives a file. */
export function uploadName(request: Request): string {
  const name = new URL(request.url).searchParams.get('name') ?? 'file';
  if (name.length > LONGEST_NAME || !/[^\p{C}\s]/u.test(name))
    throw new ProblemError(problem('request (name)', { most: LONGEST_NAME }));
  return name;
}

/** A file that is sent as the body. */
export async function readUpload(request: Request): Promise<{ readonly name: string; readonly bytes: Uint8Array }> {
  const name = uploadName(request);
  return { name, bytes: await readBody(request, MOST_UPLOAD_BYTES) };
}

/** A file to be saved under its name. */
export const download = (name: string, type: string, body: string | Uint8Array): Response =>
  new Response(typeof body === 'string' ? body : new Uint8Array(body), {
    headers: { 'content-type': type, 'content-disposition': `attachment; filename="${name}"` },
  });
