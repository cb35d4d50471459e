import { countingVectors } from './counting.ts';
import { item } from '../lists.ts';
import type { BoundaryMap } from './map.ts';
import type { BoundaryScan } from './scan.ts';

/** A net of the board: pins as `place.pin`, places as in the chain. */
export interface BoardNet {
  readonly name: string;
  readonly pins: readonly string[];
}

/** What is wrong with the wiring. `pins` are those that show it. */
export type InterconnectFault =
  | {
      readonly kind: 'short';
      readonly nets: readonly string[];
      readonly as: 'wired-and' | 'wired-or' | 'one-wins';
      readonly pins: readonly string[];
    }
  | { readonly kind: 'stuck'; readonly net: string; readonly level: 0 | 1; readonly pins: readonly string[] }
  | { readonly kind: 'open'; readonly net: string; readonly pins: readonly string[] }
  | {
      readonly kind: 'other';
      readonly net: string;
      readonly expected: string;
      readonly actual: string;
      readonly pins: readonly string[];
    };

export interface InterconnectResult {
  readonly tested: readonly string[];
  /** Nets that boundary scan cannot test, with why. */
  readonly untested: readonly { readonly net: string; readonly why: string }[];
  readonly vectors: number;
  readonly faults: readonly InterconnectFault[];
}

interface TestNet {
  readonly name: string;
  readonly drivers: readonly string[];
  readonly receivers: readonly string[];
  readonly number: number;
}

const MOST_ROUNDS = 4;

/** Tests the nets between devices. Takes their pins over and gives them back, also when something throws. */
export async function testInterconnect(
  scan: BoundaryScan,
  nets: readonly BoardNet[],
  onVector: (done: number, total: number) => void,
): Promise<InterconnectResult> {
  const { tests, untested } = testable(scan, nets);
  const vectors = countingVectors(tests.length);
  const rounds = Math.min(MOST_ROUNDS, Math.max(0, ...tests.map((net) => net.drivers.length)));
  const faults: InterconnectFault[] = [];
  try {
    for (let round = 0; round < rounds; round++) {
      const driver = (net: TestNet): string => item(net.drivers, round % net.drivers.length);
      const seen = new Map<string, string>();
      for (const [i, vector] of vectors.entries()) {
        onVector(round * vectors.length + i, rounds * vectors.length);
        for (const net of tests)
          for (const pin of net.drivers) set(scan, pin, pin === driver(net) ? (vector[net.number] ? 1 : 0) : null);
        await scan.apply();
        // The first exchange drives, the second sees what came of it.
        const levels = new Map((await scan.apply()).map(({ place, pin, level }) => [`${place}.${pin}`, level]));
        for (const net of tests)
          for (const pin of net.receivers) seen.set(pin, `${seen.get(pin) ?? ''}${levels.get(pin) ?? 'x'}`);
      }
      const expected = tests.map((net) => vectors.map((vector) => (vector[net.number] ? '1' : '0')).join(''));
      for (const fault of judge(tests, expected, seen, driver))
        if (!faults.some((known) => JSON.stringify(known) === JSON.stringify(fault))) faults.push(fault);
    }
  } finally {
    await scan.release();
  }
  return { tested: tests.map((net) => net.name), untested, vectors: vectors.length * rounds, faults: merged(faults) };
}

function testable(
  scan: BoundaryScan,
  nets: readonly BoardNet[],
): { tests: TestNet[]; untested: InterconnectResult['untested'] } {
  const tests: TestNet[] = [];
  const untested: { net: string; why: string }[] = [];
  for (const { name, pins } of nets) {
    const own = pins.flatMap((pin) => {
      const [place, found] = findPin(scan, pin);
      return found ? [{ pin, place, found }] : [];
    });
    const drivers = own.filter(({ found }) => found.output !== null).map(({ pin }) => pin);
    const receivers = own.filter(({ found }) => found.input !== null).map(({ pin }) => pin);
    if (own.length < 2)
      untested.push({ net: name, why: `${own.length === 0 ? 'none' : 'only one'} of its pins has a boundary cell` });
    else if (drivers.length === 0) untested.push({ net: name, why: 'no pin can drive it' });
    else if (receivers.length === 0) untested.push({ net: name, why: 'no pin can read it' });
    else tests.push({ name, drivers, receivers, number: tests.length });
  }
  return { tests, untested };
}

