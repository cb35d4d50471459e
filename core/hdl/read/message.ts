import type { Place } from '../../result.ts';

/** `serious` does not stop a build, but the hardware will likely misbehave. */
export type Severity = 'error' | 'serious' | 'warning' | 'info';

/** Text put into a source at a place; nothing is taken away. */
export interface Insertion extends Place {
  readonly insert: string;
}

/** A change that answers a message: text for the sources, or a constraint. */
export type Fix =
  | { readonly kind: 'insert'; readonly label: string; readonly insertions: readonly Insertion[] }
  | { readonly kind: 'choose-top'; readonly label: string; readonly tops: readonly string[] }
  | { readonly kind: 'constrain-clock'; readonly label: string; readonly clock: string; readonly hertz: number }
  /** The frequency is not known here; who asks may know the oscillator on the clock's pin. */
  | { readonly kind: 'find-clock'; readonly label: string; readonly clock: string };

/** One stop on a way through the design, such as round a loop or from one clock to another. */
export interface Stop extends Place {
  readonly name: string;
}

/** One thing the front end has to say. `code` is stable; `line` and `column` count from 1. */
export interface Message {
  readonly severity: Severity;
  readonly code: string;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly fix?: Fix;
  readonly trail?: readonly Stop[];
}

/**
 * Most messages a run keeps, and most errors among them: past that the first ones are what matters. An error is kept
 * however many warnings came before it, since it decides whether there is a design.
 */
const MOST = 500;

/** Collects what is found, so that reading can go on after an error. */
export class Messages {
  readonly list: Message[] = [];
  readonly #said = new Set<string>();
  #errors = 0;

  add(
    severity: Severity,
    code: string,
    place: Place,
    message: string,
    more: Pick<Message, 'fix' | 'trail'> = {},
  ): void {
    if ((severity === 'error' ? this.#errors : this.list.length) >= MOST) return;
    const { file, line, column } = place;
    const key = `${file}:${line}:${column}:${message}`;
    if (this.#said.has(key)) return;
    this.#said.add(key);
    if (severity === 'error') this.#errors++;
    this.list.push({ severity, code, file, line, column, message, ...more });
  }

  error(code: string, place: Place, message: string): void {
    this.add('error', code, place, message);
  }

  warning(code: string, place: Place, message: string): void {
    this.add('warning', code, place, message);
  }

  get failed(): boolean {
    return this.list.some((m) => m.severity === 'error');
  }
}

/** Leaves a construct that cannot be understood; caught where reading can go on. */
export class GiveUp extends Error {
  readonly code: string;
  readonly place: Place;

  constructor(code: string, place: Place, message: string) {
    // Where it was thrown is nobody's business, and to find out takes longer than all else that a wrong line costs.
    const { stackTraceLimit } = Error;
    Error.stackTraceLimit = 0;
    super(message);
    Error.stackTraceLimit = stackTraceLimit;
    this.code = code;
    this.place = place;
  }
}
