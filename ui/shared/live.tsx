'use client';
import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from 'react';
import { LEAST_VOLTS } from '../../core/board/index.ts';
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
  design: true,
};

/** One event stream for the page; the board's picture is kept apart so that only what shows it is drawn again. */
class Live {
  state: WorkState | null = null;
  board: PodStatusEvent | null = null;
  connected = false;
  readonly #slices = new Map<string, Partial<WorkState>>();
  readonly #state = new Set<() => void>();
  readonly #board = new Set<() => void>();

  open(): () => void {
    const source = new EventSource('/api/events');
    source.onmessage = ({ data }: MessageEvent<string>) => this.#take(JSON.parse(data) as Event);
    source.onopen = () => this.#connection(true);
    source.onerror = () => this.#connection(false);
    return () => source.close();
  }

  onState = (listener: () => void): (() => void) => {
    this.#state.add(listener);
    return () => this.#state.delete(listener);
  };

  onBoard = (listener: () => void): (() => void) => {
    this.#board.add(listener);
    return () => this.#board.delete(listener);
  };

  #take(event: Event): void {
    if ('slice' in event) {
      this.#slices.set(event.slice, event.value);
      if (!Object.keys(SLICES).every((slice) => this.#slices.has(slice))) return;
      this.state = Object.assign({}, ...this.#slices.values());
      for (const tell of this.#state) tell();
    } else {
      this.board = event.board;
      for (const tell of this.#board) tell();
    }
  }

  #connection(up: boolean): void {
    this.connected = up;
    for (const tell of this.#state) tell();
  }
}

const Context = createContext<Live | null>(null);

export function LiveProvider({ children }: { readonly children: ReactNode }) {
  const [live] = useState(() => new Live());
  useEffect(() => live.open(), [live]);
  return <Context.Provider value={live}>{children}</Context.Provider>;
}

function useStore(): Live {
  const live = useContext(Context);
  if (!live) throw new Error('outside LiveProvider');
  return live;
}

/** The state of the work; null until the first event. */
export function useLive(): WorkState | null {
  const live = useStore();
  return useSyncExternalStore(
    live.onState,
    () => live.state,
    () => null,
  );
}

/** The pod and what it tells of the board now; null without a pod. */
export function useBoard(): PodStatusEvent | null {
  const live = useStore();
  return useSyncExternalStore(
    live.onBoard,
    () => live.board,
    () => null,
  );
}

/** Whether the board has its supply, as the cable's reference wire says; null where no pod can tell. */
export function usePowered(): boolean | null {
  const cable = useBoard()?.cable;
  return cable ? cable.attached && cable.referenceVolts >= LEAST_VOLTS : null;
}
