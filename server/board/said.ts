import type { InterconnectResult } from '../../core/boundary/index.ts';
import type { BypassTest, Rung } from '../../core/jtag/index.ts';
import type { Scan } from '../../core/board/index.ts';
import type { Sweep } from '../../core/operations/index.ts';
import type { Comparison, FlashLook, LoadReport, PinSession, RehearsalReport, Running } from './statements.ts';

/** What came of something, and when. */
type Timed<T> = T & { readonly time: string };

/** A statement about a design as well as a board: it counts for the project it was made for alone. */
type OfProject<T> = T & { readonly project: number | null };

/**
 * What was found out about one board since the server began. `null` is what was not asked, or what may have changed
 * since. Nothing here outlives the board it was said of: another pod, or another chain behind the same pod, has a page
 * of its own.
 */
export class BoardSaid {
  scan: Timed<Scan> | null = null;
  running: Running | null = null;
  ladder: Timed<{ readonly rungs: readonly Rung[] }> | null = null;
  sweep: Timed<Sweep> | null = null;
  integrity: Timed<BypassTest & { readonly hz: number }> | null = null;
  interconnect: Timed<InterconnectResult> | null = null;
  loadReport: OfProject<LoadReport> | null = null;
  flash: OfProject<FlashLook> | null = null;
  flashRead: Timed<{ readonly start: number; readonly bytes: Uint8Array }> | null = null;
  comparison: OfProject<Comparison> | null = null;
  rehearsal: RehearsalReport | null = null;
  pins: PinSession | null = null;
  stageLog: Timed<{ readonly name: string; readonly log: readonly string[] }> | null = null;
  /** The devices that answered last, by IDCODE; null before the first good scan. */
  chain: string | null = null;
}

/** One page of statements for each board: for each chain that answered behind a pod. */
export class Boards {
  readonly #pages = new Map<string, BoardSaid>();
  /** The page of the chain that answered last, by pod. */
  readonly #current = new Map<string, BoardSaid>();

  of(board: string): BoardSaid {
    const known = this.#current.get(board) ?? new BoardSaid();
    this.#current.set(board, known);
    return known;
  }

  /**
   * Writes down a scan. Where other devices answer than before, the board was exchanged behind its pod, and the page is
   * turned to that other one.
   */
  scanned(board: string, scan: Timed<Scan>): BoardSaid {
    const chain = scan.problems.length === 0 && scan.devices.length > 0 ? chainOf(scan) : null;
    let page = this.of(board);
    if (chain !== null && page.chain !== null && page.chain !== chain) {
      // What was found out of the cable is of the pod, whatever hangs on it.
      const { ladder, sweep, integrity } = page;
      page = Object.assign(this.#pages.get(`${board} ${chain}`) ?? new BoardSaid(), { ladder, sweep, integrity });
    }
    page.scan = scan;
    page.chain = chain ?? page.chain;
    if (page.chain !== null) this.#pages.set(`${board} ${page.chain}`, page);
    this.#current.set(board, page);
    return page;
  }

  /** The board cannot be reached, or has no power: what it was doing then is not known any more. */
  lost(board: string): void {
    const page = this.of(board);
    page.scan = page.running = page.pins = page.flash = null;
  }
}

const chainOf = ({ devices }: Pick<Scan, 'devices'>): string =>
  devices.map(({ idcode }) => idcode?.toString(16) ?? '-').join(' ');
