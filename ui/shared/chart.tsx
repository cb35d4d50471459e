'use client';
import type { EChartsType } from 'echarts/core';
import { useEffect, useRef } from 'react';
import { colour, useDark } from './colour.ts';
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
  const dark = useDark();
  const chart = useRef<EChartsType | null>(null);
  const latest = useRef({ option, onPick });
  latest.current = { option, onPick };
  useEffect(() => {
    let gone = false;
    void import('./echarts.ts').then(({ init }) => {
      if (gone || !host.current || !canDraw()) return;
      const made = init(host.current);
      chart.current = made;
      made.setOption(inColours(latest.current.option));
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: by night the colours are others
  useEffect(() => {
    chart.current?.setOption(inColours(option), { notMerge: true });
  }, [option, dark]);
  return <div ref={host} role="img" aria-label={label} className={className} />;
}

/** Where nothing can be drawn on, the chart's label has to do. */
const canDraw = (): boolean => document.createElement('canvas').getContext('2d') !== null;

/** What is told beside the pointer stands in the colours of the page, which the library does not know. */
function inColours({ tooltip, ...option }: Props['option']): Props['option'] {
  if (typeof tooltip !== 'object' || tooltip === null) return option;
  const text = { color: colour('ink'), fontFamily: 'B612' };
  const looks = { backgroundColor: colour('raised'), borderColor: colour('line'), textStyle: text };
  return { ...option, tooltip: { ...looks, ...tooltip } };
}
