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
  { part, packageName }: PlacedOn,
  supplies: Readonly<Record<string, number>>,
): CheckedPins {
  const pins = new Map(part.family.drawing(packageName).pins.map((pin) => [pin.name, pin]));
  const issues: PinIssue[] = [];
  const bindings: PinBinding[] = [];
  const usedPins = new Map<string, number>();
  const usedBits = new Map<string, number>();
  const bankStandards = new Map<number, { supply: number; entry: number }>();
  for (const [index, entry] of entries.entries()) {
    const before = issues.length;
    const say = (column: PinColumn, severity: Severity, code: string, message: string) =>
      issues.push({ entry: index, column, severity, code, message, port: entry.name });
    if (isGone(entry, ports)) {
      // Whatever else its line says concerns nothing: it must not stand in the way of another port on its pin.
      say(
        'name',
        'warning',
        'pin-port',
        `The design has no port "${PORT.exec(entry.name)?.[1]}"; this line is passed over.`,
      );
      continue;
    }
    const port = checkPort(entry, ports, usedBits, index, entries, say);
    const pin = checkPlace(entry, pins, { part, packageName }, usedPins, index, entries, say);
    const levels = checkLevels(entry, pin, part.family.standards, supplies, bankStandards, entries, index, say);
    if (pin && port?.need.clock && !pin.clock)
      say(
        'pin',
        'warning',
        'pin-clock',
        `Pin ${pin.name} does not reach the clock network; "${port.need.name}" clocks registers. Clock pins: ${[
          ...pins.values(),
        ]
          .filter((p) => p.clock)
          .map((p) => p.name)
          .join(', ')}.`,
      );
    if (port && pin && levels && !issues.slice(before).some((issue) => issue.severity === 'error'))
      bindings.push({ port: port.need.name, bit: port.bit, pin: pin.name, ...levels });
  }
  for (const { name, width, clock } of ports) {
    const missing = Array.from({ length: width }, (_, bit) => bit).filter((bit) => !usedBits.has(`${name}[${bit}]`));
    if (missing.length === 0) continue;
    if (clock) {
      issues.push({
        entry: -1,
        column: 'pin',
        severity: 'serious',
        code: 'unplaced-clock',
        port: name,
        message: `The clock "${name}" is on no pin: nothing that it clocks will ever move.`,
      });
      continue;
    }
    issues.push({
      entry: -1,
      column: 'pin',
      severity: 'warning',
      code: 'unplaced-port',
      port: name,
      message: `${missing.length === width ? `"${name}"` : `"${name}" bit ${missing.join(', ')}`} is on no pin and is left unconnected.`,
    });
  }
  return { bindings, issues };
}

const isGone = ({ name }: PinEntry, ports: readonly PortNeed[]): boolean => {
  const port = PORT.exec(name)?.[1];
  return port !== undefined && ports.every((one) => one.name !== port);
};

type Say = (column: PinColumn, severity: Severity, code: string, message: string) => void;

/** "line 4" of a file, or the row where there is none. */
const whereOf = (entries: readonly PinEntry[], index: number): string =>
  entries[index]?.line ? `line ${entries[index]?.line}` : `row ${index + 1}`;

function checkPort(
  entry: PinEntry,
  ports: readonly PortNeed[],
  used: Map<string, number>,
  index: number,
  entries: readonly PinEntry[],
  say: Say,
): { need: PortNeed; bit: number } | null {
  const match = PORT.exec(entry.name);
  if (!match) {
    say('name', 'error', 'pin-line', `"${entry.name}" is no port. Write port, or port[bit].`);
    return null;
  }
  const need = ports.find((port) => port.name === match[1]);
  const bit = Number(match[2] ?? 0);
  if (!need) return null;
  if (bit >= need.width)
    say(
      'name',
      'error',
      'pin-port',
      `"${need.name}" has ${need.width} ${need.width === 1 ? 'bit' : 'bits'}; there is no bit ${bit}.`,
    );
  else if (need.width > 1 && match[2] === undefined)
    say(
      'name',
      'error',
      'pin-port',
      `"${need.name}" has ${need.width} bits; give each its own line, as in ${need.name}[0].`,
    );
  else {
    const key = `${need.name}[${bit}]`;
    const before = used.get(key);
    if (before !== undefined) {
      say('name', 'error', 'port-twice', `"${entry.name}" already has a pin in ${whereOf(entries, before)}.`);
      return null;
    }
    used.set(key, index);
    return { need, bit };
  }
  return null;
}

