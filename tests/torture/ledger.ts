import type { Api } from './rig.ts';

/** One thing that was answered as done, and how it is seen that it is there. */
interface Entry {
  readonly what: string;
  readonly isThere: () => Promise<boolean>;
}

/** What a text may be: what was answered as saved, or what was sent and never answered. */
interface Text {
  saved: string;
  readonly sent: Set<string>;
}

/** What the flash holds before anything is disturbed. */
export const FIRST_SERIAL = 'T0';

/** What the workbench answered as done. Afterwards all of it has to be there. */
export class Ledger {
  readonly #api: Api;
  readonly #texts = new Map<string, Text>();
  #entries: readonly Entry[] = [];
  /** Serial numbers that the flash may hold: the last one that was answered as written, and one that was not. */
  readonly flash: { written: string; sent: string | null } = { written: FIRST_SERIAL, sent: null };
  /** Of all kinds, ever. */
  acknowledged = 0;

  constructor(api: Api) {
    this.#api = api;
  }

  /** A text under a name, as a person types it: each version answered, or not. */
  async save(name: string, text: string, put: (text: string) => Promise<unknown>): Promise<void> {
    const known = this.#texts.get(name) ?? { saved: '', sent: new Set<string>() };
    this.#texts.set(name, known);
    known.sent.add(text);
    await put(text);
    known.saved = text;
    known.sent.clear();
    this.acknowledged++;
  }

  done(what: string, isThere: () => Promise<boolean>): void {
    this.acknowledged++;
    this.#entries = [...this.#entries, { what, isThere }];
  }

  /** What was answered as done and is not there. Everything that is there is not asked for again. */
  async missing(): Promise<string[]> {
    const missing: string[] = [];
    const texts = await this.#textsNow();
    for (const [name, known] of this.#texts) {
      const now = texts.get(name) ?? '';
      if (now !== known.saved && !known.sent.has(now))
        missing.push(`${name}: a text that was never sent, or an older one`);
      known.saved = now;
      known.sent.clear();
    }
    for (const { what, isThere } of this.#entries) if (!(await isThere())) missing.push(what);
    this.#entries = [];
    return missing;
  }

  async #textsNow(): Promise<ReadonlyMap<string, string>> {
    const files = await this.#api.project.files.query();
    const shelf = await this.#api.probe.shelf.query();
    return new Map([
      ...files.map(({ name, text }) => [name, text] as const),
      ['(plans)', shelf.map(({ name }) => name).join()] as const,
    ]);
  }
}
