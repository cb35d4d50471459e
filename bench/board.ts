import { item, numberAt } from '../core/lists.ts';
import type { BenchFile } from './bench-file.ts';
import type { PanelState } from './panel.ts';
import type { Fabric } from './corvane/index.ts';

/** The pads that the board's parts look at. */
export interface Pads {
  padDrive(pin: string): boolean | null;
}

const RATE_WINDOW_MICROSECONDS = 4_000_000;

/** The parts around the FPGA: what its outputs light, what its inputs feel. Knows pins, not ports. */
export class Board {
  readonly #file: BenchFile['board'];
  readonly #down = new Map<string, boolean>();
  readonly #lampOn: number[];
  readonly #lampLast: boolean[];
  readonly #lampRises: number[][];
  readonly #digitOn: number[][];
  #samples = 0;
  #shown: Pick<PanelState, 'lamps' | 'digits'>;

  constructor(file: BenchFile['board']) {
    this.#file = file;
    this.#lampOn = file.lamps.map(() => 0);
    this.#lampLast = file.lamps.map(() => false);
    this.#lampRises = file.lamps.map(() => []);
    this.#digitOn = this.#emptyDigits();
    this.#shown = {
      lamps: file.lamps.map(({ name, label, pin }) => ({ name, label: label ?? name, pin, level: 0, hertz: null })),
      digits: this.#emptyDigits(),
    };
    for (const { name, on } of file.switches) this.#down.set(name, on ?? false);
  }

  #emptyDigits(): number[][] {
    return (this.#file.digits?.commons ?? []).map(() => Array<number>(8).fill(0));
  }

  /** Presses, releases or flips; false when the board has no such control. */
  operate(name: string, on: boolean, fabric: Fabric | null): boolean {
    const control = [...this.#file.buttons, ...this.#file.switches].find((c) => c.name === name);
    if (!control) return false;
    this.#down.set(name, on);
    fabric?.setPin(control.pin, on === (control.active ?? true));
    return true;
  }

  /** What the board puts on a pin at a time in microseconds; null when nothing. */
  external(pin: string, time: number): boolean | null {
    const control = [...this.#file.buttons, ...this.#file.switches].find((c) => c.pin === pin);
    if (control) return (this.#down.get(control.name) ?? false) === (control.active ?? true);
    const clock = this.#file.oscillators.find((oscillator) => oscillator.pin === pin);
    return clock ? ((time * clock.hz) / 1e6) % 1 < 0.5 : null;
  }

  /** Gives a design that has just begun the levels of all its inputs. */
  present(fabric: Fabric): void {
    for (const control of [...this.#file.buttons, ...this.#file.switches])
      fabric.setPin(control.pin, (this.#down.get(control.name) ?? false) === (control.active ?? true));
  }

  /** A look at all outputs, at a time in microseconds; it stands for `looks` where they cannot change meanwhile. */
  sample(pads: Pads | null, time: number, looks = 1): void {
    this.#samples += looks;
    for (const [i, lamp] of this.#file.lamps.entries()) {
      const level = pads?.padDrive(lamp.pin);
      const on = level !== null && level !== undefined && level === (lamp.active ?? true);
      if (on) this.#lampOn[i] = numberAt(this.#lampOn, i) + looks;
      if (on && !this.#lampLast[i]) this.#lampRises[i]?.push(time);
      this.#lampLast[i] = on;
    }
    const { digits } = this.#file;
    if (!digits || !pads) return;
    for (const [d, common] of digits.commons.entries()) {
      if (pads.padDrive(common) !== (digits.commonActive ?? true)) continue;
      const row = item(this.#digitOn, d);
      for (const [s, segment] of digits.segments.entries())
        if (pads.padDrive(segment) === (digits.segmentActive ?? true)) row[s] = numberAt(row, s) + looks;
    }
  }

  /** Levels over the samples since the last call; the former ones when there were too few. */
  look(time: number, leastSamples: number): Pick<PanelState, 'lamps' | 'digits' | 'buttons' | 'switches'> {
    if (this.#samples >= leastSamples) {
      const count = this.#samples;
      const lamps = this.#file.lamps.map(({ name, label, pin }, i) => ({
        name,
        label: label ?? name,
        pin,
        level: numberAt(this.#lampOn, i) / count,
        hertz: this.#rate(i, time),
      }));
      const share = this.#digitOn.length > 0 ? count / this.#digitOn.length : 1;
      const digits = this.#digitOn.map((row) => row.map((on) => Math.min(1, on / share)));
      this.#shown = { lamps, digits };
      this.#samples = 0;
      this.#lampOn.fill(0);
      for (const row of this.#digitOn) row.fill(0);
    }
    const state = (name: string) => this.#down.get(name) ?? false;
    return {
      ...this.#shown,
      buttons: this.#file.buttons.map(({ name, label, pin }) => ({
        name,
        label: label ?? name,
        pin,
        down: state(name),
      })),
      switches: this.#file.switches.map(({ name, label, pin }) => ({
        name,
        label: label ?? name,
        pin,
        on: state(name),
      })),
    };
  }

  goDark(): void {
    for (const rises of this.#lampRises) rises.length = 0;
    this.#lampLast.fill(false);
  }

  /** Blinks a second from the rises of the last seconds; null when there were fewer than three. */
  #rate(lamp: number, time: number): number | null {
    const rises = item(this.#lampRises, lamp);
    while (rises.length > 0 && numberAt(rises, 0) < time - RATE_WINDOW_MICROSECONDS) rises.shift();
    const [first] = rises;
    const last = rises.at(-1);
    return first === undefined || last === undefined || rises.length < 3
      ? null
      : ((rises.length - 1) * 1e6) / (last - first);
  }
}
