import type { Place } from '../result.ts';

export type Severity = 'error' | 'warning' | 'info';

/** One thing the front end has to say. `code` is stable; `line` and `column` count from 1. */
export interface Message {
  readonly severity: Severity;
  readonly code: string;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

/** Most messages a run keeps: past that the first ones are what matters. */
const MOST = 500;

/** Collects what is found, so that reading can go on after an error. */
export class Messages {
  readonly list: Message[] = [];

  add(severity: Severity, code: string, place: Place, message: string): void {
    if (this.list.length >= MOST) return;
    const { file, line, column } = place;
    if (this.list.some((m) => m.line === line && m.column === column && m.file === file && m.message === message)) return;
    this.list.push({ severity, code, file, line, column, message });
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
    super(message);
    this.code = code;
    this.place = place;
  }
}
