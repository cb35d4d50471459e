// The files of a simulation: those of the project to read, those it writes kept in memory. Nothing else is reachable.
// @source IEEE 1364-2005, clause 17.2

/** Where a simulation finds what it reads, and puts what it prints. */
export interface FileHost {
  /** Contents as characters of 8 bits, or null. */
  read(name: string): string | null;
  print(text: string): void;
}

interface OpenFile {
  readonly name: string;
  readonly mode: 'r' | 'w' | 'a';
  readonly plus: boolean;
  at: number;
  back: number[];
  ended: boolean;
}

const MOST_FILES = 64;
const MOST_WRITTEN = 1 << 26;
const CHANNELS = 30;
const DESCRIPTOR = 0x80000000;

export class Files {
  /** What was written, by name. */
  readonly written = new Map<string, string[]>();
  readonly #host: FileHost;
  readonly #open = new Map<number, OpenFile>();
  readonly #channels: (string | null)[] = [];
  #size = 0;

  constructor(host: FileHost) {
    this.#host = host;
  }

  /** A descriptor, or without a mode the bit of a channel; 0 where it cannot be opened. */
  open(name: string, mode: string | null): number {
    const plain = safeName(name);
    if (plain === null) return 0;
    if (mode === null) {
      if (this.#channels.length >= CHANNELS) return 0;
      this.written.set(plain, []);
      this.#channels.push(plain);
      return 1 << this.#channels.length;
    }
    const letter = mode.charAt(0);
    if ((letter !== 'r' && letter !== 'w' && letter !== 'a') || this.#open.size >= MOST_FILES) return 0;
    if (letter === 'r' && this.#text(plain) === null) return 0;
    if (letter === 'w') this.written.set(plain, []);
    if (letter === 'a' && !this.written.has(plain)) {
      const before = this.#host.read(plain);
      this.written.set(plain, before === null ? [] : [before]);
    }
    let number = 3;
    while (this.#open.has(number)) number++;
    this.#open.set(number, { name: plain, mode: letter, plus: mode.includes('+'), at: 0, back: [], ended: false });
    return DESCRIPTOR | number | 0;
  }

  close(file: number): void {
    if (isDescriptor(file)) this.#open.delete(file & 0x7fffffff);
    else for (let i = 0; i < this.#channels.length; i++) if ((file >> (i + 1)) & 1) this.#channels[i] = null;
  }

  /** To one file, or to all channels whose bits are set; the lowest is the output of the simulation. */
  write(file: number, text: string): void {
    if (isDescriptor(file)) {
      const number = file & 0x7fffffff;
      if (number === 1 || number === 2) return this.#host.print(text);
      const open = this.#open.get(number);
      if (open && open.mode !== 'r') this.#put(open.name, text);
      return;
    }
    if (file & 1) this.#host.print(text);
    for (const [i, name] of this.#channels.entries()) if (name !== null && (file >> (i + 1)) & 1) this.#put(name, text);
  }

  #put(name: string, text: string): void {
    this.#size += text.length;
    if (this.#size > MOST_WRITTEN)
      throw new RangeError(`The simulation has written more than ${MOST_WRITTEN} bytes to files.`);
    const parts = this.written.get(name) ?? [];
    this.written.set(name, parts);
    parts.push(text);
  }

  #text(name: string): string | null {
    const own = this.written.get(name);
    return own ? own.join('') : this.#host.read(name);
  }

  readonly #texts = new Map<string, string>();

  #reading(file: number): { readonly open: OpenFile; readonly text: string } | null {
    const open = isDescriptor(file) ? this.#open.get(file & 0x7fffffff) : undefined;
    if (!open || (open.mode !== 'r' && !open.plus)) return null;
    const known = this.#texts.get(open.name);
    const text = known ?? this.#text(open.name) ?? '';
    if (known === undefined && !this.written.has(open.name)) this.#texts.set(open.name, text);
    return { open, text };
  }

  /** The next character, or -1 at the end. */
  getCharacter(file: number): number {
    const reading = this.#reading(file);
    if (!reading) return -1;
    const { open, text } = reading;
    const back = open.back.pop();
    if (back !== undefined) return back;
    if (open.at >= text.length) {
      open.ended = true;
      return -1;
    }
    return text.charCodeAt(open.at++) & 0xff;
  }

  putBack(character: number, file: number): number {
    const reading = this.#reading(file);
    if (!reading || character < 0) return -1;
    reading.open.back.push(character);
    return 0;
  }

  /** A line with its end, or what is left of it; empty at the end of the file. */
  getLine(file: number, most: number): string {
    let line = '';
    while (line.length < most) {
      const character = this.getCharacter(file);
      if (character < 0) break;
      line += String.fromCharCode(character);
      if (character === 10) break;
    }
    return line;
  }

  /** Only after a reading that found the end. */
  atEnd(file: number): number {
    const reading = this.#reading(file);
    return !reading || reading.open.ended ? 1 : 0;
  }

  tell(file: number): number {
    const reading = this.#reading(file);
    return reading ? reading.open.at - reading.open.back.length : -1;
  }

  seek(file: number, offset: number, operation: number): number {
    const reading = this.#reading(file);
    if (!reading) return -1;
    const { open, text } = reading;
    const from = operation === 0 ? 0 : operation === 1 ? open.at : text.length;
    open.at = Math.max(0, from + offset);
    open.back = [];
    open.ended = false;
    return 0;
  }

  /** A whole file of the project, or one that was written before. */
  whole(name: string): string | null {
    const plain = safeName(name);
    return plain === null ? null : this.#text(plain);
  }
}

const isDescriptor = (file: number): boolean => file >>> 0 >= DESCRIPTOR;

/** A name inside the project's folder; null for any that leaves it. */
function safeName(name: string): string | null {
  const parts = name
    .replaceAll('\\', '/')
    .split('/')
    .filter((part) => part !== '' && part !== '.');
  // biome-ignore lint/suspicious/noControlCharactersInRegex: a name with control characters is what is refused here
  if (name.startsWith('/') || /^[A-Za-z]:/.test(name) || /[\u0000-\u001f]/.test(name)) return null;
  return parts.length === 0 || parts.includes('..') ? null : parts.join('/');
}