function findPin(scan: BoundaryScan, name: string): [number, BoundaryMap['pins'][number] | undefined] {
  const dot = name.indexOf('.');
  const place = Number(name.slice(0, dot));
  const device = scan.devices[place];
  return [
    place,
    device && 'pins' in device
      ? device.pins.find(({ pin, port }) => pin === name.slice(dot + 1) || port === name.slice(dot + 1))
      : undefined,
  ];
}

function set(scan: BoundaryScan, name: string, level: 0 | 1 | null): void {
  const [place, pin] = findPin(scan, name);
  if (pin) scan.set(place, pin.pin, level);
}

/**
 * What the sequences say. Receivers that saw the right one are good; the others are explained by the simplest fault.
 */
function judge(
  tests: readonly TestNet[],
  expected: readonly string[],
  seen: ReadonlyMap<string, string>,
  driver: (net: TestNet) => string,
): InterconnectFault[] {
  const wrong = tests.flatMap((net) => {
    const pins = net.receivers.filter((pin) => seen.get(pin) !== expected[net.number]);
    return pins.length === 0 ? [] : [{ net, pins, all: pins.length === net.receivers.length }];
  });
  const faults: InterconnectFault[] = [];
  const explained = new Set<string>();
  for (const { net, pins, all } of wrong) {
    const [first = ''] = pins;
    const sequence = seen.get(first) ?? '';
    if (!all || !pins.every((pin) => seen.get(pin) === sequence) || isConstant(sequence)) continue;
    const together = wrong
      .filter((other) => other.all && other.pins.every((pin) => seen.get(pin) === sequence))
      .map((other) => other.net);
    const others = tests.filter((other) => !together.includes(other) && expected[other.number] === sequence);
    const group = [...together, ...others].sort((a, b) => a.number - b.number);
    if (group.length < 2 || explained.has(net.name)) continue;
    const as = wiring(
      group.map((one) => item(expected, one.number)),
      sequence,
    );
    if (!as) continue;
    for (const one of together) explained.add(one.name);
    faults.push({
      kind: 'short',
      nets: group.map((one) => one.name),
      as,
      pins: together.flatMap((one) => one.receivers),
    });
  }
  for (const { net, pins } of wrong) {
    if (explained.has(net.name)) continue;
    const constant = pins.every((pin) => isConstant(seen.get(pin) ?? '') && seen.get(pin) === seen.get(item(pins, 0)));
    const own = driver(net);
    const drivesRight = net.receivers.includes(own) && !pins.includes(own);
    if (constant && !drivesRight && pins.length === net.receivers.length)
      faults.push({ kind: 'stuck', net: net.name, level: seen.get(item(pins, 0))?.[0] === '1' ? 1 : 0, pins });
    else if (constant)
      faults.push({
        kind: 'open',
        net: net.name,
        pins: pins.length === net.receivers.length - 1 && net.receivers.length > 2 ? [own] : pins,
      });
    else
      faults.push({
        kind: 'other',
        net: net.name,
        expected: item(expected, net.number),
        actual: seen.get(item(pins, 0)) ?? '',
        pins,
      });
  }
  return faults;
}

const isConstant = (sequence: string): boolean => /^(0+|1+)$/.test(sequence);

function wiring(sequences: readonly string[], seen: string): 'wired-and' | 'wired-or' | 'one-wins' | null {
  const bits = [...seen].map((_, i) => sequences.map((sequence) => sequence[i] === '1'));
  if (bits.every((levels, i) => levels.every(Boolean) === (seen[i] === '1'))) return 'wired-and';
  if (bits.every((levels, i) => levels.some(Boolean) === (seen[i] === '1'))) return 'wired-or';
  return sequences.includes(seen) ? 'one-wins' : null;
}

/** An open pin shows in every round: at itself, and at all others when it drives. One sentence is enough. */
function merged(faults: readonly InterconnectFault[]): InterconnectFault[] {
  const opens = new Map<string, string[]>();
  const rest: InterconnectFault[] = [];
  for (const fault of faults) {
    if (fault.kind !== 'open') {
      if (
        !rest.some(
          (known) =>
            known.kind === fault.kind &&
            JSON.stringify({ ...known, pins: [] }) === JSON.stringify({ ...fault, pins: [] }),
        )
      )
        rest.push(fault);
      continue;
    }
    const before = opens.get(fault.net);
    const common = before?.filter((pin) => fault.pins.includes(pin)) ?? [];
    opens.set(
      fault.net,
      before ? (common.length > 0 ? common : [...new Set([...before, ...fault.pins])]) : [...fault.pins],
    );
  }
  return [...rest, ...[...opens].map(([net, pins]): InterconnectFault => ({ kind: 'open', net, pins }))];
}
