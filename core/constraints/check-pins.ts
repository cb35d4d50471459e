import {
  type IoStandard,
  namedIn,
  type PackagePin,
  type Part,
  type PinBinding,
  PULLS,
  type Pull,
  SLEWS,
  type Slew,
} from '../families/index.ts';
import type { Severity } from '../hdl/index.ts';
import type { PinColumn, PinEntry } from './pin-table.ts';

/** A port of the design, as pins see it. */
export interface PortNeed {
  readonly name: string;
  readonly width: number;
  readonly direction: 'input' | 'output' | 'inout';
  /** It clocks registers. */
  readonly clock: boolean;
}

/** Something wrong with one cell of the table, or with a port that is not in it (`entry` is then -1). */
export interface PinIssue {
  readonly entry: number;
  readonly column: PinColumn;
  readonly severity: Severity;
  readonly code: string;
  readonly message: string;
  readonly port: string;
}

/** The part that pins are chosen of, in one of its packages. */
export interface PlacedOn {
  readonly part: Part;
  readonly packageName: string;
}

interface CheckedPins {
  readonly bindings: readonly PinBinding[];
  readonly issues: readonly PinIssue[];
}

const PORT = /^([A-Za-z_][\w$]*)(?:\[(\d+)\])?$/;

/**
 * Checks a ports table against the ports of a design, the package of a part and the supplies of a board's banks.
 * Bindings are those of the lines without an error.
 */
export function checkPins(
  entries: readonly PinEntry[],
  ports: readonly PortNeed[],
  on: PlacedOn,
  supplies: Readonly<Record<string, number>>,
): CheckedPins {
  const pins = new Map(on.part.family.drawing(on.packageName).pins.map((pin) => [pin.name, pin]));
  const used: Used = { bits: new Map(), pins: new Map(), banks: new Map() };
  const issues: PinIssue[] = [];
  const bindings: PinBinding[] = [];
  for (const [index, entry] of entries.entries()) {
    const before = issues.length;
    const say: Say = (column, severity, code, message) =>
      issues.push({ entry: index, column, severity, code, message, port: entry.name });
    const binding = checkLine({ entry, index, entries, ports, pins, on, supplies, used, say });
    if (binding && !issues.slice(before).some((issue) => issue.severity === 'error')) bindings.push(binding);
  }
  return { bindings, issues: [...issues, ...unplaced(ports, used)] };
}

type Say = (column: PinColumn, severity: Severity, code: string, message: string) => void;

/** What lines before have taken, each with the line that did. */
interface Used {
  /** By `port[bit]`. */
  readonly bits: Map<string, number>;
  readonly pins: Map<string, number>;
  /** The supply that the first line of a bank asks for. */
  readonly banks: Map<number, { readonly supply: number; readonly entry: number }>;
}

/** One line of the table with all it is checked against. */
interface Line {
  readonly entry: PinEntry;
  readonly index: number;
  readonly entries: readonly PinEntry[];
  readonly ports: readonly PortNeed[];
  readonly pins: ReadonlyMap<string, PackagePin>;
  readonly on: PlacedOn;
  readonly supplies: Readonly<Record<string, number>>;
  readonly used: Used;
  readonly say: Say;
}

function checkLine(line: Line): PinBinding | null {
  const { entry, ports, pins, say } = line;
  if (isGone(entry, ports)) {
    // Whatever else its line says concerns nothing: it must not stand in the way of another port on its pin.
    const name = PORT.exec(entry.name)?.[1];
    say('name', 'warning', 'pin-port', `The design has no port "${name}"; this line is passed over.`);
    return null;
  }
  const port = checkPort(line);
  const pin = checkPlace(line);
  const levels = checkLevels(line, pin);
  if (pin && port?.need.clock && !pin.clock) {
    const clockPins = [...pins.values()].filter(({ clock }) => clock).map(({ name }) => name);
    say(
      'pin',
      'warning',
      'pin-clock',
      `Pin ${pin.name} does not reach the clock network; "${port.need.name}" clocks registers. Clock pins: ` +
        `${clockPins.join(', ')}.`,
    );
  }
  return port && pin && levels ? { port: port.need.name, bit: port.bit, pin: pin.name, ...levels } : null;
}

const isGone = ({ name }: PinEntry, ports: readonly PortNeed[]): boolean => {
  const port = PORT.exec(name)?.[1];
  return port !== undefined && ports.every((one) => one.name !== port);
};

/** Bits that no line gives a pin. */
function unplaced(ports: readonly PortNeed[], { bits }: Used): PinIssue[] {
  return ports.flatMap(({ name, width, clock }): PinIssue[] => {
    const missing = Array.from({ length: width }, (_, bit) => bit).filter((bit) => !bits.has(`${name}[${bit}]`));
    if (missing.length === 0) return [];
    const about = { entry: -1, column: 'pin', port: name } as const;
    if (clock) {
      const message = `The clock "${name}" is on no pin: nothing that it clocks will ever move.`;
      return [{ ...about, severity: 'serious', code: 'unplaced-clock', message }];
    }
    const what = missing.length === width ? `"${name}"` : `"${name}" bit ${missing.join(', ')}`;
    const message = `${what} is on no pin and is left unconnected.`;
    return [{ ...about, severity: 'warning', code: 'unplaced-port', message }];
  });
}

