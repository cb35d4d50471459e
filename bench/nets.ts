import type { BoundaryDevice } from './boundary.ts';

/** A pin of a device, as `place.pin`: `1.P64`. */
type PinName = string;

interface NetWorld {
  readonly devices: ReadonlyMap<number, BoundaryDevice>;
  /** What parts of the board put on a pin of the main FPGA; null when nothing. */
  readonly external: (place: number, pin: string) => boolean | null;
}

/** A fault in the wiring. */
export type Defect =
  | { readonly kind: 'short'; readonly nets: readonly string[]; readonly as: 'and' | 'or' }
  | { readonly kind: 'open'; readonly pin: PinName }
  | { readonly kind: 'stuck'; readonly net: string; readonly level: boolean };

interface Net {
  readonly name: string;
  readonly pins: readonly { readonly place: number; readonly pin: string }[];
}

/** A pad that nothing drives is held high by its weak pull-up. docs/silicon.md, section 8 */
const FLOATING = true;

/** The copper between devices, with its faults. */
export class Nets {
  readonly #world: NetWorld;
  readonly #nets: readonly Net[];
  readonly #byPin = new Map<PinName, Net>();
  defects: readonly Defect[] = [];

  constructor(nets: readonly { readonly name: string; readonly pins: readonly PinName[] }[], world: NetWorld) {
    this.#world = world;
    this.#nets = nets.map(({ name, pins }) => ({ name, pins: pins.map(splitPin) }));
    for (const net of this.#nets) for (const { place, pin } of net.pins) this.#byPin.set(`${place}.${pin}`, net);
  }

  /** Pins of a device that other devices share. */
  pinsOf(place: number): readonly string[] {
    return this.#nets.flatMap((net) => net.pins.filter((pin) => pin.place === place).map(({ pin }) => pin));
  }

  /** Level at a pad. Drivers that disagree give 0, as the stronger transistor pulls down. */
  level(place: number, pin: string): boolean {
    return this.driven(place, pin) ?? FLOATING;
  }

  /** The same, null when nothing drives it. */
  driven(place: number, pin: string): boolean | null {
    const net = this.#byPin.get(`${place}.${pin}`);
    if (!net || this.#isOpen(place, pin)) return together([this.#drive(place, pin)], 'and');
    const stuck = this.defects.find((defect) => defect.kind === 'stuck' && defect.net === net.name);
    if (stuck?.kind === 'stuck') return stuck.level;
    const short = this.defects.find((defect) => defect.kind === 'short' && defect.nets.includes(net.name));
    if (short?.kind !== 'short') return this.#netDrive(net);
    return together(
      this.#nets.filter((other) => short.nets.includes(other.name)).map((other) => this.#netDrive(other)),
      short.as,
    );
  }

  #netDrive(net: Net): boolean | null {
    return together(
      net.pins.filter(({ place, pin }) => !this.#isOpen(place, pin)).map(({ place, pin }) => this.#drive(place, pin)),
      'and',
    );
  }

  #isOpen(place: number, pin: string): boolean {
    return this.defects.some((defect) => defect.kind === 'open' && defect.pin === `${place}.${pin}`);
  }

  #drive(place: number, pin: string): boolean | null {
    return this.#world.devices.get(place)?.padDrive(pin) ?? this.#world.external(place, pin);
  }
}

function together(levels: readonly (boolean | null)[], as: 'and' | 'or'): boolean | null {
  const driven = levels.filter((level) => level !== null);
  if (driven.length === 0) return null;
  return as === 'and' ? driven.every(Boolean) : driven.some(Boolean);
}

function splitPin(name: PinName): { place: number; pin: string } {
  const dot = name.indexOf('.');
  return { place: Number(name.slice(0, dot)), pin: name.slice(dot + 1) };
}
