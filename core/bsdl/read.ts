import { checkEntity } from './check.ts';
import type { JoinedText } from './lex.ts';
import {
  type BoundaryCell,
  type BsdlEntity,
  type BsdlProblem,
  CELL_FUNCTIONS,
  type CellFunction,
  type PortBit,
} from './model.ts';
import { parseEntity, type RawEntity, type Value } from './parse.ts';

/** What came of a file: an entity as far as it could be read, and everything that is wrong, in the order of lines. */
interface BsdlReading {
  readonly entity: BsdlEntity | null;
  readonly problems: readonly BsdlProblem[];
  /** No error among the problems. */
  readonly valid: boolean;
}

/**
 * Reads a boundary-scan description and checks it against the rules of the standard.
 *
 * @source IEEE 1149.1, BSDL annex
 */
export function readBsdl(source: string): BsdlReading {
  const problems: BsdlProblem[] = [];
  const raw = parseEntity(source, (problem) => problems.push(problem));
  const entity = raw ? new Reader(raw, problems).read() : null;
  if (raw && entity) checkEntity(entity, raw, problems);
  problems.sort((a, b) => a.line - b.line);
  return { entity, problems, valid: entity !== null && problems.every((problem) => problem.severity !== 'error') };
}

class Reader {
  readonly #raw: RawEntity;
  readonly #problems: BsdlProblem[];

  constructor(raw: RawEntity, problems: BsdlProblem[]) {
    this.#raw = raw;
    this.#problems = problems;
  }

  read(): BsdlEntity {
    const raw = this.#raw;
    const { name: packageName, pins } = this.#pinMap();
    return {
      entity: raw.name,
      packageName,
      ports: raw.ports.map((port): PortBit => ({ ...port, pin: pins.get(port.name.toLowerCase()) ?? null })),
      tap: {
        tdi: this.#wireOf('TAP_SCAN_IN'),
        tdo: this.#wireOf('TAP_SCAN_OUT'),
        tms: this.#wireOf('TAP_SCAN_MODE'),
        tck: this.#wireOf('TAP_SCAN_CLOCK'),
        trst: this.#wireOf('TAP_SCAN_RESET'),
        mostHz: this.#clockRate(),
      },
      irLength: this.#integer('INSTRUCTION_LENGTH'),
      ...this.#opcodes(),
      irCapture: this.#bits('INSTRUCTION_CAPTURE'),
      idcode: this.#bits('IDCODE_REGISTER'),
      usercode: this.#bits('USERCODE_REGISTER'),
      registers: this.#registers(),
      boundaryLength: this.#integer('BOUNDARY_LENGTH'),
      cells: this.#cells(),
    };
  }

