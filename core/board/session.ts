import { type DebugAccess, type Family, type Part, partNamed } from '../families/index.ts';
import { bitAt, type Bits, concatBits, constantBits, bitsFromBigInt } from '../bits/index.ts';
import { type Cable, ChainLink, type ChainMemory, type FoundDevice, ScanQueue } from '../jtag/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { Board, BoardHands } from './board.ts';
import { type Scan, scanChain } from './scan.ts';

/**
 * The chain of one board over the time that its cable is used: scanned once, and before each use looked at again by
 * one data scan of the length that all IDCODEs together have. Where that reads otherwise, the chain is scanned anew.
 */
export class ChainSession {
  readonly cable: Cable;
  readonly hands: BoardHands;
  #families: readonly Family[];
  #memory: ChainMemory;
  #scan: Scan | null = null;
  #listener: (scan: Scan) => void = () => {};

  private constructor({ cable, hands, memory, families }: Board) {
    this.cable = cable;
    this.#families = families;
    this.hands = hands;
    this.#memory = memory;
  }

  /** Families whose parts are known: those of the board, and what a project has said since. */
  get families(): readonly Family[] {
    return this.#families;
  }

  /** From now on parts of these families are known too; what was found without them counts no more. */
  know(families: readonly Family[]): void {
    if (areSame(this.#families, families)) return;
    this.#families = families;
    this.#scan = null;
  }

  /** Scans when the chain is first used. */
  static on(board: Board): ChainSession {
    return new ChainSession(board);
  }

  /** Scans at once. A chain that does not answer is no error yet; `scan` says what is wrong with it. */
  static async open(board: Board): Promise<ChainSession> {
    const session = ChainSession.on(board);
    await session.rescan();
    return session;
  }

  /** The last scan; null before the first. */
  get scan(): Scan | null {
    return this.#scan;
  }

  /** A part that designs are built for, by its name. */
  part(name: string): Result<Part> {
    const part = partNamed(name, this.#families);
    return part ? ok(part) : fail(problem('unknown-part', { name }));
  }

  /** How the hub of the debug cores in a part is reached, by the part's name. */
  debug(name: string): Result<DebugAccess> {
    for (const family of this.#families) {
      const access = family.debug(name);
      if (access) return ok(access);
    }
    const isKnown = this.#families.some(({ devices }) => devices.some((device) => device.name === name));
    return fail(problem(isKnown ? 'no-user-register' : 'unknown-part', { name }));
  }

  get memory(): ChainMemory {
    return this.#memory;
  }

  /** Hears of every whole scan, whoever wanted it. */
  onScan(listener: (scan: Scan) => void): void {
    this.#listener = listener;
  }

  /** Something else is said of the chain from now on: what was found by the old word counts no more. */
  remember(memory: ChainMemory): void {
    if (JSON.stringify(memory) === JSON.stringify(this.#memory)) return;
    this.#memory = memory;
    this.#scan = null;
  }

  async rescan(): Promise<Scan> {
    this.#scan = null;
    const scan = await scanChain({ cable: this.cable, memory: this.#memory, families: this.#families });
    this.#scan = scan;
    this.#listener(scan);
    return scan;
  }

  /** What the chain holds now: the last scan where the same devices answer, else a new one. */
  async current(): Promise<Scan> {
    const known = this.#scan;
    if (!known || known.problems.length > 0 || known.devices.length === 0) return this.rescan();
    const queue = new ScanQueue(this.cable);
    const look = lookAgain(queue, known.devices);
    await queue.flush();
    return (await look) ? known : this.rescan();
  }

  /**
   * A link to one device of the chain as it is now. `wanted` is a place in the chain, or null for the only device of
   * that part. Nothing is shifted into a chain that does not hold the part there.
   */
  async link(part: string, wanted: number | null): Promise<Result<ChainLink>> {
    return this.#linkIn(await this.current(), part, wanted);
  }

  /**
   * The same for reading alone, without a scan of its own: the look at the chain goes out with what is read first, and
   * `same` tells afterwards whether it was still that chain. Null where the chain has to be scanned first.
   */
  linkToRead(
    part: string,
    wanted: number | null,
  ): { readonly link: ChainLink; readonly same: Promise<boolean> } | null {
    const known = this.#scan;
    if (!known || known.problems.length > 0) return null;
    const link = this.#linkIn(known, part, wanted);
    if (!link.ok) return null;
    const same = lookAgain(link.value.queue, known.devices).then((is) => {
      if (!is) this.#scan = null;
      return is;
    });
    return { link: link.value, same };
  }

  #linkIn(scan: Scan, part: string, wanted: number | null): Result<ChainLink> {
    const [trouble] = scan.problems;
    if (trouble) return fail(trouble);
    const matches = scan.devices.filter((device) => device.candidates.includes(part));
    const device = wanted === null ? matches[0] : scan.devices[wanted];
    const seen = scan.devices.map((d) => `${d.index} ${d.part ?? 'unknown'}`).join(', ');
    if (!device) {
      return wanted === null
        ? fail(problem('part-not-in-chain', { part, seen }))
        : fail(problem('no-device', { wanted, seen }));
    }
    if (!device.candidates.includes(part))
      return fail(
        problem('wrong-part', {
          part,
          index: device.index,
          found: device.part ?? 'unknown',
          fitting: matches.map((m) => m.index).join(', ') || 'no device of this chain fits',
        }),
      );
    if (wanted === null && matches.length > 1)
      return fail(
        problem('several-devices', {
          count: matches.length,
          part,
          places: matches.map((m) => m.index).join(', '),
        }),
      );
    const lengths = scan.devices.map((d) => d.irLength);
    if (lengths.some((length) => length === null)) return fail(problem('ir-unknown'));
    const queue = new ScanQueue(this.cable);
    queue.reset();
    return ok(new ChainLink(queue, lengths as number[], device.index));
  }
}

const areSame = (a: readonly Family[], b: readonly Family[]): boolean =>
  a.length === b.length && a.every((family, i) => family === b[i]);

const IDCODE_BITS = 32;

/**
 * Queues a look at the chain: after Test-Logic-Reset every device with an IDCODE has it selected, every other BYPASS,
 * which captures a 0; ones that are sent in follow behind the last. Resolves to whether all of that reads as it did.
 *
 * @source IEEE 1149.1, clauses on the instruction register and the device identification register
 */
function lookAgain(queue: ScanQueue, devices: readonly FoundDevice[]): Promise<boolean> {
  const expected = concatBits(
    ...devices.map(({ idcode }) =>
      idcode === null ? constantBits(1, 0) : bitsFromBigInt(BigInt(idcode), IDCODE_BITS),
    ),
    constantBits(IDCODE_BITS, 1),
  );
  queue.reset();
  return queue.drCapture(constantBits(expected.length, 1)).then((read) => sameBits(read, expected));
}

function sameBits(a: Bits, b: Bits): boolean {
  for (let i = 0; i < b.length; i++) if (bitAt(a, i) !== bitAt(b, i)) return false;
  return true;
}
