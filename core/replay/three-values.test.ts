// Operations on words that are partly known, against all that those words can be.
import { describe, expect, test } from 'vitest';
import { emptyNetlist, evaluateConstant, NetBuilder } from '../netlist/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { Decisions } from './decisions.ts';
import { dualOf } from './dual.ts';
import { bitOf, operate, type Word } from './words.ts';

const OPERATIONS = [
  ...(['and', 'or', 'xor', 'add', 'sub', 'mul', 'divu', 'modu', 'divs', 'mods', 'shl', 'shr', 'sra'] as const).map(
    (op) => ({ op, width: 3 }),
  ),
  ...(['eq', 'ltu', 'lts'] as const).map((op) => ({ op, width: 1 })),
];
const UNARY = [
  { op: 'not' as const, width: 3 },
  { op: 'sext' as const, width: 5 },
  ...(['redand', 'redor', 'redxor'] as const).map((op) => ({ op, width: 1 })),
];
const IN = 3;

/** All values of three bits that agree with a value where it is known. */
const completions = (value: number, unknown: number): number[] =>
  Array.from({ length: 2 ** IN }, (_, i) => i).filter((one) => ((one ^ value) & ~unknown) === 0);

const partly = Array.from({ length: 2 ** IN }, (_, unknown) =>
  Array.from({ length: 2 ** IN }, (_, value) => ({ value, unknown })).filter(({ value }) => (value & unknown) === 0),
).flat();

describe('a word and what of it is unknown (dual)', () => {
  test.each([...OPERATIONS, ...UNARY])('$op says nothing that some completion does not do', ({ op, width }) => {
    const isUnary = UNARY.some((one) => one.op === op);
    const build = new NetBuilder(emptyNetlist());
    const args = isUnary ? [build.input('a', IN)] : [build.input('a', IN), build.input('b', IN)];
    build.netlist.outputs.push({ name: 'y', node: build.make(op, width, args), width });
    const dual = dualOf(build.netlist, new Set());
    const sim = new Simulator(dual.netlist, 'wasm', null);
    let known = 0;
    for (const a of partly)
      for (const b of isUnary ? partly.slice(0, 1) : partly) {
        sim.setInput('a', BigInt(a.value));
        sim.setInput('a u', BigInt(a.unknown));
        sim.setInput('b', BigInt(b.value));
        sim.setInput('b u', BigInt(b.unknown));
        const [value, unknown] = [sim.getOutput('y v'), sim.getOutput('y u')];
        expect(value & unknown).toBe(0n);
        for (const x of completions(a.value, a.unknown))
          for (const y of isUnary ? [0] : completions(b.value, b.unknown)) {
            const real = evaluateConstant(op, width, isUnary ? [BigInt(x)] : [BigInt(x), BigInt(y)], [IN, IN]);
            if (((real ^ value) & ~unknown) !== 0n) expect({ op, a, b, x, y, value, unknown }).toBe(real);
          }
        if (unknown === 0n) known++;
      }
    expect(known).toBeGreaterThanOrEqual(partly.length > 0 ? 8 : 0);
  });

  // IEEE 1364-2005, clause 5.1.10 and 5.1.13: tables of the bitwise operators, and of a choice by x.
  test('0 & x is 0, 1 | x is 1, and a choice by x keeps what both sides share', () => {
    const build = new NetBuilder(emptyNetlist());
    const [a, b, c] = [build.input('a', 2), build.input('b', 2), build.input('c', 1)];
    for (const [name, node] of [
      ['and', build.and(a, b)],
      ['or', build.or(a, b)],
      ['mux', build.mux(c, a, b)],
    ] as const)
      build.netlist.outputs.push({ name, node, width: 2 });
    const sim = new Simulator(dualOf(build.netlist, new Set()).netlist, 'wasm', null);
    sim.setInput('a', 0b01n);
    sim.setInput('b u', 0b11n);
    expect([sim.getOutput('and v'), sim.getOutput('and u')]).toEqual([0n, 0b01n]);
    expect([sim.getOutput('or v'), sim.getOutput('or u')]).toEqual([0b01n, 0b10n]);
    sim.setInput('b u', 0n);
    sim.setInput('b', 0b11n);
    sim.setInput('c u', 1n);
    expect([sim.getOutput('mux v'), sim.getOutput('mux u')]).toEqual([0b01n, 0b10n]);
  });
});

describe('a word as functions of what is unknown (exact)', () => {
  test.each([...OPERATIONS, ...UNARY])('$op is what it is for every value', ({ op, width }) => {
    const functions = new Decisions(1 << 14);
    const word = (from: number): Word => Array.from({ length: IN }, (_, i) => functions.variable(from + 2 * i));
    const isUnary = UNARY.some((one) => one.op === op);
    const args = isUnary ? [word(0)] : [word(0), word(1)];
    const made = operate(functions, { op, width, args: [] } as never, args, [IN, IN]);
    for (let x = 0; x < 2 ** IN; x++)
      for (let y = 0; y < (isUnary ? 1 : 2 ** IN); y++) {
        const value = (variable: number) => (((variable & 1 ? y : x) >> (variable >> 1)) & 1 ? 1 : 0);
        const real = evaluateConstant(op, width, isUnary ? [BigInt(x)] : [BigInt(x), BigInt(y)], [IN, IN]);
        for (let bit = 0; bit < width; bit++)
          expect(functions.valueOf(bitOf(made, bit), value)).toBe(Number((real >> BigInt(bit)) & 1n));
      }
  });

  test('equal functions are one node, whatever way they were made (Bryant, 1986)', () => {
    const f = new Decisions(1000);
    const [a, b, c] = [f.variable(0), f.variable(1), f.variable(2)];
    expect(f.or(f.and(a, b), f.and(a, c))).toBe(f.and(a, f.or(b, c)));
    expect(f.xor(f.xor(a, b), b)).toBe(a);
    expect(f.not(f.and(a, b))).toBe(f.or(f.not(a), f.not(b)));
    expect(f.example(f.and(a, f.not(a)), () => 0)).toBeNull();
    expect(f.example(f.and(a, f.not(b)), () => 1)).toEqual(
      new Map([
        [0, 1],
        [1, 0],
      ]),
    );
  });
});
