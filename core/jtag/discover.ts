import { type Bits, bigIntOf, bitAt, bitsFromBigInt, concatBits, constantBits, sliceBits } from '../bits/index.ts';
import { type Problem, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { describeIdcode, idcodeFields } from './idcode.ts';
import type { KnownDevice, PlaceAnswer } from './known.ts';
import type { ScanQueue } from './queue.ts';
import { splitIr } from './split.ts';

/** One device that answered. `index` 0 is nearest TDO, so its bits come out first. */
export interface FoundDevice {
  readonly index: number;
  readonly idcode: number | null;
  readonly irLength: number | null;
  /** What it is; where several parts share the IDCODE and nobody has said which, the first of them. */
  readonly part: string | null;
  readonly candidates: readonly string[];
  /**
   * What its instruction register held after Capture-IR, most significant bit first; null while its length is not
   * known.
   */
  readonly irCapture: string | null;
}

interface Discovery {
  readonly devices: readonly FoundDevice[];
  readonly irTotal: number;
  readonly problems: readonly Problem[];
}

const MOST_DEVICES = 100;
const LONGEST_IR = 32;
const ALL_ONES = 0xffffffff;
/** The manufacturer code that belongs to nobody, so that a stuck path is not taken for a device. */
const NOBODY = 0x7f;

/** Whether an IDCODE can be one. */
export const isLegal = (idcode: number): boolean => idcodeFields(idcode).manufacturer % 128 !== NOBODY;

/**
 * Finds out what is on the chain, believing nobody: after Test-Logic-Reset every device has IDCODE or BYPASS selected,
 * so the data path tells how many there are and who; all-ones then selects BYPASS everywhere and the length of the data
 * path must equal that number; a single 0 pushed through a path of ones measures the instruction path.
 *
 * @source IEEE 1149.1: IDCODE begins with 1, BYPASS captures 0, Capture-IR loads ...01
 */
export async function discoverChain(
  queue: ScanQueue,
  known: readonly KnownDevice[],
  answers: readonly PlaceAnswer[] = [],
): Promise<Discovery> {
  queue.reset();
  const idcodes = await readIdcodes(queue);
  if (idcodes.kind === 'stuck') return { devices: [], irTotal: 0, problems: [idcodes.problem] };
  const places = idcodes.found.map((idcode, index) => placeOf(index, idcode, known, answers));
  const named = (irLength: (index: number) => number | null, capture: Bits | null): FoundDevice[] => {
    let at = 0;
    return places.map(({ index, idcode, candidates, part }) => {
      const own = irLength(index);
      const known = capture && own !== null && at >= 0 && at + own <= capture.length;
      const bits = known ? sliceBits(capture, at, own) : null;
      at = own === null ? -1 : at + own;
      return {
        index,
        idcode,
        irLength: own,
        part,
        candidates,
        irCapture: bits
          ? [...Array(bits.length).keys()]
              .reverse()
              .map((i) => bitAt(bits, i))
              .join('')
          : null,
      };
    });
  };
  const problems: Problem[] = places.flatMap(({ index, idcode }) =>
    idcode !== null && !isLegal(idcode) ? [illegalIdcode(index, idcode)] : [],
  );
  const capture = await measureIr(queue);
  if (capture === null)
    return {
      devices: named((index) => places[index]?.hint.length ?? null, null),
      irTotal: 0,
      problems: [chainOpen(idcodes.found.length), ...problems],
    };
  const bypassCount = await countBypass(queue, idcodes.found.length);
  if (bypassCount !== idcodes.found.length) problems.push(countDiffers(idcodes.found.length, bypassCount));
  const split = splitIr(
    capture,
    places.map((place) => place.hint),
  );
  switch (split.kind) {
    case 'split':
      if (places.some((place) => place.byHand) && !(await lengthsHold(queue, places, split.lengths)))
        problems.push(handWrong(places));
      return { devices: named((index) => split.lengths[index] ?? null, capture), irTotal: capture.length, problems };
    case 'ambiguous':
      problems.push(irAmbiguous(capture.length, split.lengths));
      return { devices: named((index) => split.lengths[index] ?? null, capture), irTotal: capture.length, problems };
    case 'impossible':
      problems.push(irDiffers(capture, places));
      return { devices: named((index) => places[index]?.hint.length ?? null, null), irTotal: capture.length, problems };
  }
}

interface Place {
  readonly index: number;
  readonly idcode: number | null;
  readonly candidates: readonly string[];
  readonly part: string | null;
  readonly hint: { readonly length: number | null; readonly capture: number | null };
  /** Its instruction length was given by a person. */
  readonly byHand: boolean;
  readonly idcodeOpcode: number | null;
}

function placeOf(
  index: number,
  idcode: number | null,
  known: readonly KnownDevice[],
  answers: readonly PlaceAnswer[],
): Place {
  const matches = idcode === null ? [] : known.filter((device) => ((device.idcode ^ idcode) & 0x0fffffff) === 0);
  const said = answers.find((answer) => answer.index === index && answer.idcode === idcode);
  const [match] =
    said?.part === undefined
      ? matches
      : [
          ...matches.filter((device) => device.name === said.part),
          ...known.filter((device) => device.name === said.part),
          ...matches,
        ];
  const names = matches.map((device) => device.name);
  return {
    index,
    idcode,
    candidates: said?.part === undefined || !names.includes(said.part) ? names : [said.part],
    part: match?.name ?? null,
    hint: { length: match?.irLength ?? said?.irLength ?? null, capture: match?.irCapture ?? null },
    byHand: match === undefined && said?.irLength !== undefined,
    idcodeOpcode: match?.idcodeOpcode ?? null,
  };
}

type Idcodes =
  | { readonly kind: 'found'; readonly found: readonly (number | null)[] }
  | { readonly kind: 'stuck'; readonly problem: Problem };

/** Reads in growing steps: a short chain should not pay for a hundred devices. */
export async function readIdcodes(queue: ScanQueue): Promise<Idcodes> {
  for (let devices = 4; ; devices = Math.min(MOST_DEVICES, devices * 5)) {
    queue.goto('Test-Logic-Reset');
    const tdo = await queue.exchangeDr(constantBits(32 * (devices + 1), 1));
    const found = splitIdcodes(tdo);
    if (found !== null) return found.length > 0 ? { kind: 'found', found } : { kind: 'stuck', problem: tdoHigh() };
    if (devices === MOST_DEVICES) return { kind: 'stuck', problem: onlyZeros(tdo) ? tdoLow() : tooMany() };
  }
}

function onlyZeros(bits: Bits): boolean {
  return bits.bytes.every((byte) => byte === 0);
}

/** Null when the ones that were shifted in never came out again: the chain is longer than the scan, or broken. */
function splitIdcodes(tdo: Bits): (number | null)[] | null {
  const found: (number | null)[] = [];
  for (let at = 0; at + 32 <= tdo.length; ) {
    if (bitAt(tdo, at) === 0) {
      found.push(null);
      at += 1;
      if (found.length > MOST_DEVICES) return null;
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
export async function measureIr(queue: ScanQueue): Promise<Bits | null> {
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
export async function countBypass(queue: ScanQueue, expected: number): Promise<number> {
  const room = expected + 8;
  const tdo = await queue.exchangeDr(concatBits(constantBits(room, 0), constantBits(1, 1), constantBits(room, 0)));
  for (let at = room; at < tdo.length; at++) if (bitAt(tdo, at) === 1) return at - room;
  return -1;
}

/**
 * A test of lengths nobody can vouch for: with IDCODE selected in the devices that are known and BYPASS in all others,
 * every bit must stand where the lengths say. A wrong one gives a known device another instruction.
 */
async function lengthsHold(queue: ScanQueue, places: readonly Place[], lengths: readonly number[]): Promise<boolean> {
  const asked = places.map(({ idcode, idcodeOpcode }) =>
    idcode !== null && idcodeOpcode !== null ? idcodeOpcode : null,
  );
  queue.ir(
    concatBits(
      ...places.map((_, i) =>
        asked[i] === null ? constantBits(lengths[i] ?? 0, 1) : bitsFromBigInt(BigInt(asked[i] ?? 0), lengths[i] ?? 0),
      ),
    ),
  );
  const expected = concatBits(
    ...places.map(({ idcode }, i) =>
      asked[i] === null ? constantBits(1, 0) : bitsFromBigInt(BigInt(idcode ?? 0), 32),
    ),
  );
  const answer = await queue.exchangeDr(constantBits(expected.length, 1));
  queue.reset();
  await queue.flush();
  return answer.bytes.every((byte, i) => byte === expected.bytes[i]);
}

const handWrong = (places: readonly Place[]): Problem =>
  problem('ir-length', {
    places: places
      .filter((place) => place.byHand)
      .map(({ index, hint }) => `${hint.length} at place ${index}`)
      .join(', '),
  });

const tdoHigh = (): Problem => problem('tdo-high');

const tdoLow = (): Problem => problem('tdo-low');

const tooMany = (): Problem => problem('too-many', { mostDevices: MOST_DEVICES });

const illegalIdcode = (index: number, idcode: number): Problem =>
  problem('idcode-illegal', { index, idcode: describeIdcode(idcode) });

const chainOpen = (answered: number): Problem =>
  problem('chain-open', { answered, answeredText: answered === 1 ? 'device' : 'devices', next: answered - 1 });

const countDiffers = (idcodes: number, bypass: number): Problem =>
  plainProblem(
    'count-differs',
    bypass < 0
      ? `The data path shows ${idcodes} devices after reset, but a mark sent through BYPASS never comes out.`
      : `The data path shows ${idcodes} devices after reset but ${bypass} in BYPASS.`,
    'Lower the TCK frequency and scan again.',
    'Check TMS at every device.',
  );

const irAmbiguous = (total: number, lengths: readonly (number | null)[]): Problem => {
  const open = lengths.flatMap((length, index) => (length === null ? [index] : []));
  return problem('ir-ambiguous', { total, open: open.join(', ') });
};

function irDiffers(path: Bits, places: readonly Place[]): Problem {
  const told = places.map(
    ({ part, idcode, hint }) =>
      `${part ?? (idcode === null ? 'no IDCODE' : describeIdcode(idcode))} (${hint.length ?? '?'})`,
  );
  const sum = places.reduce((total, { hint }) => total + (hint.length ?? 0), 0);
  const open = places.filter(({ hint }) => hint.length === null).length;
  const why =
    open === 0 && sum !== path.length
      ? `They add up to ${sum}.`
      : 'The 01 of Capture-IR does not stand where they say.';
  return problem('ir-length (irDiffers)', { pathCount: path.length, told: told.join(', '), why });
}
