'use client';
import { create } from 'zustand';
import { createJSONStorage, persist, type StateStorage } from 'zustand/middleware';
import type { Problem } from '../../core/result.ts';

/** A text of this browser that is not on the server yet. */
interface Unsaved {
  readonly project: number;
  readonly name: string;
  readonly text: string;
  /** The version that was changed; empty for a file that is only here as yet. */
  readonly read: string;
  /** Why the server did not take it; it stays here until somebody says which text is to be kept. */
  readonly refused: Problem | null;
  /** The server did not answer: it is saved when it does. */
  readonly waits: boolean;
}

/**
 * The browser's own store, which outlives the page: what was typed in the last moment before a tab was closed is there
 * when it is opened again. A store that is full or forbidden keeps the page working as it did without.
 */
const kept: StateStorage = {
  getItem: (name) => tried(() => localStorage.getItem(name)),
  setItem: (name, value) => void tried(() => localStorage.setItem(name, value)),
  removeItem: (name) => void tried(() => localStorage.removeItem(name)),
};

function tried<T>(work: () => T): T | null {
  try {
    return work();
  } catch {
    return null;
  }
}

export const useUnsaved = create<{ readonly list: readonly Unsaved[] }>()(
  persist(() => ({ list: [] as readonly Unsaved[] }), {
    name: 'nimble-unsaved',
    version: 1,
    storage: createJSONStorage(() => kept),
    // The server has drawn the page without it; it is taken up once the page stands.
    skipHydration: true,
  }),
);

export const unsavedOf = (project: number, name: string): Unsaved | undefined =>
  useUnsaved.getState().list.find((one) => one.project === project && one.name === name);

export const unsavedIn = (project: number): readonly Unsaved[] =>
  useUnsaved.getState().list.filter((one) => one.project === project);

export function setUnsaved(project: number, name: string, change: Unsaved | null): void {
  const others = useUnsaved.getState().list.filter((one) => one.project !== project || one.name !== name);
  useUnsaved.setState({ list: change ? [...others, change] : others });
}
