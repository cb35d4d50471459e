// Where the page is, for components by themselves: stands in for the router of the framework.
import { useSyncExternalStore } from 'react';

let here = '/bench';
const listeners = new Set<() => void>();
const changed = (next: string) => {
  here = next;
  for (const tell of listeners) tell();
};
const useHere = () =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => here,
    () => here,
  );

export const goTo = changed;
export const whereNow = (): string => here;
export const usePathname = (): string => useHere().split('?')[0] ?? '';
export const useSearchParams = (): URLSearchParams => new URLSearchParams(useHere().split('?')[1] ?? '');
const router = { push: changed, replace: changed, back: () => {}, prefetch: () => {} };
export const useRouter = () => router;
