'use client';
import { createTRPCClient, httpLink, TRPCClientError } from '@trpc/client';
import { useState } from 'react';
import { toast } from 'sonner';
import { jsonIntegers } from '../../core/json-integers.ts';
import { type Problem, ProblemError } from '../../core/result.ts';
import type { Routes } from '../../server/index.ts';

type Asked<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

export const UNREACHED: Problem = {
  code: 'server',
  message: 'The server does not answer. What is shown is of before.',
  tryNext: ['Check that it is still running: the page takes it up again by itself.', 'Reload the page.'],
};

let shown: number | null = null;

/** The project that is on the page: calls are about this one, whichever another window opens meanwhile. */
export const showProject = (id: number | null): void => {
  shown = id;
};

/** Every call of the server, typed at both ends. Each goes by itself: a slow one holds up no other. */
export const api = createTRPCClient<Routes>({
  links: [
    httpLink({
      url: '/api/call',
      methodOverride: 'POST',
      transformer: jsonIntegers,
      headers: ({ op }) => {
        const project = op.context.project ?? shown;
        return project === null ? {} : { 'x-nimble-project': String(project) };
      },
    }),
  ],
});

/** What a person can do about a call that failed, whichever way it did. */
export function problemOf(error: unknown): Problem {
  if (error instanceof ProblemError) return error.problem;
  if (!(error instanceof TRPCClientError))
    return {
      code: 'defect',
      message: error instanceof Error ? error.message : String(error),
      tryNext: ['Reload the page.'],
    };
  const { data, meta } = error as TRPCClientError<Routes>;
  if (data?.problem) return data.problem;
  // What the guard refused never was a call of the contract: its answer is a problem and nothing else.
  const { response, responseJSON } = (meta ?? {}) as {
    readonly response?: { readonly status: number };
    readonly responseJSON?: { readonly problem?: Problem };
  };
  if (responseJSON?.problem) return responseJSON.problem;
  return response ? { ...UNREACHED, message: `The server answered ${response.status}.` } : UNREACHED;
}

/** One call, as a value: never throws. */
export const answerOf = <T>(call: Promise<T>): Promise<Asked<T>> =>
  call.then(
    (value) => ({ ok: true, value }),
    (error: unknown) => ({ ok: false, problem: problemOf(error) }),
  );

/** An answer of the server that is good; what else it says is thrown as its problem. */
async function reached(path: string, init: RequestInit): Promise<Response> {
  const response = await fetch(path, init).catch(() => null);
  if (!response) throw new ProblemError(UNREACHED);
  if (response.ok) return response;
  const answer = (await response.json().catch(() => null)) as { readonly problem?: Problem } | null;
  throw new ProblemError(answer?.problem ?? { ...UNREACHED, message: `The server answered ${response.status}.` });
}

/** Says that a page of ours asks: what takes long to make is made for none other. */
const OWN = { 'x-nimble-page': '1' };

/** A file that the server makes, under the name it gives it. */
export async function fetchFile(href: string, init?: RequestInit): Promise<File> {
  const response = await reached(href, { ...init, headers: OWN });
  const said = /filename="([^"]+)"/.exec(response.headers.get('content-disposition') ?? '');
  return new File([await response.blob()], said?.[1] ?? 'file');
}

/** Sends a file under its name to a route that takes files. What the server deleted to keep it is said. */
export async function upload<T>(path: string, file: File): Promise<T> {
  const name = `${path.includes('?') ? '&' : '?'}name=${encodeURIComponent(file.name)}`;
  const response = await reached(`${path}${name}`, { method: 'POST', body: file });
  const answer: unknown = await response.json().catch(() => null);
  const { dropped = [] } = answer as { readonly dropped?: readonly string[] };
  if (dropped.length > 0)
    toast.info(`To keep ${file.name}, older files were deleted: ${[...new Set(dropped)].join(', ')}.`);
  return answer as T;
}

/** For buttons: runs a call, shows its trouble as a toast, tells whether it is under way. */
export function useAct(): {
  readonly busy: boolean;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
} {
  const [busy, setBusy] = useState(false);
  const act = async <T>(call: () => Promise<T>): Promise<T | null> => {
    setBusy(true);
    const answer = await answerOf(call());
    setBusy(false);
    if (answer.ok) return answer.value;
    toast.error(answer.problem.message, { description: answer.problem.tryNext[0] });
    return null;
  };
  return { busy, act };
}
