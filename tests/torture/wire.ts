import { connect, createServer, type Server, type Socket } from 'node:net';
import type { Chance } from '../fuzz/index.ts';

/** What becomes of the bytes between the workbench and its pod. */
export type Weather =
  | { readonly kind: 'clear' }
  /** Each way. */
  | { readonly kind: 'far'; readonly milliseconds: number }
  /** One bit in so many pieces is the other. */
  | { readonly kind: 'noisy'; readonly oneIn: number; readonly way: 'out' | 'back' }
  /** Nothing arrives, and nobody is told. */
  | { readonly kind: 'stalled' };

const CLEAR: Weather = { kind: 'clear' };

/** A wire from the workbench to a pod that can be made worse, and cut. */
export class Wire {
  readonly #server: Server;
  readonly #chance: Chance;
  readonly #pairs = new Set<readonly [Socket, Socket]>();
  weather: Weather = CLEAR;

  private constructor(to: number, chance: Chance) {
    this.#chance = chance;
    this.#server = createServer((near) => {
      const far = connect(to, '127.0.0.1');
      const pair = [near, far] as const;
      this.#pairs.add(pair);
      const end = () => {
        near.destroy();
        far.destroy();
        this.#pairs.delete(pair);
      };
      for (const socket of pair) socket.on('error', end).on('close', end).setNoDelay(true);
      this.#carry(near, far, 'out');
      this.#carry(far, near, 'back');
    });
  }

  static async to(pod: number, port: number, chance: Chance): Promise<Wire> {
    const made = new Wire(pod, chance);
    await new Promise<void>((resolve) => made.#server.listen(port, '127.0.0.1', resolve));
    return made;
  }

  /** Every connection breaks now. */
  cut(): void {
    for (const [near, far] of this.#pairs) {
      near.destroy();
      far.destroy();
    }
  }

  clear(): void {
    // What was held back by a stall never comes: a connection that lost bytes is none.
    if (this.weather.kind === 'stalled') this.cut();
    this.weather = CLEAR;
  }

  close(): void {
    this.cut();
    this.#server.close();
  }

  #carry(from: Socket, to: Socket, way: 'out' | 'back'): void {
    from.on('data', (piece: Buffer) => {
      const { weather } = this;
      if (weather.kind === 'stalled') return;
      if (weather.kind === 'noisy' && weather.way === way && this.#chance.below(weather.oneIn) === 0) {
        const at = this.#chance.below(piece.length);
        piece[at] = (piece[at] ?? 0) ^ (1 << this.#chance.below(8));
      }
      if (weather.kind === 'far') setTimeout(() => to.writable && to.write(piece), weather.milliseconds);
      else to.write(piece);
    });
  }
}
