import { floatAt, item, numberAt } from '../../lists.ts';
import { type Literal, nodeOf } from '../gates/index.ts';
import { reduced } from './cuts.ts';
import { arrivalsOf, cellWith, chainArrivals, chainInputs, LEVEL, NODE, SHORT_WAY, type TableNet } from './net.ts';

/** Tables looked at that are there for one alone. */
const MOST_ALONE = 32;

/** Chains among those that take a node: below zero, the first one -1. */
const chainUser = (chain: number): number => -1 - chain;

/** Tables of a piece while they are changed: who takes each, when each is there and when it has to be. */
export class TableGraph {
  readonly net: TableNet;
  /** Tables and chains that take a node, once for each time. */
  readonly users: number[][] = [];
  readonly rootUses: number[] = [];
  readonly arrival: number[] = [];
  readonly required: number[] = [];

  constructor(net: TableNet) {
    this.net = net;
    this.refresh();
  }

  /** Everything anew; what no root needs is gone. */
  refresh(): number[] {
    const { net } = this;
    const order = net.ordered();
    const count = net.kind.length;
    for (let node = 0; node < count; node++) {
      this.users[node] = [];
      this.rootUses[node] = 0;
    }
    const chains = new Set<number>();
    for (const node of order)
      if (net.kind[node] === NODE.table) for (const input of item(net.inputs, node)) item(this.users, input).push(node);
      else chains.add(numberAt(net.chainOf, node));
    for (const chain of chains)
      for (const input of chainInputs(item(net.chains, chain))) item(this.users, input).push(chainUser(chain));
    for (const root of net.roots) this.rootUses[nodeOf(root)] = (this.rootUses[nodeOf(root)] ?? 0) + 1;
    const arrival = arrivalsOf(net, order);
    for (let node = 0; node < count; node++) this.arrival[node] = floatAt(arrival, node);
    this.#require(order);
    return order;
  }

  uses(node: number): number {
    return item(this.users, node).length + numberAt(this.rootUses, node);
  }

  isTable(node: number): boolean {
    return this.net.kind[node] === NODE.table;
  }

  inputs(node: number): readonly number[] {
    return item(this.net.inputs, node);
  }

  /** A table and those that are there for it alone, the nearest of them. */
  cone(node: number): number[] {
    const left = new Map<number, number>();
    const found = [node];
    for (const at of found) {
      if (found.length >= MOST_ALONE) break;
      for (const input of this.inputs(at)) {
        if (!this.isTable(input)) continue;
        const uses = (left.get(input) ?? this.uses(input)) - 1;
        left.set(input, uses);
        if (uses === 0) found.push(input);
      }
    }
    return found;
  }

  /** Tables that go when a table takes others, less those that stay for these. */
  saved(node: number, inputs: readonly number[]): number {
    const cone = new Set(this.cone(node));
    const kept = new Set<number>();
    const keep = (at: number) => {
      if (!cone.has(at) || kept.has(at)) return;
      kept.add(at);
      for (const input of this.inputs(at)) keep(input);
    };
    for (const input of inputs) keep(input);
    return cone.size - 1 - kept.size;
  }

  /** When a table of such inputs would be there. */
  above(inputs: readonly number[]): number {
    let latest = 0;
    for (const input of inputs) latest = Math.max(latest, numberAt(this.arrival, input));
    return inputs.length > 1 ? latest + LEVEL.table : latest;
  }

  add(inputs: readonly number[], truth: number, madeFor: number): number {
    const node = this.net.put(NODE.table, inputs, truth, madeFor);
    this.users[node] = [];
    this.rootUses[node] = 0;
    this.arrival[node] = this.above(inputs);
    this.required[node] = Number.POSITIVE_INFINITY;
    for (const input of inputs) item(this.users, input).push(node);
    return node;
  }

  /** Makes a table another function of other nodes; what is not needed any more goes. */
  change(node: number, leaves: readonly number[], function_: number): void {
    const { leaves: inputs, truth } = reduced(leaves, function_);
    if (inputs.length < 2) {
      this.replace(node, inputs.length === 0 ? truth & 1 : numberAt(inputs, 0) * 2 + (truth & 1));
      return;
    }
    const old = this.inputs(node);
    this.net.inputs[node] = inputs;
    this.net.truth[node] = truth;
    for (const input of inputs) item(this.users, input).push(node);
    for (const input of old) this.#leave(input, node);
    this.#need(inputs, numberAt(this.required, node) - LEVEL.table);
    this.#settle([node]);
  }

  /** Puts a signal, as it is or turned round, in the place of a table everywhere. */
  replace(node: number, by: Literal): void {
    const to = nodeOf(by);
    const slight: number[] = [];
    for (const user of new Set(item(this.users, node))) {
      if (user < 0) this.#changeChain(-1 - user, node, by);
      else {
        const { inputs, truth } = withInput(this.inputs(user), numberAt(this.net.truth, user), node, by);
        this.users[node] = item(this.users, node).filter((other) => other !== user);
        const slim = reduced(inputs, truth);
        // An input given to both places at once has one place left.
        const others = this.inputs(user).filter((input) => input !== node);
        this.net.inputs[user] = slim.leaves;
        this.net.truth[user] = slim.truth;
        for (const input of others) this.#unuse(input, user);
        for (const input of slim.leaves) item(this.users, input).push(user);
        for (const input of others) if (this.uses(input) === 0) this.#remove(input);
        if (slim.leaves.length < 2) slight.push(user);
      }
    }
    this.net.roots = this.net.roots.map((root) => (nodeOf(root) === node ? by ^ (root & 1) : root));
    this.rootUses[to] = numberAt(this.rootUses, to) + numberAt(this.rootUses, node);
    this.rootUses[node] = 0;
    this.#need([to], numberAt(this.required, node));
    const after = [...item(this.users, to)];
    if (this.uses(node) === 0) this.#remove(node);
    this.#settle(after);
    for (const user of slight)
      if (this.isTable(user)) {
        const truth = numberAt(this.net.truth, user) & 1;
        const [input] = this.inputs(user);
        this.replace(user, input === undefined ? truth : input * 2 + truth);
      }
  }

