import PQueue from 'p-queue';

/** How soon after a change pages are told; many changes meanwhile are told once. */
const TELL_MILLISECONDS = 40;

/** What is sent: one slice of what pages show, whole. */
export interface Told {
  readonly slice: string;
  readonly value: unknown;
}

type Listener = (told: Told) => void;
type Name<Slices> = keyof Slices & string;
type Makers<Slices> = { readonly [S in Name<Slices>]: () => Promise<Slices[S]> };

/**
 * Named slices of what pages show. Each is made anew when something is said to have changed it, and told only where it
 * really is another; who comes later is told all of them first.
 */
export class Publisher<Slices extends object> {
  readonly #make: Makers<Slices>;
  readonly #names: readonly Name<Slices>[];
  readonly #listeners = new Set<Listener>();
  readonly #last = new Map<string, string>();
  readonly #changed = new Set<Name<Slices>>();
  #timer: ReturnType<typeof setTimeout> | null = null;
  readonly #making = new PQueue({ concurrency: 1 });

  constructor(make: Makers<Slices>) {
    this.#make = make;
    this.#names = Object.keys(make) as Name<Slices>[];
  }

  /** These slices may be otherwise now; all of them where none is named. */
  changed(...slices: Name<Slices>[]): void {
    for (const slice of slices.length > 0 ? slices : this.#names) this.#changed.add(slice);
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      void this.#making.add(() => this.#tell());
    }, TELL_MILLISECONDS);
  }

  /** Hears every slice once now, and each again when it changes. */
  listen(listener: Listener): () => void {
    this.#listeners.add(listener);
    // While nobody listened nothing was followed.
    if (this.#listeners.size === 1) this.#last.clear();
    const known = [...this.#last].map(([slice, text]) => ({ slice, value: JSON.parse(text) as unknown }));
    for (const told of known) listener(told);
    if (this.#names.some((slice) => !this.#last.has(slice))) this.changed();
    return () => this.#listeners.delete(listener);
  }

  /** Everything as it is now, for who asks once. */
  async all(): Promise<Slices> {
    const made = await Promise.all(this.#names.map(async (slice) => [slice, await this.#make[slice]()] as const));
    return Object.fromEntries(made) as unknown as Slices;
  }

  /** Slices that nobody listens to are not made; one that cannot be made now stays as it was and is tried again. */
  async #tell(): Promise<void> {
    if (this.#listeners.size === 0) return;
    const slices = [...this.#changed];
    this.#changed.clear();
    for (const slice of slices) {
      try {
        const value = await this.#make[slice]();
        const text = JSON.stringify(value);
        if (text === this.#last.get(slice)) continue;
        this.#last.set(slice, text);
        for (const listener of this.#listeners) listener({ slice, value });
      } catch (error) {
        console.error(error);
        this.changed(slice);
      }
    }
  }
}
