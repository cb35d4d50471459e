import type { Colour } from '../../shared/index.ts';
import type { Sweep } from '../../../core/operations/index.ts';

/** The sweep as ECharts draws it: share of wrong bits in percent against TCK in MHz, with the limit and the choice. */
export function errorChart({ points, reliableHz, chosenHz }: Sweep, colour: Colour): Record<string, unknown> {
  const marks = [
    ...(reliableHz === null
      ? []
      : [
          {
            xAxis: reliableHz / 1e6,
            name: 'reliable',
            lineStyle: { color: colour('ink'), type: 'dashed' },
            label: { formatter: 'reliable', position: 'insideEndTop', color: colour('ink') },
          },
        ]),
    ...(chosenHz === null
      ? []
      : [
          {
            xAxis: chosenHz / 1e6,
            name: 'set',
            lineStyle: { color: colour('good') },
            label: { formatter: 'set', position: 'insideEndTop', color: colour('good') },
          },
        ]),
  ];
  return {
    animation: false,
    textStyle: { fontFamily: 'B612', color: colour('ink') },
    grid: { left: 64, right: 24, top: 20, bottom: 44 },
    tooltip: { trigger: 'axis', valueFormatter: (value: number) => `${value.toFixed(2)} %` },
    xAxis: {
      type: 'log',
      name: 'TCK, MHz',
      nameLocation: 'middle',
      nameGap: 28,
      min: 0.2,
      max: 60,
      axisLine: { lineStyle: { color: colour('ink') } },
      splitLine: { lineStyle: { color: colour('line') } },
    },
    yAxis: {
      type: 'value',
      name: 'wrong bits, %',
      nameLocation: 'middle',
      nameGap: 44,
      min: 0,
      max: (value: { max: number }) => Math.max(1, Math.ceil(value.max)),
      splitLine: { lineStyle: { color: colour('line') } },
    },
    series: [
      {
        type: 'line',
        data: points.map(({ hz, errors, bits }) => [hz / 1e6, (errors / bits) * 100]),
        symbolSize: 7,
        lineStyle: { color: colour('signal'), width: 2 },
        itemStyle: { color: colour('signal') },
        markLine: { symbol: 'none', silent: true, data: marks },
      },
    ],
  };
}