  #attribute(name: string): { readonly value: Value; readonly line: number; readonly of: string } | undefined {
    return this.#raw.attributes.find((attribute) => attribute.name === name);
  }

  #wireOf(name: string): string | null {
    return this.#attribute(name)?.of ?? null;
  }

  #clockRate(): number | null {
    const value = this.#attribute('TAP_SCAN_CLOCK')?.value;
    const rate = value?.kind === 'list' ? Number(value.parts[0]) : Number.NaN;
    return Number.isFinite(rate) && rate > 0 ? rate : null;
  }

  #integer(name: string): number | null {
    const attribute = this.#attribute(name);
    if (!attribute) return null;
    if (attribute.value.kind === 'number' && Number.isInteger(attribute.value.value)) return attribute.value.value;
    this.#error(attribute.line, 'attribute-kind', `${name} is a whole number.`);
    return null;
  }

  #text(name: string): JoinedText | null {
    const attribute = this.#attribute(name);
    if (!attribute) return null;
    const { value } = attribute;
    if (value.kind === 'text') return value.text;
    const constant = value.kind === 'word' ? this.#raw.constants.get(value.text.toUpperCase()) : undefined;
    if (constant?.value.kind === 'text') return constant.value.text;
    this.#error(attribute.line, 'attribute-kind', `${name} is a string.`);
    return null;
  }

  /** Digits 0, 1 and X; of several patterns the first. */
  #bits(name: string): string | null {
    const text = this.#text(name);
    if (!text) return null;
    const [first = ''] = text.text.replace(/\s/g, '').split(',');
    if (/^[01xX]+$/.test(first)) return first.toUpperCase();
    this.#error(text.line, 'bits', `${name} holds something else than 0, 1 and X: "${first}".`);
    return null;
  }

  #pinMap(): { name: string | null; pins: Map<string, string> } {
    const pins = new Map<string, string>();
    const [only] = [...this.#raw.constants].filter(([, { value }]) => value.kind === 'text');
    const wanted = this.#raw.generics.get('PHYSICAL_PIN_MAP');
    const key =
      wanted !== undefined && this.#raw.constants.has(wanted.toUpperCase())
        ? wanted.toUpperCase()
        : (only?.[0] ?? null);
    if (wanted !== undefined && key !== wanted.toUpperCase())
      this.#warn(
        this.#raw.line,
        'no-pin-map',
        `The package "${wanted}" that PHYSICAL_PIN_MAP names has no pin map here.`,
      );
    const value = key === null ? undefined : this.#raw.constants.get(key)?.value;
    if (value?.kind !== 'text') return { name: wanted ?? null, pins };
    for (const { items, at } of entries(value.text.text)) this.#mapPort(items, value.text.lineAt(at), pins);
    return { name: wanted ?? key, pins };
  }

  /** `port : pin` or `port : (pin, pin, ...)`, the vector's bits in the order of its range. */
  #mapPort(entry: string, line: number, pins: Map<string, string>): void {
    const found = /^\s*([A-Za-z]\w*)\s*(?:\(\s*(\d+)\s*\))?\s*:\s*(?:\(([^()]*)\)|([^\s(),]+))\s*$/.exec(entry);
    if (!found) {
      if (entry.trim() !== '')
        this.#error(
          line,
          'pin-map',
          `"${entry.trim()}" is no entry of a pin map: a port, a colon, its pin or its pins in brackets.`,
        );
      return;
    }
    const [, port = '', index, many, one] = found;
    const bits = this.#raw.ports.filter(
      ({ name }) =>
        name.toLowerCase() === port.toLowerCase() || name.toLowerCase().startsWith(`${port.toLowerCase()}(`),
    );
    if (bits.length === 0) return this.#error(line, 'pin-map-port', `The pin map names "${port}", which is no port.`);
    if (index !== undefined) {
      pins.set(`${port}(${index})`.toLowerCase(), one ?? '');
      return;
    }
    const list = many === undefined ? [one ?? ''] : many.split(',').map((pin) => pin.trim());
    if (list.length !== bits.length)
      return this.#error(
        line,
        'pin-map-count',
        `The port "${port}" has ${bits.length} ${bits.length === 1 ? 'bit' : 'bits'}, the pin map gives it ` +
          `${list.length} ${list.length === 1 ? 'pin' : 'pins'}.`,
      );
    for (const [i, bit] of bits.entries()) pins.set(bit.name.toLowerCase(), list[i] ?? '');
  }

  /** Opcodes of each instruction, and the line each of them stands in. */
  #opcodes(): Pick<BsdlEntity, 'instructions' | 'opcodeLines'> {
    const text = this.#text('INSTRUCTION_OPCODE');
    const instructions: Record<string, string[]> = {};
    const opcodeLines: Record<string, number[]> = {};
    for (const { items, at } of text ? entries(text.text) : []) {
      const line = text?.lineAt(at) ?? 0;
      const shape = /^(\s*([A-Za-z]\w*)\s*\()([01xX,\s]*)\)\s*$/.exec(items.trimStart());
      if (!shape) {
        if (items.trim() !== '')
          this.#error(
            line,
            'opcode',
            `"${items.trim()}" is no instruction: a name, then its opcodes of 0, 1 and X in brackets.`,
          );
        continue;
      }
      const [, head = '', written = '', codes = ''] = shape;
      const name = written.toUpperCase();
      if (instructions[name]) this.#error(line, 'opcode-twice', `The instruction ${name} is there twice.`);
      instructions[name] ??= [];
      opcodeLines[name] ??= [];
      for (const { index, 0: code } of codes.matchAll(/[01xX]+/g)) {
        instructions[name].push(code.toUpperCase());
        opcodeLines[name].push(text?.lineAt(at + head.length + index) ?? line);
      }
    }
    return { instructions, opcodeLines };
  }

  #registers(): BsdlEntity['registers'] {
    const text = this.#text('REGISTER_ACCESS');
    if (!text) return [];
    return entries(text.text).flatMap(({ items, at }) => {
      const shape = /^\s*([A-Za-z]\w*)\s*(?:\[\s*(\d+)\s*\])?\s*\(([^()]*)\)\s*$/.exec(items);
      if (shape)
        return [
          {
            name: (shape[1] ?? '').toUpperCase(),
            length: shape[2] === undefined ? null : Number(shape[2]),
            instructions: (shape[3] ?? '').split(',').map((name) =>
              name
                .replace(/CAPTURES.*/i, '')
                .trim()
                .toUpperCase(),
            ),
          },
        ];
      if (items.trim() !== '')
        this.#error(
          text.lineAt(at),
          'register-access',
          `"${items.trim()}" is no register: a name, its length in square brackets, its instructions in brackets.`,
        );
      return [];
    });
  }

  #cells(): BoundaryCell[] {
    const text = this.#text('BOUNDARY_REGISTER');
    if (!text) return [];
    return entries(text.text).flatMap(({ items, at }) => {
      if (items.trim() === '') return [];
      const line = text.lineAt(at + (items.length - items.trimStart().length));
      const cell = this.#cell(items, line);
      return cell ? [cell] : [];
    });
  }

  /** `number (cell, port, function, safe [, control, disable value, result])` */
  #cell(entry: string, line: number): BoundaryCell | null {
    const shape = /^\s*(\d+)\s*\((.*)\)\s*$/s.exec(entry);
    const fields = shape ? splitOutside(shape[2] ?? '').map((field) => field.trim()) : [];
    if (!shape || (fields.length !== 4 && fields.length !== 7)) {
      this.#error(
        line,
        'cell',
        `"${entry.trim()}" is no cell: a number, then in brackets kind, port, function, safe value and, for a ` +
          'driver, control cell, disabling value, result.',
      );
      return null;
    }
    const [kind = '', port = '', role = '', safe = '', control, value, result = ''] = fields;
    const name = role.toUpperCase() as CellFunction;
    if (!CELL_FUNCTIONS.includes(name)) {
      this.#error(
        line,
        'cell-function',
        `Cell ${shape[1]} has the function "${role}". There are ${CELL_FUNCTIONS.join(', ')}.`,
      );
      return null;
    }
    if (!/^[01xX]$/.test(safe))
      this.#error(line, 'cell-safe', `Cell ${shape[1]}: the safe value is 0, 1 or X, not "${safe}".`);
    if (control !== undefined && (!/^\d+$/.test(control) || !/^[01]$/.test(value ?? '')))
      this.#error(
        line,
        'cell-disable',
        `Cell ${shape[1]}: a control cell's number and a disabling value of 0 or 1 are expected, not ` +
          `"${control}, ${value}".`,
      );
    return {
      cell: Number(shape[1]),
      kind: kind.toUpperCase(),
      port: port === '*' ? null : port.replace(/\s/g, ''),
      function: name,
      safe: (/^[01]$/.test(safe) ? safe : 'X') as BoundaryCell['safe'],
      line,
      disable:
        control !== undefined && /^\d+$/.test(control)
          ? { control: Number(control), value: value === '1' ? 1 : 0, result: result.toUpperCase() }
          : null,
    };
  }

  #error(line: number, code: string, message: string): void {
    this.#problems.push({ severity: 'error', line, code, message });
  }

  #warn(line: number, code: string, message: string): void {
    this.#problems.push({ severity: 'warning', line, code, message });
  }
}

/** Parts between commas that stand outside brackets, with where each begins. */
function entries(text: string): { items: string; at: number }[] {
  const found: { items: string; at: number }[] = [];
  let depth = 0;
  let from = 0;
  for (let i = 0; i <= text.length; i++) {
    const c = text[i];
    if (c === '(' || c === '[') depth++;
    else if (c === ')' || c === ']') depth = Math.max(0, depth - 1);
    else if (i === text.length || (c === ',' && depth === 0)) {
      const items = text.slice(from, i);
      found.push({ items, at: from + (items.length - items.trimStart().length) });
      from = i + 1;
    }
  }
  return found;
}

const splitOutside = (text: string): string[] => entries(text).map(({ items }) => items);
