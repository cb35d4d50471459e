// The value change dump. @source IEEE 1364-2005, clause 18
import type { Design, Elaborated, Scope } from '../../hdl/index.ts';
import type { Built } from './build.ts';
import type { Machine } from './machine.ts';
import type { Cell } from './objects.ts';

export interface DumpSink {
  write(text: string): void;
}

const FLUSH_AT = 1 << 16;

/** Writes the values of signals as they change, in pieces. */
export class Dump {
  readonly #machine: Machine;
  readonly #built: Built;
  readonly #top: Elaborated | null;
  readonly #sink: DumpSink;
  readonly #codes = new Map<number, string>();
  #text = '';
  #isOpen = false;
  #isOn = true;
  #time = -1;

  constructor(machine: Machine, { top }: Design, built: Built, sink: DumpSink) {
    this.#machine = machine;
    this.#built = built;
    this.#top = top;
    this.#sink = sink;
    machine.runtime.onDump = (what, scopes, levels) => this.#asked(what, scopes, levels);
    machine.runtime.kernel.onSettled = () => this.#settled();
  }

  /** Everything, from now on. */
  begin(): void {
    this.#open([], 0);
  }

  #asked(what: 'vars' | 'on' | 'off' | 'all', scopes: readonly string[], levels: number): void {
    if (what === 'vars') this.#open(scopes, levels);
    else if (what === 'all') this.#all('$dumpall');
    else {
      this.#isOn = what === 'on';
      if (this.#isOn) this.#all('$dumpon');
      else this.#off();
    }
  }

  #open(asked: readonly string[], levels: number): void {
    if (this.#isOpen || !this.#top) return;
    this.#isOpen = true;
    const unit = this.#built.precision;
    const names = ['s', 'ms', 'us', 'ns', 'ps', 'fs'];
    const step = Math.ceil(-unit / 3);
    this.#put(`$version Nimble Signal $end\n$timescale ${10 ** (unit + step * 3)} ${names[step]} $end\n`);
    this.#scope(this.#top, this.#wanted(asked), levels === 0 ? Number.POSITIVE_INFINITY : levels);
    this.#put('$enddefinitions $end\n');
    this.#stamp();
    this.#all('$dumpvars');
  }

  /** Full paths of what `$dumpvars` names: `around|name` looks outward from where it was called. */
  #wanted(asked: readonly string[]): readonly string[] {
    return asked.map((one) => {
      const [around = '', name = ''] = one.split('|');
      if (name === '' || around === '') return name || around;
      const parts = around.split('.');
      for (let i = parts.length; i > 0; i--) {
        const path = `${parts.slice(0, i).join('.')}.${name}`;
        if (this.#paths.has(path)) return path;
        if (parts[i - 1] === name) return parts.slice(0, i).join('.');
      }
      return name;
    });
  }

  get #paths(): Set<string> {
    const found = new Set<string>();
    const enter = (instance: Elaborated): void => {
      found.add(instance.path);
      for (const name of instance.scope.names.keys()) found.add(`${instance.path}.${name}`);
      for (const behaviour of instance.behaviours)
        if (behaviour.kind === 'instances') for (const one of behaviour.made) enter(one);
    };
    if (this.#top) enter(this.#top);
    return found;
  }

