import { type Bits, bigIntOf, bitAt, concatBits, constantBits, sliceBits } from '../bits/index.ts';
import { type Problem, problem } from '../result.ts';
import { describeIdcode } from './idcode.ts';
import type { ScanQueue } from './queue.ts';

/** A part the caller can recognise. The version nibble of `idcode` is ignored, as 1149.1 leaves it to revisions. */
export interface KnownDevice {
  readonly name: string;
  readonly idcode: number;
  readonly irLength: number;
}

/** One device that answered. `index` 0 is nearest TDO, so its bits come out first. */
export interface FoundDevice {
  readonly index: number;
  readonly idcode: number | null;
  readonly irLength: number | null;
  readonly part: string | null;
  readonly candidates: readonly string[];
}

export interface Discovery {
  readonly devices: readonly FoundDevice[];
  readonly irTotal: number;
  readonly problems: readonly Problem[];
}

const MOST_DEVICES = 100;
const LONGEST_IR = 32;
const ALL_ONES = 0xffffffff;

/**
 * Finds out what is on the chain, believing nobody: after Test-Logic-Reset every device has IDCODE or BYPASS selected, so
 * the data path tells how many there are and who; all-ones then selects BYPASS everywhere and the length of the data
 * path must equal that number; a single 0 pushed through a path of ones measures the instruction path.
 *
 * @source IEEE 1149.1: IDCODE begins with 1, BYPASS captures 0, Capture-IR loads ...01
 */
export async function discoverChain(queue: ScanQueue, known: readonly KnownDevice[]): Promise<Discovery> {
  queue.reset();
  const idcodes = await readIdcodes(queue);
  if (idcodes.kind === 'stuck') return { devices: [], irTotal: 0, problems: [idcodes.problem] };
  const capture = await measureIr(queue);
  if (capture === null) return { devices: [], irTotal: 0, problems: [irTooLong()] };
  const problems: Problem[] = [];
  const bypassCount = await countBypass(queue, idcodes.found.length);
  if (bypassCount !== idcodes.found.length) problems.push(countDiffers(idcodes.found.length, bypassCount));
  const matches = idcodes.found.map((idcode) => candidatesFor(idcode, known));
  const lengths = splitIr(
    capture,
    matches.map((m) => m[0]?.irLength ?? null),
  );
  if (lengths === null) problems.push(irDiffers(capture.length, matches));
  const devices = idcodes.found.map((idcode, index) => {
    const names = (matches[index] ?? []).map((m) => m.name);
    return { index, idcode, irLength: lengths?.[index] ?? null, part: names[0] ?? null, candidates: names };
  });
  return { devices, irTotal: capture.length, problems };
}

type Idcodes = { readonly kind: 'found'; readonly found: readonly (number | null)[] } | { readonly kind: 'stuck'; readonly problem: Problem };

/** Reads in growing steps: a short chain should not pay for a hundred devices. */
async function readIdcodes(queue: ScanQueue): Promise<Idcodes> {
  for (let devices = 4; ; devices = Math.min(MOST_DEVICES, devices * 5)) {
    queue.goto('Test-Logic-Reset');
    const tdo = await queue.exchangeDr(constantBits(32 * (devices + 1), 1));
    const found = splitIdcodes(tdo);
    if (found !== null) return found.length > 0 ? { kind: 'found', found } : { kind: 'stuck', problem: tdoHigh() };
    if (devices === MOST_DEVICES) return { kind: 'stuck', problem: tdoLow() };
  }
}

/** Null when the ones that were shifted in never came out again: the chain is longer than the scan, or broken. */
function splitIdcodes(tdo: Bits): (number | null)[] | null {
  const found: (number | null)[] = [];
  for (let at = 0; at + 32 <= tdo.length; ) {
    if (bitAt(tdo, at) === 0) {
      found.push(null);
      at += 1;
      continue;
    }
    const word = Number(bigIntOf(sliceBits(tdo, at, 32)));
    if (word === ALL_ONES) return found;
    found.push(word);
    at += 32;
  }
  return null;
}

