import type { LockView } from './panel.ts';

type Motors = LockView['motors'];

export const AT_REST: Motors = {
  sluiceUpper: false,
  sluiceLower: false,
  gateUpper: false,
  gateLower: false,
  wide: false,
};

/** What a sluice lets through: centimetres a second for each root of a centimetre of head. */
const SLUICE = 18;
const WIDE = 10;
/** A gate is as wide as the chamber: the levels are one within a moment. */
const GATE = 120;
/** Two levels may differ this much for a gate to open without harm, in centimetres. */
const SAFE_DIFFERENCE = 10;
const STEP_MICROSECONDS = 1000;
/** Waves while water flows, in centimetres and hertz. */
const WAVES = [
  [0.7, 2.3],
  [0.4, 5.1],
] as const;

/**
 * The chamber between two ponds. Water runs through an opening as the root of the difference in height. Levels in
 * centimetres above the lower pond, which stands at 0. @source Torricelli's law (value of the constant: invented, so
 * that a filling takes about two seconds)
 */
export class Water {
  readonly pond: number;
  chamber = 0;
  surge: LockView['surge'] = null;
  #time = 0;
  #was = AT_REST;
  #flow = 0;

  constructor(pond: number) {
    this.pond = pond;
  }

  /** Lets time pass, up to a moment in microseconds, with the motors as they stand. */
  advance(now: number, motors: Motors): void {
    this.#watch(now, motors);
    while (this.#time < now) {
      const seconds = Math.min(STEP_MICROSECONDS, now - this.#time) / 1e6;
      this.#time = Math.min(now, this.#time + STEP_MICROSECONDS);
      const upper = (motors.gateUpper ? GATE : 0) + (motors.sluiceUpper ? SLUICE * (motors.wide ? WIDE : 1) : 0);
      const lower = (motors.gateLower ? GATE : 0) + (motors.sluiceLower ? SLUICE * (motors.wide ? WIDE : 1) : 0);
      const before = this.chamber;
      this.chamber = towards(this.chamber, this.pond, upper * Math.sqrt(Math.abs(this.pond - this.chamber)) * seconds);
      this.chamber = towards(this.chamber, 0, lower * Math.sqrt(Math.abs(this.chamber)) * seconds);
      this.#flow +=
        (Math.min(1, Math.abs(this.chamber - before) / (50 * seconds)) - this.#flow) * Math.min(1, seconds * 4);
    }
  }

  /** What a sensor in the chamber reads at a moment: the level with its waves. */
  sensed(now: number): number {
    const waves = WAVES.reduce(
      (sum, [centimetres, hertz]) => sum + centimetres * Math.sin((2 * Math.PI * hertz * now) / 1e6),
      0,
    );
    return Math.max(0, this.chamber + waves * this.#flow);
  }

  #watch(now: number, motors: Motors): void {
    for (const gate of ['upper', 'lower'] as const) {
      const isOpen = gate === 'upper' ? motors.gateUpper : motors.gateLower;
      const wasOpen = gate === 'upper' ? this.#was.gateUpper : this.#was.gateLower;
      const difference = gate === 'upper' ? this.pond - this.chamber : this.chamber;
      if (!isOpen || wasOpen) continue;
      if (difference > SAFE_DIFFERENCE)
        this.surge = { gate, differenceCentimetres: Math.round(difference), time: now, calmSince: 0 };
      else if (this.surge) this.surge = { ...this.surge, calmSince: this.surge.calmSince + 1 };
    }
    this.#was = motors;
  }
}

const towards = (from: number, to: number, by: number): number =>
  from < to ? Math.min(to, from + by) : Math.max(to, from - by);
