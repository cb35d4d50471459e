import { useCallback, useState } from 'react';

/**
 * State that outlives its page, in this browser: what was being filled in is there again after a look at another
 * station, or a reload.
 */
export function useRemembered<T extends object>(key: string, initial: T): readonly [T, (change: Partial<T>) => void] {
  const [held, setHeld] = useState<{ readonly key: string; readonly value: T }>(() => ({
    key,
    value: { ...initial, ...stored<T>(key) },
  }));
  const value = held.key === key ? held.value : { ...initial, ...stored<T>(key) };
  const change = useCallback(
    (part: Partial<T>) =>
      setHeld((old) => {
        const next = { ...(old.key === key ? old.value : { ...initial, ...stored<T>(key) }), ...part };
        try {
          localStorage.setItem(key, JSON.stringify(next));
        } catch {
          // a browser that stores nothing forgets it with the page
        }
        return { key, value: next };
      }),
    [key, initial],
  );
  return [value, change];
}

function stored<T>(key: string): Partial<T> {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(key) ?? '{}');
    return typeof found === 'object' && found !== null ? (found as Partial<T>) : {};
  } catch {
    return {};
  }
}
