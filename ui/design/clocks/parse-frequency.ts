import { own } from '../../../core/lists.ts';

const UNITS: Readonly<Record<string, { readonly factor: number; readonly period: boolean }>> = {
  hz: { factor: 1, period: false },
  khz: { factor: 1e3, period: false },
  mhz: { factor: 1e6, period: false },
  ghz: { factor: 1e9, period: false },
  s: { factor: 1, period: true },
  ms: { factor: 1e-3, period: true },
  us: { factor: 1e-6, period: true },
  µs: { factor: 1e-6, period: true },
  ns: { factor: 1e-9, period: true },
  ps: { factor: 1e-12, period: true },
};

/** Hertz of "12 MHz", "12e6" or "83.3 ns"; null for what is neither a frequency nor a period. */
export function parseFrequency(text: string): number | null {
  const match = /^([0-9.]+(?:e[+-]?\d+)?)\s*([a-zµ]*)$/i.exec(text.trim().replace(',', '.'));
  const unit = own(UNITS, (match?.[2] || 'hz').toLowerCase());
  const value = Number(match?.[1]);
  if (!match || !unit || !(value > 0)) return null;
  const scaled = value * unit.factor;
  return unit.period ? Number((1 / scaled).toPrecision(12)) : scaled;
}
