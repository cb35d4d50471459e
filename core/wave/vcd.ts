import { type Capture, type CapturedSignal, changesOf } from './capture.ts';

const FIRST_CODE = 33;
const CODES = 94;

/**
 * A capture as a value change dump. Time is in picoseconds from the first sample; modules follow the dots of the names.
 *
 * @source IEEE 1364-2005, clause 18
 */
export function writeVcd(capture: Capture, date: string): string {
  const period = Math.round(1e12 / capture.sampleRate);
  const lines = [`$date ${date} $end`, '$version Nimble Signal $end', `$comment recorder ${capture.recorder}, trigger at sample ${capture.triggerIndex}, build ${capture.fingerprint} $end`, '$timescale 1 ps $end'];
  const codes = new Map(capture.signals.map((signal, i) => [signal, codeOf(i)]));
  declare(capture.signals, 0, codes, lines);
  lines.push('$enddefinitions $end');
  const events = new Map<number, string[]>();
  for (const signal of capture.signals)
    for (const { sample, value } of changesOf(capture, signal)) {
      const text = signal.width === 1 ? `${value}${codes.get(signal)}` : `b${value.toString(2)} ${codes.get(signal)}`;
      const at = events.get(sample);
      if (at) at.push(text);
      else events.set(sample, [text]);
    }
  for (const [sample, texts] of [...events].sort(([a], [b]) => a - b)) {
    lines.push(`#${sample * period}`);
    if (sample === 0) lines.push('$dumpvars', ...texts, '$end');
    else lines.push(...texts);
  }
  lines.push(`#${capture.samples * period}`);
  return `${lines.join('\n')}\n`;
}

/** Identifier codes from ! to ~, as short as they can be. */
function codeOf(index: number): string {
  let code = '';
  for (let rest = index + 1; rest > 0; rest = Math.floor((rest - 1) / CODES)) code += String.fromCharCode(FIRST_CODE + ((rest - 1) % CODES));
  return code;
}

function declare(signals: readonly CapturedSignal[], depth: number, codes: ReadonlyMap<CapturedSignal, string>, lines: string[]): void {
  const scopes = new Map<string, CapturedSignal[]>();
  for (const signal of signals) {
    const path = signal.name.split('.');
    if (path.length === depth + 1) {
      const range = signal.width === 1 ? '' : ` [${signal.width - 1}:0]`;
      lines.push(`$var wire ${signal.width} ${codes.get(signal)} ${path[depth]}${range} $end`);
    } else scopes.set(path[depth] as string, [...(scopes.get(path[depth] as string) ?? []), signal]);
  }
  for (const [name, inner] of scopes) {
    lines.push(`$scope module ${name} $end`);
    declare(inner, depth + 1, codes, lines);
    lines.push('$upscope $end');
  }
}