/** "line 4" of a file, or the row where there is none. */
const whereOf = (entries: readonly PinEntry[], index: number): string =>
  entries[index]?.line ? `line ${entries[index]?.line}` : `row ${index + 1}`;

function checkPort({ entry, index, entries, ports, used, say }: Line): { need: PortNeed; bit: number } | null {
  const wrong = (code: string, message: string): null => {
    say('name', 'error', code, message);
    return null;
  };
  const match = PORT.exec(entry.name);
  if (!match) return wrong('pin-line', `"${entry.name}" is no port. Write port, or port[bit].`);
  const need = ports.find((port) => port.name === match[1]);
  const bit = Number(match[2] ?? 0);
  if (!need) return null;
  const { name, width } = need;
  if (bit >= width)
    return wrong('pin-port', `"${name}" has ${width} ${width === 1 ? 'bit' : 'bits'}; there is no bit ${bit}.`);
  if (width > 1 && match[2] === undefined)
    return wrong('pin-port', `"${name}" has ${width} bits; give each its own line, as in ${name}[0].`);
  const key = `${name}[${bit}]`;
  const before = used.bits.get(key);
  if (before !== undefined)
    return wrong('port-twice', `"${entry.name}" already has a pin in ${whereOf(entries, before)}.`);
  used.bits.set(key, index);
  return { need, bit };
}

function checkPlace({ entry, index, entries, pins, on, used, say }: Line): PackagePin | null {
  const wrong = (code: string, message: string): null => {
    say('pin', 'error', code, message);
    return null;
  };
  if (entry.pin === '') return wrong('pin-line', 'This line names no pin.');
  const pin = pins.get(entry.pin);
  if (!pin)
    return wrong(
      'pin-unknown',
      `Pin "${entry.pin}" is not bonded out: the package ${on.packageName} of a ${on.part.name} has no such pin.`,
    );
  if (pin.kind !== 'io') {
    const carried = pin.kind === 'supply' ? 'supply' : 'configuration';
    return wrong('pin-unknown', `Pin ${pin.name} is no user pin: it carries ${carried}.`);
  }
  const before = used.pins.get(pin.name);
  if (before !== undefined)
    return wrong('pin-twice', `Pin ${pin.name} is already used in ${whereOf(entries, before)}.`);
  used.pins.set(pin.name, index);
  return pin;
}

function checkLevels(
  line: Line,
  pin: PackagePin | null,
): Pick<PinBinding, 'standard' | 'drive' | 'pull' | 'slew'> | null {
  const { entry, on, say } = line;
  const { standards } = on.part.family;
  const standard = namedIn(standards, entry.standard);
  const drive = Number(entry.drive);
  if (!standard) {
    const known = standards.map(({ name }) => name).join(', ');
    say('standard', 'error', 'pin-standard', `"${entry.standard}" is no I/O standard. Known: ${known}.`);
  } else if (!standard.drives.includes(drive)) {
    const drives = standard.drives.join(', ');
    say('drive', 'error', 'pin-drive', `${standard.name} drives ${drives} mA, not "${entry.drive}".`);
  }
  if (!(PULLS as readonly string[]).includes(entry.pull))
    say('pull', 'error', 'pin-pull', `"${entry.pull}" is no pull. Known: ${PULLS.join(', ')}.`);
  if (!(SLEWS as readonly string[]).includes(entry.slew))
    say('slew', 'error', 'pin-slew', `"${entry.slew}" is no slew rate. Known: ${SLEWS.join(', ')}.`);
  if (!standard) return null;
  if (pin?.bank !== null && pin?.bank !== undefined) checkBank(line, pin.bank, standard);
  return { standard: standard.name, drive, pull: entry.pull as Pull, slew: entry.slew as Slew };
}

/**
 * All pins of a bank share its supply: that of the board where it is known, else of the first line that uses the bank.
 */
function checkBank({ index, entries, supplies, used, say }: Line, bank: number, { name, supply }: IoStandard): void {
  const given = supplies[bank];
  if (given !== undefined) {
    if (given !== supply)
      say(
        'standard',
        'serious',
        'pin-standard',
        `Bank ${bank} has a supply of ${given} V; ${name} needs ${supply} V. Inputs may read wrong and outputs ` +
          `drive to ${given} V.`,
      );
    return;
  }
  const first = used.banks.get(bank);
  if (!first) used.banks.set(bank, { supply, entry: index });
  else if (first.supply !== supply)
    say(
      'standard',
      'error',
      'pin-standard',
      `Bank ${bank} is at ${first.supply} V since ${whereOf(entries, first.entry)}; ${name} needs ${supply} V.`,
    );
}
