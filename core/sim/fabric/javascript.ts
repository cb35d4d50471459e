import { type BinaryOp, constant, type Emitter, foldBinary, type Value } from './emitter.ts';
import { Lean } from './lean.ts';

const INFIX: Readonly<Partial<Record<BinaryOp, string>>> = {
  add: '+',
  sub: '-',
  and: '&',
  or: '|',
  xor: '^',
  shl: '<<',
  shru: '>>>',
  shrs: '>>',
};

class JavaScriptBody implements Emitter {
  readonly lines: string[] = [];
  #locals = 0;

  binary(op: BinaryOp, a: Value, b: Value): Value {
    const folded = foldBinary(op, a, b);
    if (folded) return folded;
    const [x, y] = [name(a), name(b)];
    const infix = INFIX[op];
    if (infix) return this.#keep(`(${x} ${infix} ${y}) | 0`);
    switch (op) {
      case 'mul':
        return this.#keep(`Math.imul(${x}, ${y})`);
      case 'eq':
        return this.#keep(`${x} === ${y} ? 1 : 0`);
      case 'ne':
        return this.#keep(`${x} !== ${y} ? 1 : 0`);
      case 'ltu':
        return this.#keep(`(${x} >>> 0) < (${y} >>> 0) ? 1 : 0`);
      case 'lts':
        return this.#keep(`${x} < ${y} ? 1 : 0`);
      case 'divu':
        return this.#keep(`((${x} >>> 0) / (${y} >>> 0)) | 0`);
      case 'remu':
        return this.#keep(`((${x} >>> 0) % (${y} >>> 0)) | 0`);
      case 'divs':
        return this.#keep(`(${x} / ${y}) | 0`);
      case 'rems':
        return this.#keep(`(${x} % ${y}) | 0`);
      default:
        return this.#keep(`Number((BigInt(${x} >>> 0) * BigInt(${y} >>> 0)) >> 32n) | 0`);
    }
  }

  isZero(a: Value): Value {
    return 'constant' in a ? constant(a.constant === 0 ? 1 : 0) : this.#keep(`${name(a)} === 0 ? 1 : 0`);
  }

  parity(a: Value): Value {
    let folded = a;
    for (const shift of [16, 8, 4, 2, 1])
      folded = this.binary('xor', folded, this.binary('shru', folded, constant(shift)));
    return this.binary('and', folded, constant(1));
  }

  select(condition: Value, then: Value, otherwise: Value): Value {
    if ('constant' in condition) return condition.constant ? then : otherwise;
    return this.#keep(`${name(condition)} ? ${name(then)} : ${name(otherwise)}`);
  }

  load(address: number): Value {
    return this.#keep(`m[${address}]`);
  }

  loadAt(base: number, index: Value): Value {
    return this.#keep(`m[${base} + ${name(index)}]`);
  }

  store(address: number, value: Value): void {
    this.lines.push(`m[${address}] = ${name(value)};`);
  }

  storeAt(base: number, index: Value, value: Value): void {
    this.lines.push(`m[${base} + ${name(index)}] = ${name(value)};`);
  }

  if(condition: Value): void {
    this.lines.push(`if (${name(condition)}) {`);
  }

  end(): void {
    this.lines.push('}');
  }

  stopIf(condition: Value): void {
    this.lines.push(`if (${name(condition)}) times = 1;`);
  }

  run(body: number, times: number): void {
    this.lines.push(`b[${body}](${times});`);
  }

  /** `var`, because a value computed in a guarded block may be read after it only where the guard held. */
  #keep(expression: string): Value {
    const local = this.#locals++;
    this.lines.push(`var v${local} = ${expression};`);
    return { local };
  }
}

const name = (value: Value): string => ('local' in value ? `v${value.local}` : String(value.constant));

/**
 * The same functions as `emitWasm`, as JavaScript over an Int32Array `m`; `b` are the bodies of the program. Used to
 * measure one against the other.
 */
export function emitJavaScript(bodies: readonly ((emitter: Emitter) => void)[]): string {
  const functions = bodies.map((write) => {
    const body = new JavaScriptBody();
    write(new Lean(body));
    return `function (times) { for (; times > 0; times--) {\n${body.lines.join('\n')}\n} }`;
  });
  return `"use strict"; return [${functions.join(',\n')}];`;
}
