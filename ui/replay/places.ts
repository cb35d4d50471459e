'use client';
import { useRouter } from 'next/navigation';
import { useCallback } from 'react';

/** What to see all of, or the capture to see it over, from wherever one is. */
export function useOpenReplay(): (what: { readonly see: string } | { readonly capture: number }) => void {
  const router = useRouter();
  return useCallback(
    (what) =>
      router.push(
        'see' in what
          ? `/replay/record?${new URLSearchParams({ see: what.see })}`
          : `/replay/signals?${new URLSearchParams({ capture: String(what.capture) })}`,
      ),
    [router],
  );
}
