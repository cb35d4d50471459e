import { item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { evaluateConstant } from './fold.ts';
import { type Optimised, optimise } from './optimise.ts';
import { fewValues } from './reach.ts';
import { isLeaf, lowBitOf, type Netlist, type NetNode, type NodeId, type Register } from './types.ts';

/** Fewer states are as well off as they are; of more it is not tried. */
const LEAST_STATES = 5;
const MOST_STATES = 32;
/** Nodes that depend on a register together with others. */
const MOST_NODES = 4000;
/** Choices in what comes next, counted by the ways to them. */
const MOST_CHOICES = 400;

/** A register that has a few values only. */
export interface StateMachine {
  readonly register: Register;
  readonly width: number;
  readonly states: readonly bigint[];
}

/** How states are written: as a number each, or with a bit for each. */
export type Encoding = 'binary' | 'one-hot';

/** Registers that are given a few numbers by choices: those of state machines, with the ways to write their states. */
export function stateMachines(
  source: Netlist,
): { readonly machine: StateMachine; readonly ways: readonly Encoding[] }[] {
  return source.registers.flatMap((register) => {
    const { width } = item(source.nodes, register.node);
    if (width < 3 || !isChosen(source, register)) return [];
    const values = fewValues(source, register, MOST_STATES);
    if (values === null || values.size < LEAST_STATES) return [];
    const states = [...values];
    const isWide = width > Math.ceil(Math.log2(states.length));
    return [{ machine: { register, width, states }, ways: isWide ? ['one-hot', 'binary'] : ['one-hot'] }];
  });
}

/** Whether what a register takes is chosen by what it is, not computed from that; and choices are not too many. */
function isChosen({ nodes }: Netlist, { node: register, d }: Register): boolean {
  const open = [{ id: d, isWhole: true }];
  const constants = new Set<bigint>();
  let hasParts = false;
  for (let next = open.pop(), left = MOST_CHOICES; next !== undefined; next = open.pop()) {
    const { id, isWhole } = next;
    const node = item(nodes, id);
    if (isWhole && id === register) continue;
    if (node.op === 'const') {
      if (isWhole) constants.add(node.value);
    } else if (node.op === 'mux' && --left > 0) {
      open.push({ id: node.args[1], isWhole }, { id: node.args[2], isWhole });
    } else if (node.op === 'concat') {
      // Numbers of which one is chosen may have become a word in parts, and bits of it what chooses.
      hasParts = true;
      open.push(...node.args.map((arg) => ({ id: arg, isWhole: false })));
    } else if (isWhole || node.width > 1) return false;
  }
  return constants.size >= (hasParts ? 1 : LEAST_STATES - 1);
}

/**
 * A machine with what it decides and nothing else: all that comes from elsewhere is an input, all that goes elsewhere
 * an output.
 */
export function apart(source: Netlist, machine: StateMachine): Netlist {
  const { dependent } = dependentOn(source, machine);
  const nodes = source.nodes.map(
    (node, id): NetNode =>
      dependent.has(id) || node.op === 'const' ? node : { op: 'input', width: node.width, args: [], name: `n${id}` },
  );
  const { register } = machine;
  const roots = [
    ...source.registers.flatMap(({ node, d, reset, load }) => [...(node === register.node ? [] : [d]), reset, load]),
    ...source.outputs.flatMap(({ node, enable }) => [node, enable ?? null]),
    ...source.memories.flatMap(({ writes }) => writes.flatMap((write) => [write.enable, write.address, write.data])),
  ];
  const outputs = [...new Set(roots)].flatMap((id) =>
    id !== null && dependent.has(id) ? [{ name: `o${id}`, node: id, width: item(nodes, id).width }] : [],
  );
  const inputs = nodes.flatMap(({ op, width }, node) => (op === 'input' ? [{ name: `n${node}`, node, width }] : []));
  return { ...source, nodes, inputs, outputs, registers: [register], signals: [], cells: [] };
}

/**
 * The same netlist with the states of one register written in another way; null where what comes next cannot be told
 * state by state. What the register is read for is made of its new bits, so nothing else changes. For mapping alone: a
 * register that is captured or driven is the one that the source has.
 *
 * @source state assignment with one bit a state or the fewest bits (common practice in synthesis)
 */
export function recoded(source: Netlist, machine: StateMachine, encoding: Encoding): Optimised | null {
  const recoding = new Recoding(source, machine, encoding);
  return recoding.isPossible ? optimise(recoding.done()) : null;
}

/** Nodes that a machine's register decides, and those that it decides alone, with what they are in each state. */
function dependentOn(
  { nodes }: Netlist,
  { register, states }: StateMachine,
): { readonly dependent: ReadonlySet<NodeId>; readonly alone: ReadonlyMap<NodeId, readonly bigint[]> } {
  const dependent = new Set<NodeId>([register.node]);
  const alone = new Map<NodeId, readonly bigint[]>([[register.node, states]]);
  const numbers = new Map<NodeId, bigint>();
  for (const [id, node] of nodes.entries()) {
    if (node.op === 'const') numbers.set(id, node.value);
    if (node.op === 'reg' || !node.args.some((arg) => dependent.has(arg))) continue;
    dependent.add(id);
    if (isLeaf(node) || !node.args.every((arg) => alone.has(arg) || numbers.has(arg))) continue;
    const widths = node.args.map((arg) => item(nodes, arg).width);
    alone.set(
      id,
      states.map((_, i) => {
        const values = node.args.map((arg) => alone.get(arg)?.[i] ?? numbers.get(arg) ?? 0n);
        return evaluateConstant(node.op, node.width, values, widths, lowBitOf(node));
      }),
    );
  }
  return { dependent, alone };
}

class Recoding {
  readonly #source: Netlist;
  readonly #target: Netlist;
  readonly #build: NetBuilder;
  readonly #machine: StateMachine;
  readonly #encoding: Encoding;
  readonly #bits: number;
  readonly #codes: readonly bigint[];
  readonly #register: NodeId;
  readonly #dependent: ReadonlySet<NodeId>;
  readonly #alone: ReadonlyMap<NodeId, readonly bigint[]>;
  /** A bit for each state. */
  readonly #is: readonly NodeId[];
  /** What nodes are within each state. */
  readonly #withinState: readonly Map<NodeId, NodeId>[];

  constructor(source: Netlist, machine: StateMachine, encoding: Encoding) {
    const { register, states } = machine;
    this.#source = source;
    this.#machine = machine;
    this.#encoding = encoding;
    this.#target = {
      ...source,
      nodes: [...source.nodes],
      origins: [...source.origins],
      signals: [...source.signals],
    };
    this.#build = new NetBuilder(this.#target);
    this.#build.origin = source.origins[register.node];
    this.#bits = encoding === 'one-hot' ? states.length : Math.ceil(Math.log2(states.length));
    this.#codes = states.map((_, i) => (encoding === 'one-hot' ? 1n << BigInt(i) : BigInt(i)));
    this.#register = this.#build.register(this.#bits);
    const { dependent, alone } = dependentOn(source, machine);
    this.#dependent = dependent;
    this.#alone = alone;
    this.#is = states.map((_, i) => this.#stateBit(i, encoding));
    this.#withinState = states.map(() => new Map());
  }

  #stateBit(state: number, encoding: Encoding): NodeId {
    if (encoding === 'one-hot') return this.#build.slice(this.#register, state, 1);
    return this.#build.eq(this.#register, this.#build.constant(BigInt(state), this.#bits));
  }

  get isPossible(): boolean {
    return this.#dependent.size <= MOST_NODES;
  }

  #stateOf(id: NodeId): number | null {
    const node = item(this.#source.nodes, id);
    if (node.op !== 'const') return null;
    const at = this.#machine.states.indexOf(node.value);
    return at < 0 ? null : at;
  }

  done(): Netlist {
    const { register, states } = this.#machine;
    const codeOf = (value: bigint) => this.#codes[states.indexOf(value)] ?? 0n;
    const d = this.#next(register.d);
    for (const [id, values] of this.#alone) this.#replace(id, this.#decoded(id, values));
    const registers = this.#source.registers.map((one) =>
      one.node === register.node
        ? {
            ...register,
            node: this.#register,
            d,
            init: codeOf(register.init),
            resetValue: register.reset === null ? 0n : codeOf(register.resetValue),
          }
        : one,
    );
    const signals = this.#target.signals.map((signal) =>
      signal.node === register.node && !signal.keep
        ? { ...signal, node: this.#register, width: this.#bits, lsb: 0, bitNames: this.#bitNames(signal.name) }
        : signal,
    );
    return { ...this.#target, registers, signals };
  }

  /** A bit that stands for a state is called by its value. */
  #bitNames(name: string): string[] {
    const { states } = this.#machine;
    return Array.from({ length: this.#bits }, (_, bit) =>
      this.#encoding === 'one-hot' ? `${name} = ${states[bit]}` : `bit ${bit} of the states of ${name}`,
    );
  }

  #replace(id: NodeId, by: NodeId): void {
    const { width } = item(this.#source.nodes, id);
    this.#target.nodes[id] = { op: 'wire', width, args: [by], name: '' };
  }

  /** A word that is told by the state alone, bit by bit. */
  #decoded(id: NodeId, values: readonly bigint[]): NodeId {
    const { width } = item(this.#source.nodes, id);
    return this.#build.concat(
      Array.from({ length: width }, (_, bit) =>
        this.#anyOf(values.map((value) => ((value >> BigInt(bit)) & 1n) === 1n)),
      ),
    );
  }

  /** Whether the state is one of those that are chosen. */
  #anyOf(chosen: readonly boolean[]): NodeId {
    const count = chosen.filter(Boolean).length;
    const isFew = count * 2 <= chosen.length;
    const zero = this.#build.constant(0n, 1);
    const sum = chosen
      .flatMap((is, i) => (is === isFew ? [item(this.#is, i)] : []))
      .reduce((x, y) => this.#build.or(x, y), zero);
    return isFew ? sum : this.#build.not(sum);
  }

  /** The new bits of a next value. What does not look at the state stays around what does. */
  #next(id: NodeId): NodeId {
    const build = this.#build;
    const state = this.#stateOf(id);
    if (state !== null) return build.constant(item(this.#codes, state), this.#bits);
    if (id === this.#machine.register.node) return this.#register;
    const node = item(this.#source.nodes, id);
    if (node.op === 'mux' && !this.#dependent.has(node.args[0]))
      return build.mux(node.args[0], this.#next(node.args[1]), this.#next(node.args[2]));
    // From each state by itself: what it asks for is much less than what all of them do.
    const targets = this.#machine.states.map((_, i) => this.#targets(id, i));
    const zero = build.constant(0n, 1);
    return build.concat(
      Array.from({ length: this.#bits }, (_, bit) =>
        targets
          .map((of, i) => {
            const one = build.constant(1n, 1);
            const goes = [...of]
              .filter(([to]) => ((item(this.#codes, to) >> BigInt(bit)) & 1n) === 1n)
              .map(([, when]) => when ?? one);
            return goes.length === 0
              ? zero
              : build.and(
                  item(this.#is, i),
                  goes.reduce((x, y) => build.or(x, y)),
                );
          })
          .reduce((x, y) => build.or(x, y), zero),
      ),
    );
  }

  /** States that a next value leads to from one, with when it does; null for always. */
  #targets(id: NodeId, from: number): Map<number, NodeId | null> {
    const build = this.#build;
    const alone = this.#alone.get(id)?.[from];
    const known = this.#stateOf(id) ?? (alone === undefined ? null : this.#machine.states.indexOf(alone));
    if (known !== null) return new Map([[known, null]]);
    const node = item(this.#source.nodes, id);
    if (node.op !== 'mux') {
      const word = this.#within(id, from);
      const isState = this.#machine.states.map((state) => build.eq(word, build.constant(state, node.width)));
      return new Map(isState.flatMap((when, to) => (build.constantOf(when) === 0n ? [] : [[to, when]])));
    }
    const condition = this.#within(node.args[0], from);
    const value = build.constantOf(condition);
    if (value !== null) return this.#targets(item(node.args, value === 0n ? 2 : 1), from);
    const sum = new Map<number, NodeId | null>();
    const one = build.constant(1n, 1);
    for (const [side, when] of [
      [node.args[1], condition],
      [node.args[2], build.not(condition)],
    ] as const)
      for (const [to, inside] of this.#targets(side, from)) {
        const way = build.and(when, inside ?? one);
        const before = sum.get(to);
        sum.set(to, before === undefined || before === null ? way : build.or(before, way));
      }
    const [only] = sum;
    return sum.size === 1 && only ? new Map([[only[0], null]]) : sum;
  }

  /** What a node is while the register is in one state. */
  #within(id: NodeId, state: number): NodeId {
    const known = item(this.#withinState, state).get(id);
    if (known !== undefined) return known;
    const made = this.#madeWithin(id, state);
    item(this.#withinState, state).set(id, made);
    return made;
  }

  #madeWithin(id: NodeId, state: number): NodeId {
    const build = this.#build;
    if (!this.#dependent.has(id)) return id;
    const alone = this.#alone.get(id)?.[state];
    const node = item(this.#source.nodes, id);
    if (alone !== undefined) return build.constant(alone, node.width);
    const args = node.args.map((arg) => this.#within(arg, state));
    const [a = id, b = id, c = id] = args;
    switch (node.op) {
      case 'and':
        return build.and(a, b);
      case 'or':
        return build.or(a, b);
      case 'not':
        return build.not(a);
      case 'mux':
        return build.mux(a, b, c);
      case 'eq':
        return build.eq(a, b);
      case 'slice':
        return build.slice(a, node.lo, node.width);
      case 'concat':
        return build.concat(args);
      case 'memread':
        return build.memoryRead(node.memory, node.width, a);
      default:
        return isLeaf(node) ? id : build.make(node.op, node.width, args);
    }
  }
}
