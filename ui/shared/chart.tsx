'use client';
import type { EChartsType } from 'echarts/core';
import { useEffect, useRef } from 'react';

interface Props {
  /** Options as ECharts takes them. */
  readonly option: Readonly<Record<string, unknown>>;
  readonly label: string;
  readonly className?: string;
  readonly onPick?: (data: unknown) => void;
}

/** A chart in the colours of the workbench. ECharts is fetched when the first one is shown. */
export function Chart({ option, label, className, onPick }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const latest = useRef({ option, onPick });
  latest.current = { option, onPick };
  useEffect(() => {
    let gone = false;
    let watch: ResizeObserver | null = null;
    void import('./echarts.ts').then(({ init }) => {
      if (gone || !host.current) return;
      const made = init(host.current);
      chart.current = made;
      made.setOption(latest.current.option);
      made.on('click', (event) => latest.current.onPick?.(event.data));
      watch = new ResizeObserver(() => made.resize());
      watch.observe(host.current);
    });
    return () => {
      gone = true;
      watch?.disconnect();
      chart.current?.dispose();
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(option, { notMerge: true });
  }, [option]);
  return <div ref={host} role="img" aria-label={label} className={className} />;
}
