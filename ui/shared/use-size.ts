'use client';
import { type RefObject, useEffect, useRef, useState } from 'react';

interface Size {
  /** Whole pixels of its content. */
  readonly width: number;
  readonly height: number;
}

/** How large an element is, whenever that changes; 0 by 0 before it was measured. */
export function useSize<T extends HTMLElement>(): { readonly ref: RefObject<T | null> } & Size {
  const ref = useRef<T>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useEffect(() => {
    if (!ref.current) return;
    const watch = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width, height } = entry.contentRect;
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  return { ref, ...size };
}