function checkPlace(
  entry: PinEntry,
  pins: ReadonlyMap<string, PackagePin>,
  { part, packageName }: PlacedOn,
  used: Map<string, number>,
  index: number,
  entries: readonly PinEntry[],
  say: Say,
): PackagePin | null {
  const pin = pins.get(entry.pin);
  if (entry.pin === '') say('pin', 'error', 'pin-line', 'This line names no pin.');
  else if (!pin)
    say(
      'pin',
      'error',
      'pin-unknown',
      `Pin "${entry.pin}" is not bonded out: the package ${packageName} of a ${part.name} has no such pin.`,
    );
  else if (pin.kind !== 'io')
    say(
      'pin',
      'error',
      'pin-unknown',
      `Pin ${pin.name} is no user pin: it carries ${pin.kind === 'supply' ? 'supply' : 'configuration'}.`,
    );
  else {
    const before = used.get(pin.name);
    if (before !== undefined)
      say('pin', 'error', 'pin-twice', `Pin ${pin.name} is already used in ${whereOf(entries, before)}.`);
    else {
      used.set(pin.name, index);
      return pin;
    }
  }
  return null;
}

function checkLevels(
  entry: PinEntry,
  pin: PackagePin | null,
  standards: readonly IoStandard[],
  supplies: Readonly<Record<string, number>>,
  banks: Map<number, { supply: number; entry: number }>,
  entries: readonly PinEntry[],
  index: number,
  say: Say,
): Pick<PinBinding, 'standard' | 'drive' | 'pull' | 'slew'> | null {
  const standard = namedIn(standards, entry.standard);
  const drive = Number(entry.drive);
  if (!standard)
    say(
      'standard',
      'error',
      'pin-standard',
      `"${entry.standard}" is no I/O standard. Known: ${standards.map((s) => s.name).join(', ')}.`,
    );
  else if (!standard.drives.includes(drive))
    say(
      'drive',
      'error',
      'pin-drive',
      `${standard.name} drives ${standard.drives.join(', ')} mA, not "${entry.drive}".`,
    );
  if (!(PULLS as readonly string[]).includes(entry.pull))
    say('pull', 'error', 'pin-pull', `"${entry.pull}" is no pull. Known: ${PULLS.join(', ')}.`);
  if (!(SLEWS as readonly string[]).includes(entry.slew))
    say('slew', 'error', 'pin-slew', `"${entry.slew}" is no slew rate. Known: ${SLEWS.join(', ')}.`);
  if (!standard) return null;
  if (pin?.bank !== null && pin?.bank !== undefined)
    checkBank(standard.supply, pin.bank, supplies, banks, entries, index, standard.name, say);
  return { standard: standard.name, drive, pull: entry.pull as Pull, slew: entry.slew as Slew };
}

/**
 * All pins of a bank share its supply: that of the board where it is known, else of the first line that uses the bank.
 */
function checkBank(
  supply: number,
  bank: number,
  supplies: Readonly<Record<string, number>>,
  banks: Map<number, { supply: number; entry: number }>,
  entries: readonly PinEntry[],
  index: number,
  name: string,
  say: Say,
): void {
  const given = supplies[bank];
  if (given !== undefined) {
    if (given !== supply)
      say(
        'standard',
        'serious',
        'pin-standard',
        `Bank ${bank} has a supply of ${given} V; ${name} needs ${supply} V. Inputs may read wrong and outputs drive to ${given} V.`,
      );
    return;
  }
  const first = banks.get(bank);
  if (!first) banks.set(bank, { supply, entry: index });
  else if (first.supply !== supply)
    say(
      'standard',
      'error',
      'pin-standard',
      `Bank ${bank} is at ${first.supply} V since ${whereOf(entries, first.entry)}; ${name} needs ${supply} V.`,
    );
}
