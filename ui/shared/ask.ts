'use client';
import { useState } from 'react';
import { toast } from 'sonner';
import { type Problem, ProblemError } from '../../core/result.ts';

type Asked<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

export const UNREACHED: Problem = {
  code: 'server',
  message: 'The server does not answer. What is shown is of before.',
  tryNext: ['Check that it is still running: the page takes it up again by itself.', 'Reload the page.'],
};

/** One call to the server. Never throws: what went wrong comes back as a problem. */
export async function ask<T>(path: string, init?: RequestInit): Promise<Asked<T>> {
  try {
    const response = await fetch(path, init);
    const data: unknown = await response.json().catch(() => null);
    if (response.ok) return { ok: true, value: data as T };
    return {
      ok: false,
      problem: (data as { problem?: Problem } | null)?.problem ?? {
        ...UNREACHED,
        message: `The server answered ${response.status}.`,
      },
    };
  } catch {
    return { ok: false, problem: UNREACHED };
  }
}

/** What a query shows. A failing call fails the query: nothing is shown as empty that was not read. */
export async function fetched<T>(path: string): Promise<T> {
  const answer = await ask<T>(path);
  if (!answer.ok) throw new ProblemError(answer.problem);
  return answer.value;
}

export const send = <T>(path: string, method: 'POST' | 'PUT' | 'DELETE', body?: unknown): Promise<Asked<T>> =>
  ask<T>(path, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  });

/** Sends a file under its name. What the server deleted to keep it is said. */
export async function upload<T>(path: string, file: File): Promise<Asked<T>> {
  const name = `${path.includes('?') ? '&' : '?'}name=${encodeURIComponent(file.name)}`;
  const answer = await ask<T & { readonly dropped?: readonly string[] }>(`${path}${name}`, {
    method: 'POST',
    body: file,
  });
  const dropped = answer.ok ? (answer.value.dropped ?? []) : [];
  if (dropped.length > 0)
    toast.info(`To keep ${file.name}, older files were deleted: ${[...new Set(dropped)].join(', ')}.`);
  return answer;
}

/** For buttons: runs a call, shows its trouble as a toast, tells whether it is under way. */
export function useAct(): {
  readonly busy: boolean;
  readonly act: <T>(call: () => Promise<Asked<T>>) => Promise<T | null>;
} {
  const [busy, setBusy] = useState(false);
  const act = async <T>(call: () => Promise<Asked<T>>): Promise<T | null> => {
    setBusy(true);
    const answer = await call();
    setBusy(false);
    if (answer.ok) return answer.value;
    toast.error(answer.problem.message, { description: answer.problem.tryNext[0] });
    return null;
  };
  return { busy, act };
}
