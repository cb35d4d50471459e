import { useSyncExternalStore } from 'react';

type Token =
  | 'paper'
  | 'raised'
  | 'well'
  | 'line'
  | 'ink'
  | 'quiet'
  | 'signal'
  | 'good'
  | 'doubt'
  | 'bad'
  | 'water'
  | `domain-${1 | 2 | 3 | 4}`
  | `area-${1 | 2 | 3 | 4 | 5 | 6}`;

const DARK = '(prefers-color-scheme: dark)';
const known = new Map<string, string>();

/** Whether the system asks for a dark page. What is drawn in `colour`s is drawn again when it changes. */
export function useDark(): boolean {
  return useSyncExternalStore(
    (changed) => {
      const query = matchMedia(DARK);
      query.addEventListener('change', changed);
      return () => query.removeEventListener('change', changed);
    },
    () => matchMedia(DARK).matches,
    () => false,
  );
}

export type Colour = (token: Token) => string;
const BY_DAY: Colour = (token) => colour(token);
const BY_NIGHT: Colour = (token) => colour(token);

/** `colour`, another function by night: what is made with it is made anew when the scheme changes. */
export const useColour = (): Colour => (useDark() ? BY_NIGHT : BY_DAY);

/** A colour of the workbench as canvases and charts take it; where CSS reaches, `var(--color-…)` does the same. */
export function colour(token: Token): string {
  // Without a page there are no colours, but they can still be told apart.
  if (typeof document === 'undefined') return token;
  const key = `${token} ${matchMedia(DARK).matches}`;
  const held = known.get(key);
  if (held !== undefined) return held;
  const value = getComputedStyle(document.documentElement).getPropertyValue(`--color-${token}`).trim();
  known.set(key, value);
  return value;
}
