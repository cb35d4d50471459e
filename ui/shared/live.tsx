'use client';
import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from 'react';
import type { LivePanel } from '../../core/pod/index.ts';
import type { WorkState } from '../../server/index.ts';

type Event = { readonly state: WorkState } | { readonly panel: LivePanel | null };

/** One event stream for the page; the board's picture is kept apart so that only what shows it is drawn again. */
class Live {
  state: WorkState | null = null;
  panel: LivePanel | null = null;
  connected = false;
  readonly #state = new Set<() => void>();
  readonly #panel = new Set<() => void>();

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

  onPanel = (listener: () => void): (() => void) => {
    this.#panel.add(listener);
    return () => this.#panel.delete(listener);
  };

  #take(event: Event): void {
    if ('state' in event) {
      this.state = event.state;
      for (const tell of this.#state) tell();
    } else {
      this.panel = event.panel;
      for (const tell of this.#panel) tell();
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

/** The board as it looks now; null without a pod. */
export function usePanel(): LivePanel | null {
  const live = useStore();
  return useSyncExternalStore(
    live.onPanel,
    () => live.panel,
    () => null,
  );
}