  #changeChain(index: number, node: number, by: Literal): void {
    const chain = item(this.net.chains, index);
    const old = chainInputs(chain);
    for (const [i, cell] of chain.cells.entries())
      if (cell.inputs.includes(node)) chain.cells[i] = cellWith(cell, node, by);
    if (nodeOf(chain.carryIn) === node) chain.carryIn = by ^ (chain.carryIn & 1);
    for (const input of old) this.#unuse(input, chainUser(index));
    for (const input of chainInputs(chain)) item(this.users, input).push(chainUser(index));
  }

  #unuse(input: number, user: number): void {
    const users = item(this.users, input);
    const at = users.indexOf(user);
    if (at >= 0) users.splice(at, 1);
  }

  #leave(input: number, user: number): void {
    this.#unuse(input, user);
    if (this.uses(input) === 0) this.#remove(input);
  }

  /** Takes out a table that nobody takes, and what was there for it. */
  #remove(node: number): void {
    const open = [node];
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      if (!this.isTable(at)) continue;
      this.net.kind[at] = NODE.none;
      for (const input of this.inputs(at)) {
        this.#unuse(input, at);
        if (this.uses(input) === 0) open.push(input);
      }
    }
  }

  /** Nodes that are there later or sooner now, from some tables and chains on. */
  #settle(users: Iterable<number>): void {
    const open = [...users];
    for (let user = open.pop(); user !== undefined; user = open.pop())
      for (const node of user < 0 ? this.#settleChain(-1 - user) : this.#settleTable(user))
        open.push(...new Set(item(this.users, node)));
  }

  #settleTable(node: number): number[] {
    const at = this.above(this.inputs(node));
    if (at === this.arrival[node]) return [];
    this.arrival[node] = at;
    return [node];
  }

  #settleChain(index: number): number[] {
    const chain = item(this.net.chains, index);
    const outputs = [...chain.sums, chain.out].filter((node) => node >= 0);
    const before = outputs.map((node) => numberAt(this.arrival, node));
    chainArrivals(chain, this.arrival);
    return outputs.filter((node, i) => before[i] !== this.arrival[node]);
  }

  /** Nodes have to be there by a time, and so what they are made of. */
  #need(nodes: readonly number[], time: number): void {
    const open = nodes.map((node) => ({ node, time }));
    for (let one = open.pop(); one; one = open.pop()) {
      const { node, time: by } = one;
      if (numberAt(this.required, node) <= by) continue;
      this.required[node] = by;
      if (this.isTable(node)) for (const input of this.inputs(node)) open.push({ node: input, time: by - LEVEL.table });
      else if (this.net.kind[node] === NODE.chain) open.push(...this.#neededOf(numberAt(this.net.chainOf, node)));
    }
  }

  /** When the inputs of a chain have to be there. */
  #neededOf(index: number): { node: number; time: number }[] {
    const { cells, sums, out, carryIn } = item(this.net.chains, index);
    const needed: { node: number; time: number }[] = [];
    let time = out < 0 ? Number.POSITIVE_INFINITY : numberAt(this.required, out) - LEVEL.chainEnd;
    for (let i = cells.length - 1; i >= 0; i--) {
      const sum = numberAt(sums, i);
      if (sum >= 0) time = Math.min(time, numberAt(this.required, sum) - LEVEL.chainEnd);
      for (const node of item(cells, i).inputs) needed.push({ node, time: time - LEVEL.table });
      time -= LEVEL.carry;
    }
    needed.push({ node: nodeOf(carryIn), time: time - LEVEL.table });
    return needed;
  }

  #require(order: readonly number[]): void {
    for (let node = 0; node < this.net.kind.length; node++) this.required[node] = Number.POSITIVE_INFINITY;
    let latest = SHORT_WAY;
    for (const root of this.net.roots) latest = Math.max(latest, numberAt(this.arrival, nodeOf(root)));
    for (const root of this.net.roots) this.required[nodeOf(root)] = latest;
    for (let i = order.length - 1; i >= 0; i--) {
      const node = numberAt(order, i);
      const time = numberAt(this.required, node);
      if (this.isTable(node)) {
        for (const input of this.inputs(node))
          this.required[input] = Math.min(numberAt(this.required, input), time - LEVEL.table);
      } else
        for (const { node: input, time: by } of this.#neededOf(numberAt(this.net.chainOf, node)))
          this.required[input] = Math.min(numberAt(this.required, input), by);
    }
  }
}

/** A table with a signal in the place of one of its inputs. */
function withInput(
  inputs: readonly number[],
  truth: number,
  from: number,
  by: Literal,
): { inputs: number[]; truth: number } {
  const to = nodeOf(by);
  const next = [...new Set(inputs.map((input) => (input === from ? to : input)))].filter((input) => input !== 0);
  let out = 0;
  for (let row = 0; row < 16; row++) {
    let at = 0;
    for (const [k, input] of inputs.entries()) {
      const node = input === from ? to : input;
      const value = node === 0 ? 0 : (row >> next.indexOf(node)) & 1;
      at |= (value ^ (input === from ? by & 1 : 0)) << k;
    }
    out |= ((truth >> at) & 1) << row;
  }
  return { inputs: next, truth: out };
}
