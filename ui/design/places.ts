'use client';
import { useRouter, useSearchParams } from 'next/navigation';
import { useCallback } from 'react';

export interface SourcePlace {
  readonly file: string;
  readonly line: number;
  readonly column?: number;
}

/** Shows a place in the sources, from wherever one is. */
export function useOpenSource(): (place: SourcePlace) => void {
  const router = useRouter();
  return useCallback(
    ({ file, line, column = 1 }: SourcePlace) =>
      router.push(`/design/sources?${new URLSearchParams({ file, line: String(line), column: String(column) })}`),
    [router],
  );
}

/** Shows an instance, or the cone of a signal. */
export function useOpenSchematic(): (what: { readonly instance: string } | { readonly cone: string }) => void {
  const router = useRouter();
  return useCallback(
    (what) => router.push(`/design/schematic?${new URLSearchParams(what as Record<string, string>)}`),
    [router],
  );
}

/** The place the address names; null without one. */
export function useAskedPlace(): SourcePlace | null {
  const query = useSearchParams();
  const file = query.get('file');
  return file === null
    ? null
    : { file, line: Number(query.get('line') ?? 1), column: Number(query.get('column') ?? 1) };
}

/** Looks for a signal under Probe. */
export function useProbeSignal(): (name: string) => void {
  const router = useRouter();
  return useCallback((name: string) => router.push(`/probe?${new URLSearchParams({ find: name })}`), [router]);
}

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
