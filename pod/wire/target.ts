import type { Cable, CableOp, CableState } from '../../core/jtag/index.ts';
import type { PodTarget } from '../../core/pod/index.ts';
import { type Problem, ProblemError } from '../../core/result.ts';
import { WireLine } from './line.ts';
import { WireLink } from './link.ts';
import { ANSWER_FRAME_BYTES, type Ready, WORK_FRAME_BYTES } from './messages.ts';
import type { BytePort, Whereabouts } from './port.ts';
import { capturedIn, type Command, measureCommand, pinCommand, rateCommand, waitCommand, workOf } from './work.ts';

const AGAIN_MILLISECONDS = 1000;
const USUAL_HZ = 1_000_000;
/** How long a reference voltage that was measured counts. */
const FRESH_MILLISECONDS = 200;
const PULSE_MICROSECONDS = 10_000;
const NOT_MEASURED = 0xffff;

interface WireOptions extends Whereabouts {
  readonly open: () => Promise<BytePort>;
  /** TCK that was remembered; null for the usual one. */
  readonly tckHz?: number | null;
}

interface WirePod extends PodTarget {
  readonly ready: Ready;
  /** The session as it is now, for measuring; null while there is none. */
  readonly link: () => WireLink | null;
  stop(): void;
}

/**
 * A microcontroller on a serial line as a pod's target. Rejects with `ProblemError` where it is not there now; lost
 * later, it is looked for until it is back, and whoever uses it meanwhile hears why it is gone.
 */
export async function wireTarget(options: WireOptions): Promise<WirePod> {
  const keeper = new Keeper(options);
  const { ready } = await keeper.connect();
  const { can } = ready;
  const set = async (...commands: Command[]) => {
    const link = await keeper.live();
    await link.send(commands.map(bodyOf));
  };
  const pulse = (pin: 'reconfigure' | 'srst') => () =>
    set(pinCommand(pin, 'low'), waitCommand(PULSE_MICROSECONDS), pinCommand(pin, 'letGo'));
  return {
    name: ready.name,
    ready,
    cable: new WireCable(keeper),
    controls: {
      ...(can.power ? { power: (on: boolean) => set(pinCommand('power', on ? 'high' : 'low')) } : {}),
      ...(can.reconfigure ? { reconfigure: pulse('reconfigure') } : {}),
      ...(can.srst ? { reset: pulse('srst') } : {}),
    },
    ...(can.line ? { line: keeper.line } : {}),
    link: () => keeper.link,
    stop: () => keeper.stop(),
  };
}

const bodyOf = ({ bytes, answer }: Command) => ({ bytes, answer });

/** Keeps a session alive: a lost one is made anew as soon as the other end is back. */
class Keeper {
  readonly #options: WireOptions;
  readonly line: WireLine;
  tckHz: number;
  link: WireLink | null = null;
  #why: Problem | null = null;
  #timer: ReturnType<typeof setTimeout> | null = null;
  #isStopped = false;

  constructor(options: WireOptions) {
    this.#options = options;
    this.tckHz = options.tckHz ?? USUAL_HZ;
    this.line = new WireLine(() => this.live());
  }

  /** Why there is no session now; null while there is one. */
  get trouble(): Problem | null {
    return this.link ? null : this.#why;
  }

  async connect(): Promise<WireLink> {
    const link = await WireLink.open(await this.#options.open(), this.#options);
    link.onLost((why) => {
      this.link = null;
      this.#why = why;
      this.#later();
    });
    // What the other end was told before is forgotten there.
    this.tckHz = numberIn(await link.send([bodyOf(rateCommand(this.tckHz))]));
    if (link.ready.can.line) await this.line.begin(link);
    this.link = link;
    return link;
  }

  async live(): Promise<WireLink> {
    if (this.link) return this.link;
    if (this.#why) throw new ProblemError(this.#why);
    return this.connect();
  }

  #later(): void {
    if (this.#isStopped) return;
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = setTimeout(() => {
      this.connect().catch((error: unknown) => {
        // It stays lost for the reason it was lost for, unless something else turns out to stand there now.
        if (error instanceof ProblemError && OTHER_ENDS.has(error.problem.code)) this.#why = error.problem;
        this.#later();
      });
    }, AGAIN_MILLISECONDS);
  }

  stop(): void {
    this.#isStopped = true;
    if (this.#timer) clearTimeout(this.#timer);
    this.link?.close();
  }
}

const OTHER_ENDS = new Set(['wire-not-ours', 'wire-version']);

const numberIn = ([answer]: readonly Uint8Array[]): number =>
  answer ? new DataView(answer.buffer, answer.byteOffset).getUint32(0, true) : 0;

class WireCable implements Cable {
  readonly #keeper: Keeper;
  #measured: { readonly at: number; readonly volts: number | null } = { at: Number.NEGATIVE_INFINITY, volts: null };
  readonly #bounds: { leastHz: number; mostHz: number };

  constructor(keeper: Keeper) {
    this.#keeper = keeper;
    this.#bounds = keeper.link?.ready ?? { leastHz: 1, mostHz: 1 };
  }

  get tckHz(): number {
    return this.#keeper.tckHz;
  }

  async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    const link = await this.#keeper.live();
    const { frameBytes } = link.ready;
    const room = { body: frameBytes - WORK_FRAME_BYTES, answer: frameBytes - ANSWER_FRAME_BYTES - SPARE_BYTES };
    const { bodies, captures } = workOf(ops, room);
    return capturedIn(await link.send(bodies), captures);
  }

  async state(): Promise<CableState> {
    const { trouble, tckHz } = this.#keeper;
    const { leastHz, mostHz } = this.#bounds;
    const common = { tckHz, leastHz, mostHz };
    if (trouble) return { ...common, attached: false, referenceVolts: null, trouble };
    const now = performance.now();
    if (now - this.#measured.at > FRESH_MILLISECONDS) {
      const link = await this.#keeper.live();
      const [answer] = link.ready.can.measure ? await link.send([bodyOf(measureCommand)], true) : [];
      const millivolts = answer ? new DataView(answer.buffer, answer.byteOffset).getUint16(0, true) : NOT_MEASURED;
      this.#measured = { at: now, volts: millivolts === NOT_MEASURED ? null : millivolts / 1000 };
    }
    return { ...common, attached: true, referenceVolts: this.#measured.volts, trouble: null };
  }

  async setFrequency(hz: number): Promise<number> {
    const link = await this.#keeper.live();
    this.#keeper.tckHz = numberIn(await link.send([bodyOf(rateCommand(hz))]));
    return this.#keeper.tckHz;
  }
}

/** The firmware keeps its answers a little shorter than a frame. */
const SPARE_BYTES = 8;
