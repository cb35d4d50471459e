import { item } from '../lists.ts';
import type { Logic } from './logic.ts';

/**
 * One signal over time. From `times[i]` on it has `values[i]`; times count half clock cycles, or rows where there is no
 * clock.
 */
interface TracedSignal {
  readonly name: string;
  readonly width: number;
  readonly names: readonly { readonly value: string; readonly name: string }[];
  readonly times: number[];
  readonly values: Logic[];
}

export interface Trace {
  readonly signals: readonly TracedSignal[];
  /** Time of the end. */
  end: number;
  /** More happened than is kept. */
  cut: boolean;
}

const MOST_CHANGES = 400_000;

/** Notes the values of signals as they change. */
export class Tracer {
  readonly trace: Trace;
  readonly #read: readonly (() => Logic)[];
  #changes = 0;

  constructor(
    signals: readonly {
      readonly name: string;
      readonly width: number;
      readonly names: TracedSignal['names'];
      readonly read: () => Logic;
    }[],
  ) {
    this.trace = {
      signals: signals.map(({ name, width, names }) => ({ name, width, names, times: [], values: [] })),
      end: 0,
      cut: false,
    };
    this.#read = signals.map((signal) => signal.read);
  }

  sample(time: number): void {
    this.trace.end = time;
    for (const [i, signal] of this.trace.signals.entries()) {
      const now = (this.#read[i] as () => Logic)();
      const last = signal.values.at(-1);
      if (last && last.value === now.value && last.unknown === now.unknown) continue;
      if (this.#changes++ >= MOST_CHANGES) {
        this.trace.cut = true;
        return;
      }
      signal.times.push(time);
      signal.values.push(now);
    }
  }
}

const digits = ({ value, unknown }: Logic, width: number): string =>
  Array.from({ length: width }, (_, i) => {
    const at = BigInt(width - 1 - i);
    return (unknown >> at) & 1n ? ((value >> at) & 1n ? 'x' : 'z') : ((value >> at) & 1n).toString();
  }).join('');

/** The trace as a value change dump, one unit of time a half cycle. @source IEEE 1364-2005, clause 18 */
export function traceVcd(trace: Trace, date: string): string {
  const lines = [
    `$date ${date} $end`,
    '$version Nimble Signal $end',
    '$timescale 1 ns $end',
    '$scope module vectors $end',
  ];
  const code = (i: number): string =>
    String.fromCharCode(33 + (i % 94)) + (i >= 94 ? code(Math.floor(i / 94) - 1) : '');
  for (const [i, { name, width }] of trace.signals.entries())
    lines.push(
      `$var wire ${width} ${code(i)} ${name.replaceAll('.', '/')}${width === 1 ? '' : ` [${width - 1}:0]`} $end`,
    );
  lines.push('$upscope $end', '$enddefinitions $end');
  const events = trace.signals.flatMap((signal, i) =>
    signal.times.map((time, k) => ({
      time,
      text:
        signal.width === 1
          ? `${digits(item(signal.values, k), 1)}${code(i)}`
          : `b${digits(item(signal.values, k), signal.width)} ${code(i)}`,
    })),
  );
  events.sort((a, b) => a.time - b.time);
  let now = -1;
  for (const { time, text } of events) {
    if (time !== now) lines.push(`#${time}`);
    now = time;
    lines.push(text);
  }
  return `${lines.join('\n')}\n#${trace.end + 1}\n`;
}