/** The instruction path as Capture-IR left it; null when it does not end. Leaves BYPASS in every device. */
async function measureIr(queue: ScanQueue): Promise<Bits | null> {
  const most = MOST_DEVICES * LONGEST_IR;
  for (let guess = 64; ; guess = Math.min(most, guess * 8)) {
    // The captured bits come out first, then the ones that were shifted in: the path ends where only ones follow. A
    // captured pattern may itself end in ones, so a 0 sent behind `guess` ones marks the place beyond doubt.
    const mark = concatBits(constantBits(guess, 1), constantBits(1, 0), constantBits(guess, 1));
    const tdo = await queue.exchangeIr(mark);
    const zero = lastZero(tdo);
    if (zero >= guess && onlyOnes(tdo, zero - guess, guess)) return sliceBits(tdo, 0, zero - guess);
    if (guess === most) return null;
  }
}

function lastZero(bits: Bits): number {
  for (let at = bits.length - 1; at >= 0; at--) if (bitAt(bits, at) === 0) return at;
  return -1;
}

function onlyOnes(bits: Bits, start: number, count: number): boolean {
  for (let at = start; at < start + count; at++) if (bitAt(bits, at) === 0) return false;
  return true;
}

/** Length of the data path with BYPASS everywhere: one bit a device. */
async function countBypass(queue: ScanQueue, expected: number): Promise<number> {
  const room = expected + 8;
  const tdo = await queue.exchangeDr(concatBits(constantBits(room, 0), constantBits(1, 1), constantBits(room, 0)));
  for (let at = room; at < tdo.length; at++) if (bitAt(tdo, at) === 1) return at - room;
  return -1;
}

const candidatesFor = (idcode: number | null, known: readonly KnownDevice[]): readonly KnownDevice[] =>
  idcode === null ? [] : known.filter((k) => ((k.idcode ^ idcode) & 0x0fffffff) === 0);

/**
 * Divides the instruction path among the devices. Known lengths are taken as they are; one unknown device gets the rest.
 * Null when the sum is wrong or a boundary does not show the 01 of Capture-IR.
 */
function splitIr(capture: Bits, lengths: readonly (number | null)[]): (number | null)[] | null {
  const sum = lengths.reduce<number>((total, length) => total + (length ?? 0), 0);
  const unknown = lengths.filter((length) => length === null).length;
  if (unknown === 0 && sum !== capture.length) return null;
  if (unknown === 1 && capture.length - sum < 2) return null;
  const all = lengths.map((length) => (length === null && unknown === 1 ? capture.length - sum : length));
  let at = 0;
  for (const length of all) {
    if (length === null) return all;
    if (bitAt(capture, at) !== 1 || bitAt(capture, at + 1) !== 0) return null;
    at += length;
  }
  return all;
}

const tdoHigh = (): Problem =>
  problem(
    'tdo-high',
    'TDO stays at 1: no device answers on the chain.',
    'Check that the board has power and the reference voltage is present.',
    'Check that the cable is plugged in the right way round.',
    'Measure TDO at the connector: a pull-up holds it high when nothing drives it.',
  );

const tdoLow = (): Problem =>
  problem(
    'tdo-low',
    'TDO stays at 0: the ones that were shifted in never come out.',
    'Look for a short from TDO to ground.',
    'Check that no device on the chain is held in reset (TRST).',
  );

const irTooLong = (): Problem =>
  problem('ir-open', 'The instruction path has no end: a marker sent through it never came back.', 'Check TDI and TMS for a break.');

const countDiffers = (idcodes: number, bypass: number): Problem =>
  problem(
    'count-differs',
    `The data path shows ${idcodes} devices after reset but ${bypass} in BYPASS.`,
    'Lower the TCK frequency and scan again.',
    'Check TMS at every device.',
  );

const irDiffers = (total: number, matches: readonly (readonly KnownDevice[])[]): Problem =>
  problem(
    'ir-length',
    `The instruction path is ${total} bits long, which does not fit ${matches.map((m) => (m[0] ? `${m[0].name} (${m[0].irLength})` : 'an unknown device')).join(', ')}.`,
    'Scan again: a marginal TCK frequency shows like this.',
    `Compare the parts on the board with the IDCODEs ${matches.map((m) => (m[0] ? describeIdcode(m[0].idcode) : 'none')).join(', ')}.`,
  );
