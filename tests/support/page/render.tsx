// A component on a page of its own, with a server that is played: it tells slices, and answers calls as the test says.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { ReactElement } from 'react';
import { Toaster, toast } from 'sonner';
import { onTestFinished, vi } from 'vitest';
import { jsonIntegers } from '../../../core/json-integers.ts';
import type { PodStatusEvent } from '../../../core/pod/index.ts';
import { type Problem, ProblemError } from '../../../core/result.ts';
import type { WorkState } from '../../../server/index.ts';
import { LiveProvider } from '../../../ui/shared/index.ts';
import { goTo } from './navigation.ts';
import { BOARD, STATE } from './state.ts';

const SLICES = ['pod', 'chain', 'running', 'flash', 'load', 'jobs', 'armed', 'svf', 'line', 'files', 'design'];

/** Answers of the played server by call, such as `jobs.start`; what throws a ProblemError is refused with it. */
export type Answers = Readonly<Record<string, (input: never) => unknown>>;

interface Page {
  /** Calls in order: name and what was given. */
  readonly calls: readonly { readonly name: string; readonly input: unknown }[];
  readonly user: ReturnType<typeof userEvent.setup>;
  /** The server tells of a change. */
  readonly tell: (change: Partial<WorkState>) => void;
  readonly tellBoard: (change: Partial<PodStatusEvent> | null) => void;
  readonly lose: () => void;
  readonly find: () => void;
}

interface Given {
  readonly state?: Partial<WorkState>;
  readonly board?: Partial<PodStatusEvent> | null;
  readonly answers?: Answers;
  readonly at?: string;
}

class PlayedEvents {
  static last: PlayedEvents | null = null;
  onmessage: ((event: { data: string }) => void) | null = null;
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  constructor() {
    PlayedEvents.last = this;
  }
  close(): void {}
}

export async function renderPage(
  element: ReactElement,
  { state, board = {}, answers = {}, at = '/bench' }: Given = {},
) {
  const calls: { name: string; input: unknown }[] = [];
  // Asked for by each test: files of a worker share this module, and a hook at its top would serve the first alone.
  onTestFinished(() => {
    // What was said is kept beside the page, and would be said again on the next one.
    act(() => void toast.dismiss());
    cleanup();
    vi.unstubAllGlobals();
  });
  goTo(at);
  const { happyDOM } = window as { happyDOM?: { setViewport(size: { width: number; height: number }): void } };
  happyDOM?.setViewport({ width: 1280, height: 800 });
  vi.stubGlobal('EventSource', PlayedEvents);
  vi.stubGlobal('fetch', (url: string | URL | Request, init?: RequestInit) => answered(calls, answers, url, init));
  const queries = new QueryClient({
    defaultOptions: { queries: { retry: false, staleTime: Number.POSITIVE_INFINITY } },
  });
  const view = render(
    <QueryClientProvider client={queries}>
      <LiveProvider>{element}</LiveProvider>
      <Toaster />
    </QueryClientProvider>,
  );
  let now: WorkState = { ...STATE, ...state };
  let boardNow: PodStatusEvent | null = board === null ? null : { ...BOARD, ...board };
  const source = PlayedEvents.last;
  const send = (event: object) => source?.onmessage?.({ data: JSON.stringify(event) });
  await act(async () => {
    source?.onopen?.();
    // One slice carries it all; the page only waits until it has heard of each.
    for (const slice of SLICES) send({ slice, value: slice === 'pod' ? now : {} });
    send({ board: boardNow });
  });
  const page: Page = {
    calls,
    user: userEvent.setup(),
    tell: (change) => {
      now = { ...now, ...change };
      act(() => void send({ slice: 'pod', value: now }));
    },
    tellBoard: (change) => {
      boardNow = change === null ? null : { ...(boardNow ?? BOARD), ...change };
      act(() => void send({ board: boardNow }));
    },
    lose: () => act(() => source?.onerror?.()),
    find: () => act(() => source?.onopen?.()),
  };
  return { ...page, ...view, screen };
}

async function answered(
  calls: { name: string; input: unknown }[],
  answers: Answers,
  url: string | URL | Request,
  init?: RequestInit,
): Promise<Response> {
  const path = String(url);
  const name = path.split('/api/call/')[1]?.split('?')[0] ?? path;
  const isCall = path.includes('/api/call/');
  const input = isCall && init?.body ? jsonIntegers.deserialize(JSON.parse(String(init.body))) : (init?.body ?? null);
  calls.push({ name, input });
  const refused = (problem: Problem) =>
    Response.json(
      isCall
        ? { error: { message: problem.message, code: -32603, data: { code: 'X', httpStatus: 422, problem } } }
        : { problem },
      { status: 422 },
    );
  const answer = answers[name];
  if (!answer)
    return refused({ code: 'not-played', message: `The played server does not answer ${name}.`, tryNext: [] });
  try {
    const data = jsonIntegers.serialize(await answer(input as never)) ?? null;
    return Response.json(isCall ? { result: { data } } : data);
  } catch (error) {
    if (error instanceof ProblemError) return refused(error.problem);
    throw error;
  }
}

/** Answer of a call that has nothing to tell. */
export const done = () => ({ done: true });
