import { z } from 'zod';
import { ProblemError, type Problem, problem } from '../../core/result.ts';

const MOST_JSON_BYTES = 4 << 20;
export const MOST_UPLOAD_BYTES = 16 << 20;

/** Names under which this server may be asked for; more can be given as NIMBLE_HOSTS=name,name. */
function allowedHost(host: string): boolean {
  const name = host.replace(/:\d+$/, '');
  return ['127.0.0.1', 'localhost', '[::1]', ...(process.env.NIMBLE_HOSTS ?? '').split(',').filter(Boolean)].includes(
    name,
  );
}

/** A page of another origin must neither read nor write here, and no other name may be made to point at us. */
function refusal(request: Request): Problem | null {
  const host = request.headers.get('host') ?? '';
  if (!allowedHost(host))
    return problem(
      'host',
      `This server does not answer to the name "${host}".`,
      'Use its address, or set NIMBLE_HOSTS.',
    );
  const origin = request.headers.get('origin');
  if (origin !== null && new URL(origin).host !== host)
    return problem('origin', 'A page of another origin asked for this.', 'Open the workbench itself.');
  if (request.method !== 'GET' && request.headers.get('sec-fetch-site') === 'cross-site')
    return problem('origin', 'A page of another origin asked for this.', 'Open the workbench itself.');
  return null;
}

export const failure = (found: Problem, status = 422): Response => Response.json({ problem: found }, { status });

/** Wraps a route: checks where the request comes from, turns problems into answers. */
export function guarded<C>(
  handler: (request: Request, context: C) => Promise<Response>,
): (request: Request, context: C) => Promise<Response> {
  return async (request, context) => {
    const refused = refusal(request);
    if (refused) return failure(refused, 403);
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof ProblemError) return failure(error.problem);
      throw error;
    }
  };
}

export async function readBody(request: Request, most: number): Promise<Uint8Array> {
  const tooLarge = () =>
    new ProblemError(problem('too-large', `The upload is larger than ${most >> 20} MiB.`, 'Choose a smaller file.'));
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

export async function readJson<T extends z.ZodType>(request: Request, schema: T): Promise<z.infer<T>> {
  const text = new TextDecoder().decode(await readBody(request, MOST_JSON_BYTES));
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new ProblemError(problem('request', 'The request is no JSON.', 'Reload the page.'));
  }
  const read = schema.safeParse(data);
  if (!read.success)
    throw new ProblemError(
      problem('request', `The request is not as expected: ${z.prettifyError(read.error)}`, 'Reload the page.'),
    );
  return read.data;
}

/** JSON with big integers as decimal text. */
export const answer = (value: unknown): Response =>
  new Response(
    JSON.stringify(value, (_, v: unknown) => (typeof v === 'bigint' ? v.toString() : v)),
    { headers: { 'content-type': 'application/json' } },
  );
