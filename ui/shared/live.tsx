'use client';
import { replaceEqualDeep } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { createStore, type StoreApi, useStore } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import { showProject } from './ask.ts';
import { isPowered } from '../../core/board/index.ts';
import type { PodStatusEvent } from '../../core/pod/index.ts';
import type { Slices, WorkState } from '../../server/index.ts';

type Event = { readonly slice: string; readonly value: Partial<WorkState> } | { readonly board: PodStatusEvent | null };

/** The page has to have all of them before it shows anything. */
const SLICES: Readonly<Record<keyof Slices, true>> = {
  pod: true,
  chain: true,
  running: true,
  flash: true,
  load: true,
  jobs: true,
  armed: true,
  svf: true,
  line: true,
  files: true,
  design: true,
};

interface Live {
  readonly state: WorkState | null;
  readonly board: PodStatusEvent | null;
  /** Whether the server's events reach the page; null before the first try ended. */
  readonly reached: boolean | null;
}

/** One event stream for the page; who shows a part of it is drawn again when that part changes. */
const createLive = () => createStore<Live>(() => ({ state: null, board: null, reached: null }));

/** Follows the server's events until what is returned is called. */
function follow(live: StoreApi<Live>): () => void {
  const slices = new Map<string, Partial<WorkState>>();
  const source = new EventSource('/api/events');
  source.onmessage = ({ data }: MessageEvent<string>) => {
    const event = JSON.parse(data) as Event;
    if (!('slice' in event)) {
      live.setState(({ board }) => ({ board: replaceEqualDeep(board, event.board) }));
      return;
    }
    // What is the same as before stays the same object, so that nothing that shows it is drawn again.
    slices.set(event.slice, replaceEqualDeep(slices.get(event.slice), event.value));
    if (Object.keys(SLICES).every((slice) => slices.has(slice))) setState(live, Object.assign({}, ...slices.values()));
  };
  source.onopen = () => live.setState({ reached: true });
  // The browser tries again by itself unless the answer was none of ours.
  source.onerror = () => live.setState({ reached: false });
  return () => source.close();
}

function setState(live: StoreApi<Live>, state: WorkState): void {
  showProject(state.project?.id ?? null);
  live.setState({ state });
}

const Context = createContext<StoreApi<Live> | null>(null);

export function LiveProvider({ children }: { readonly children: ReactNode }) {
  const [live] = useState(createLive);
  useEffect(() => follow(live), [live]);
  return <Context.Provider value={live}>{children}</Context.Provider>;
}

function useStoreOf<T>(select: (live: Live) => T): T {
  const live = useContext(Context);
  if (!live) throw new Error('outside LiveProvider');
  return useStore(live, useShallow(select));
}

/** These parts of the state of the work; null until the first event. Drawn again when one of them changes. */
export function useLive<K extends keyof WorkState>(...keys: readonly K[]): Pick<WorkState, K> | null {
  return useStoreOf(
    ({ state }) => state && (Object.fromEntries(keys.map((key) => [key, state[key]])) as Pick<WorkState, K>),
  );
}

/** What is worked out from the state of the work. Drawn again when the result, compared member by member, changes. */
export function useLiveWith<T>(select: (state: WorkState | null) => T): T {
  return useStoreOf(({ state }) => select(state));
}

/** The pod and what it tells of the board now; null without a pod. */
export function useBoard(): PodStatusEvent | null {
  return useStoreOf(({ board }) => board);
}

/** Whether the server is there; null before the first try ended. */
export function useReached(): boolean | null {
  return useStoreOf(({ reached }) => reached);
}

/** Whether the board has its supply, as the cable's reference wire says; null where no pod can tell. */
export function usePowered(): boolean | null {
  const cable = useBoard()?.cable;
  return cable ? isPowered(cable) : null;
}
