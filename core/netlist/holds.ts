import { item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { narrow } from './narrow.ts';
import type { Netlist, NodeId } from './types.ts';

/** Choices looked at in the next value of one register. */
const MOST_CHOICES = 64;
/** Registers narrower than this are as well off with one more input for each bit. */
const LEAST_BITS = 3;

/** When a register takes a new value, and which; no value where it never does. */
interface Taken {
  readonly enable: NodeId;
  readonly data: NodeId | null;
}

/**
 * The next value of a register as one choice between a new value and what it holds, where its holding is spread over
 * several choices: a flip-flop has a pin for that. A reset around everything stays around it.
 */
function held(build: NetBuilder, register: NodeId, next: NodeId): NodeId {
  const node = build.node(next);
  if (build.width(register) < LEAST_BITS || node.op !== 'mux') return next;
  const [condition, then, otherwise] = node.args;
  // A flip-flop has one pin for a reset: what is inside it is looked at, what is a reset in there again is not.
  if (build.constantOf(then) !== null) return build.mux(condition, then, gathered(build, register, otherwise));
  if (build.constantOf(otherwise) !== null) return build.mux(condition, gathered(build, register, then), otherwise);
  return gathered(build, register, next);
}

/** All holds of a row of choices as one. */
function gathered(build: NetBuilder, register: NodeId, next: NodeId): NodeId {
  const node = build.node(next);
  if (node.op !== 'mux') return next;
  const [, then, otherwise] = node.args;
  let left = MOST_CHOICES;
  let holds = 0;
  const always: Taken = { enable: build.constant(1n, 1), data: null };
  const split = (id: NodeId): Taken => {
    if (id === register) {
      holds++;
      return { enable: build.constant(0n, 1), data: null };
    }
    const at = build.node(id);
    if (at.op !== 'mux' || --left < 0) return { ...always, data: id };
    const before = holds;
    const [yes, no] = [split(item(at.args, 1)), split(item(at.args, 2))];
    // Without a hold in it a choice stays as it is.
    if (holds === before) return { ...always, data: id };
    const enable = build.mux(at.args[0], yes.enable, no.enable);
    if (yes.data === null || no.data === null) return { enable, data: yes.data ?? no.data };
    return { enable, data: build.mux(at.args[0], yes.data, no.data) };
  };
  const { enable, data } = split(next);
  // One hold at the top is where it belongs.
  if (holds === 0 || data === null || (holds === 1 && (then === register || otherwise === register))) return next;
  return build.mux(enable, data, register);
}

/** An optimised netlist in which each bit of a word counts, not machine words. */
export const inBits = (optimised: Netlist): Netlist => narrow(optimised).netlist;

/**
 * An optimised netlist as it is mapped: in bits, each register with its holding in one place, choices between sums as
 * sums of choices. To be run it is better without: what stands under several conditions is not computed while the first
 * of them does not hold.
 */
export function forMapping(optimised: Netlist): Netlist {
  const source = inBits(optimised);
  const target: Netlist = { ...source, nodes: [...source.nodes], origins: [...source.origins] };
  const build = new NetBuilder(target);
  const registers = source.registers.map((register) => {
    build.origin = source.origins[register.d] ?? source.origins[register.node];
    return { ...register, d: held(build, register.node, register.d) };
  });
  return narrow({ ...target, registers }, { ranges: new Map(), sharesSums: true }).netlist;
}
