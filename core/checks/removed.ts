import type { Messages } from '../hdl/index.ts';
import { item } from '../lists.ts';
import type { Netlist, NetNode, Signal } from '../netlist/index.ts';
import { some } from './clocks.ts';

/**
 * Declared signals that optimisation left nothing of, and why: nobody reads them, what reads them reaches no output, or
 * they never change. Said once for each declaration, and only where it holds in every instance.
 */
export function checkRemoved(whole: Netlist, small: Netlist, messages: Messages): void {
  const kept = new Map(small.signals.map((signal) => [signal.name, signal]));
  const read = readNodes(whole);
  const groups = new Map<string, Signal[]>();
  for (const signal of whole.signals) {
    const key = `${signal.at.file}:${signal.at.line}:${signal.at.column}`;
    const group = groups.get(key);
    if (group) group.push(signal);
    else groups.set(key, [signal]);
  }
  for (const signals of groups.values()) {
    const [first] = signals as [Signal];
    const name = first.name.slice(first.name.lastIndexOf('.') + 1);
    if (
      first.keep ||
      signals.some((signal) => signal.free || isConstant(whole, signal.node)) ||
      (first.kind === 'output' && signals.every((signal) => !read.has(signal.node)))
    )
      continue;
    const where =
      signals.length > 1
        ? ` in any of its ${signals.length} instances (${some(signals.map((signal) => signal.name))})`
        : '';
    if (signals.every((signal) => !read.has(signal.node)))
      messages.add('info', 'unused', first.at, `Nothing reads "${name}"${where}.`);
    else if (signals.every((signal) => !kept.has(signal.name)))
      messages.add(
        'info',
        'removed',
        first.at,
        `Optimisation removed "${name}"${where}: what reads it reaches no output.`,
        keepFix(first),
      );
    else if (first.kind === 'reg') {
      const fixed = signals.map((signal) => constantOf(small, kept.get(signal.name)));
      const [value] = fixed;
      if (value !== null && value !== undefined && fixed.every((other) => other === value))
        messages.add(
          'warning',
          'never-changes',
          first.at,
          `"${name}"${where} is always ${value} and needs no register. Perhaps its enable or its clock is missing.`,
        );
    }
  }
}

/** Why optimisation left nothing of a signal: nobody reads it, or what reads it reaches no output. */
export type Removal = 'unread' | 'unseen';

/**
 * For each signal of the whole design, why it is not in the small one; null where it is, or where it was never driven.
 */
export function removalsOf(whole: Netlist, small: Netlist): (signal: Signal) => Removal | null {
  const kept = new Set(small.signals.map(({ name }) => name));
  const read = readNodes(whole);
  return ({ name, free, node }) => (free || kept.has(name) ? null : read.has(node) ? 'unseen' : 'unread');
}

/** The source itself gives it one value for ever. Wires that only go round give none. */
function isConstant(whole: Netlist, from: number): boolean {
  const seen = new Set<number>();
  for (let id: number | undefined = from; id !== undefined && !seen.has(id); ) {
    seen.add(id);
    const { op, args }: NetNode = item(whole.nodes, id);
    if (op !== 'wire') return op === 'const';
    id = args[0];
  }
  return false;
}

/** `keep` before the declaration holds the signal for probes. */
function keepFix({ at }: Signal): {
  fix: {
    kind: 'insert';
    label: string;
    insertions: readonly { file: string; line: number; column: number; insert: string }[];
  };
} {
  return {
    fix: {
      kind: 'insert',
      label: 'Keep it: mark its declaration with (* keep *)',
      insertions: [{ file: at.file, line: at.line, column: 0, insert: '(* keep *) ' }],
    },
  };
}

function constantOf(small: Netlist, signal: Signal | undefined): bigint | null {
  const node = signal && item(small.nodes, signal.node);
  return node?.op === 'const' ? (node.value ?? null) : null;
}

/** Nodes that something takes: an operation, a register, a memory or an output. */
function readNodes(netlist: Netlist): ReadonlySet<number> {
  const read = new Set<number>();
  for (const { args } of netlist.nodes) for (const arg of args) read.add(arg);
  for (const { clock, d, reset, load } of netlist.registers)
    for (const id of [clock, d, reset, load]) if (id !== null) read.add(id);
  for (const { writes } of netlist.memories)
    for (const { clock, enable, address, data } of writes)
      for (const id of [clock, enable, address, data]) read.add(id);
  for (const { node, enable } of netlist.outputs)
    for (const id of enable === undefined ? [node] : [node, enable]) read.add(id);
  return read;
}