  #scope(instance: Elaborated, wanted: readonly string[], levels: number): void {
    const { path } = instance;
    const inside = (one: string) => path === one || path.startsWith(`${one}.`);
    const around = wanted.length === 0 ? this.#top?.path : wanted.find(inside);
    const deep = around === undefined ? 0 : path.split('.').length - around.split('.').length;
    const isWanted = around !== undefined && deep < levels;
    const leads = wanted.length === 0 || wanted.some((one) => inside(one) || one.startsWith(`${path}.`));
    if (!leads) return;
    this.#put(`$scope module ${instance.name} $end\n`);
    this.#names(instance.scope, (one) => isWanted || wanted.includes(one));
    for (const behaviour of instance.behaviours)
      if (behaviour.kind === 'instances') for (const one of behaviour.made) this.#scope(one, wanted, levels);
    this.#put('$upscope $end\n');
  }

  #names(scope: Scope, isWanted: (path: string) => boolean): void {
    for (const [name, entity] of scope.names) {
      if (entity.kind === 'block' && !entity.scope.module) {
        this.#put(`$scope begin ${name} $end\n`);
        this.#names(entity.scope, isWanted);
        this.#put('$upscope $end\n');
      }
      if (entity.kind === 'blocks')
        for (const [index, inner] of entity.scopes)
          if (!inner.module) {
            this.#put(`$scope begin ${name}[${index}] $end\n`);
            this.#names(inner, isWanted);
            this.#put('$upscope $end\n');
          }
      if (entity.kind !== 'vector' || !this.#built.objects.has(entity) || !isWanted(entity.path)) continue;
      const cell = this.#built.objects.of(entity);
      if (cell.dimensions.length > 0 || cell.kind === 'text') continue;
      this.#declare(name, cell, entity.net);
    }
  }

  #declare(name: string, cell: Cell, net: string): void {
    const { id, width, kind, shape } = cell;
    const code = this.#codes.get(id) ?? codeOf(this.#codes.size);
    if (!this.#codes.has(id)) {
      this.#codes.set(id, code);
      this.#machine.runtime.kernel.trace(id);
    }
    const type = kind === 'real' ? 'real' : kind === 'event' ? 'event' : net === 'wire' ? 'wire' : net;
    const size = kind === 'event' ? 1 : width;
    const range = size === 1 && shape.left === 0 && shape.right === 0 ? '' : ` [${shape.left}:${shape.right}]`;
    this.#put(`$var ${type} ${size} ${code} ${name}${kind === 'real' ? '' : range} $end\n`);
  }

  #all(mark: string): void {
    if (!this.#isOpen) return;
    this.#stamp();
    this.#put(`${mark}\n`);
    for (const [id, code] of this.#codes) this.#value(id, code);
    this.#put('$end\n');
  }

  #off(): void {
    if (!this.#isOpen) return;
    this.#stamp();
    this.#put('$dumpoff\n');
    for (const [id, code] of this.#codes) {
      const cell = this.#built.objects.cells[id];
      if (cell && (cell.kind === 'narrow' || cell.kind === 'wide'))
        this.#put(cell.width === 1 ? `x${code}\n` : `bx ${code}\n`);
    }
    this.#put('$end\n');
  }

  #settled(): void {
    const { changed } = this.#machine.runtime.kernel;
    if (changed.length === 0) return;
    const ids = this.#machine.runtime.kernel.takeChanged();
    if (!this.#isOpen || !this.#isOn) return;
    this.#stamp();
    for (const id of ids) {
      const code = this.#codes.get(id);
      if (code !== undefined) this.#value(id, code);
    }
  }

  #stamp(): void {
    const { time } = this.#machine.runtime.kernel;
    if (time === this.#time) return;
    this.#time = time;
    this.#put(`#${time}\n`);
  }

  #value(id: number, code: string): void {
    const cell = this.#built.objects.cells[id];
    if (!cell) return;
    if (cell.kind === 'event') return this.#put(`1${code}\n`);
    if (cell.kind === 'real') return this.#put(`r${this.#machine.runtime.valueOf(id)} ${code}\n`);
    const { v, x } = this.#machine.runtime.wordOf(id);
    if (cell.width === 1) return this.#put(`${x === 0n ? v : v === 1n ? 'x' : 'z'}${code}\n`);
    this.#put(`b${bits(v, x, cell.width)} ${code}\n`);
  }

  #put(text: string): void {
    this.#text += text;
    if (this.#text.length < FLUSH_AT) return;
    this.#sink.write(this.#text);
    this.#text = '';
  }

  end(): void {
    if (!this.#isOpen) return;
    this.#stamp();
    this.#sink.write(this.#text);
    this.#text = '';
  }
}

/** Digits without those in front that say nothing new. @source IEEE 1364-2005, clause 18.2.3 */
function bits(v: bigint, x: bigint, width: number): string {
  if (x === 0n) return v.toString(2);
  let text = '';
  for (let i = width - 1; i >= 0; i--) {
    const at = BigInt(i);
    const [value, unknown] = [(v >> at) & 1n, (x >> at) & 1n];
    text += unknown === 0n ? `${value}` : value === 1n ? 'x' : 'z';
  }
  return text
    .replace(/^([01xz])\1*(?=\1)/, (run, letter: string) => (letter === '1' ? run : ''))
    .replace(/^0+(?=[01])/, '');
}

/** Short names of printable characters. */
function codeOf(number: number): string {
  let text = '';
  let rest = number;
  do {
    text += String.fromCharCode(33 + (rest % 94));
    rest = Math.floor(rest / 94) - 1;
  } while (rest >= 0);
  return text;
}
