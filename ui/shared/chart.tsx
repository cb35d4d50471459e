'use client';
import type { EChartsType } from 'echarts/core';
import { useEffect, useRef } from 'react';
import { useSize } from './use-size.ts';

interface Props {
  /** Options as ECharts takes them. */
  readonly option: Readonly<Record<string, unknown>>;
  readonly label: string;
  readonly className?: string;
  readonly onPick?: (data: unknown) => void;
}

/** A chart in the colours of the workbench. ECharts is fetched when the first one is shown. */
export function Chart({ option, label, className, onPick }: Props) {
  const { ref: host, width, height } = useSize<HTMLDivElement>();
  const chart = useRef<EChartsType | null>(null);
  const latest = useRef({ option, onPick });
  latest.current = { option, onPick };
  useEffect(() => {
    let gone = false;
    void import('./echarts.ts').then(({ init }) => {
      if (gone || !host.current) return;
      const made = init(host.current);
      chart.current = made;
      made.setOption(latest.current.option);
      made.on('click', (event) => latest.current.onPick?.(event.data));
    });
    return () => {
      gone = true;
      chart.current?.dispose();
    };
  }, [host]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it takes its size from its place
  useEffect(() => {
    chart.current?.resize();
  }, [width, height]);
  useEffect(() => {
    chart.current?.setOption(option, { notMerge: true });
  }, [option]);
  return <div ref={host} role="img" aria-label={label} className={className} />;
}
