import type { Messages } from '../hdl/index.ts';
import { item } from '../lists.ts';
import { clockNameOf, madeClocks, type Netlist, type NodeId, type Register } from '../netlist/index.ts';
import { loaded } from './loaded.ts';
import { type NetNames, piecesOf } from './names.ts';

/** How the value of one register gets to a register of another clock. */
interface Crossing {
  readonly from: NodeId;
  readonly to: Register;
  /** Bit of the source, where one is taken directly. */
  readonly bit: number;
  readonly kind: 'synchronised' | 'single' | 'logic' | 'bus' | 'qualified' | 'reset';
}

/**
 * Clock-domain crossings. A register that looks at another clock's register may see it while it changes: one bit is
 * then settled by two registers in a row (common practice); several bits that cross side by side are seen torn.
 */
export function checkCrossings(netlist: Netlist, names: NetNames, messages: Messages): void {
  const sources = new ClockSources(netlist);
  const readers = countReaders(netlist);
  const crossings = netlist.registers.flatMap((to) => crossingsInto(netlist, sources, readers, to));
  const groups = new Map<string, Crossing[]>();
  for (const crossing of crossings) {
    const key = `${crossing.kind}:${crossing.from}:${names.of(crossing.to.node)}`;
    groups.set(key, [...(groups.get(key) ?? []), crossing]);
  }
  for (const group of groups.values()) {
    const [first] = group as [Crossing];
    // Bits of one word that are taken one by one are a bus all the same.
    const several =
      new Set(group.map((crossing) => crossing.bit)).size > 1 &&
      (first.kind === 'single' || first.kind === 'synchronised');
    report(netlist, names, messages, several ? { ...first, kind: 'bus' } : first, sources);
  }
}

function report(
  netlist: Netlist,
  names: NetNames,
  messages: Messages,
  { from, to, kind }: Crossing,
  sources: ClockSources,
): void {
  const [a, b] = [names.of(from), names.of(to.node)];
  const [ca, cb] = [sources.name(from), sources.name(to.node)];
  const trail = {
    trail: [
      { name: `${a} (clock ${ca})`, ...names.place(from) },
      { name: `${b} (clock ${cb})`, ...names.place(to.node) },
    ],
  };
  const at = names.place(to.node);
  const width = item(netlist.nodes, from).width;
  switch (kind) {
    case 'synchronised':
      return messages.add(
        'info',
        'crossing-synchronised',
        at,
        `"${a}" of clock ${ca} is brought to clock ${cb} through two registers, "${b}" being the first.`,
        trail,
      );
    case 'single':
      return messages.add(
        'serious',
        'crossing-unsynchronised',
        at,
        `"${b}" (clock ${cb}) takes "${a}" of clock ${ca} directly, and its value is used at once. Now and then ` +
          'it will be caught in the middle of a change.',
        trail,
      );
    case 'logic':
      return messages.add(
        'serious',
        'crossing-logic',
        at,
        `"${b}" (clock ${cb}) is computed from "${a}" of clock ${ca}. Logic before a synchroniser passes on ` +
          'values that were never meant.',
        trail,
      );
    case 'bus':
      return messages.add(
        'serious',
        'crossing-bus',
        at,
        `The ${width} bits of "${a}" (clock ${ca}) cross to clock ${cb} into "${b}" bit by bit. Bits that change ` +
          'together may arrive a clock apart, so a value appears that never was.',
        trail,
      );
    case 'qualified':
      return messages.add(
        'info',
        'crossing-qualified',
        at,
        `"${b}" (clock ${cb}) takes "${a}" of clock ${ca} only while a signal of its own clock allows it. That ` +
          `is right if "${a}" stands still then.`,
        trail,
      );
    case 'reset':
      return messages.add(
        'warning',
        'crossing-reset',
        at,
        `"${b}" (clock ${cb}) is reset by "${a}" of clock ${ca}. Its registers may leave reset in different clocks.`,
        trail,
      );
  }
}

function crossingsInto(
  netlist: Netlist,
  sources: ClockSources,
  readers: ReadonlyMap<NodeId, number>,
  to: Register,
): Crossing[] {
  const found: Crossing[] = [];
  const foreign = (id: NodeId) => [...sources.of(id)].filter((register) => !sources.keepStep(register, to));
  if (to.reset !== null) for (const from of foreign(to.reset)) found.push({ from, to, bit: 0, kind: 'reset' });
  const { inner, controls } = loaded(netlist, to);
  const direct = new Map(piecesOf(netlist, inner).map((piece) => [piece.node, piece]));
  const gated = controls.length > 0 && controls.every((control) => foreign(control).length === 0);
  for (const from of new Set([...foreign(inner), ...controls.flatMap(foreign)])) {
    const piece = direct.get(from);
    const asControl = controls.some((control) => sources.of(control).has(from));
    if (!piece || asControl || derives(netlist, inner, from))
      found.push({ from, to, bit: 0, kind: gated && !asControl ? 'qualified' : 'logic' });
    else if (gated) found.push({ from, to, bit: 0, kind: 'qualified' });
    else if (piece.width > 1) found.push({ from, to, bit: 0, kind: 'bus' });
    else
      found.push({
        from,
        to,
        bit: piece.lo,
        kind: secondStage(netlist, to, piece.node, readers) ? 'synchronised' : 'single',
      });
  }
  return found;
}

/** True where the value also goes through logic, besides being taken directly. */
function derives(netlist: Netlist, inner: NodeId, from: NodeId): boolean {
  return piecesOf(netlist, inner).some((piece) => piece.node !== from && reaches(netlist, piece.node, from));
}

function reaches(netlist: Netlist, id: NodeId, wanted: NodeId): boolean {
  const seen = new Set<NodeId>();
  const open = [...item(netlist.nodes, id).args];
  if (item(netlist.nodes, id).op === 'reg') return false;
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    if (at === wanted) return true;
    if (seen.has(at)) continue;
    seen.add(at);
    const { op, args } = item(netlist.nodes, at);
    if (op !== 'reg') open.push(...args);
  }
  return false;
}

/**
 * The bit that takes the foreign value goes straight into one more register of the same clock, and nowhere else. Both
 * may be bits of one word, as in `sync <= {sync[0], noisy}`.
 */
function secondStage(netlist: Netlist, to: Register, from: NodeId, readers: ReadonlyMap<NodeId, number>): boolean {
  let lo = 0;
  for (const piece of piecesOf(netlist, loaded(netlist, to).inner)) {
    if (piece.node === from) break;
    lo += piece.width;
  }
  const takes = (register: Register): boolean =>
    register.clock === to.clock &&
    piecesOf(netlist, loaded(netlist, register).inner).some(
      (piece) => piece.node === to.node && piece.lo <= lo && lo < piece.lo + piece.width,
    );
  const next = netlist.registers.filter(takes);
  if (next.length !== 1) return false;
  const { width } = item(netlist.nodes, to.node);
  return width > 1 || (readers.get(to.node) ?? 0) <= 1;
}

/** How many nodes and registers read each node; what is only there to have a name does not count. */
function countReaders(netlist: Netlist): ReadonlyMap<NodeId, number> {
  const readers = new Map<NodeId, number>();
  const open: NodeId[] = [];
  const read = (id: NodeId) => {
    readers.set(id, (readers.get(id) ?? 0) + 1);
    open.push(id);
  };
  for (const { d, node, reset, load } of netlist.registers)
    for (const id of [d, reset, load]) if (id !== null && id !== node) read(id);
  for (const { node } of netlist.outputs) read(node);
  for (const { writes } of netlist.memories)
    for (const { enable, address, data } of writes) for (const id of [enable, address, data]) read(id);
  const seen = new Set<NodeId>();
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id)) continue;
    seen.add(id);
    for (const arg of new Set(item(netlist.nodes, id).args)) read(arg);
  }
  return readers;
}

/** For each node the registers it depends on without another register between. */
class ClockSources {
  readonly #of: ReadonlySet<NodeId>[] = [];
  readonly #clock = new Map<NodeId, NodeId>();
  readonly #names = new Map<NodeId, string>();
  readonly #made: ReadonlyMap<NodeId, NodeId>;

  constructor(netlist: Netlist) {
    const none: ReadonlySet<NodeId> = new Set();
    this.#made = madeClocks(netlist);
    for (const { node, clock } of netlist.registers) {
      this.#clock.set(node, clock);
      this.#names.set(
        node,
        clockNameOf(netlist.nodes[clock]) ??
          netlist.signals.find((signal) => signal.node === clock)?.name ??
          'made by logic',
      );
    }
    const clocks = new Set(this.#clock.values());
    const several = clocks.size > 1;
    for (const [id, { op, args }] of netlist.nodes.entries()) {
      if (op === 'reg') this.#of[id] = new Set([id]);
      else if (!several || op === 'memread') this.#of[id] = none;
      else {
        const inner = args.map((arg) => this.#of[arg] ?? none).filter((set) => set.size > 0);
        this.#of[id] =
          inner.length === 0
            ? none
            : inner.every((set) => set === inner[0])
              ? (inner[0] as ReadonlySet<NodeId>)
              : new Set(inner.flatMap((set) => [...set]));
      }
    }
  }

  of(id: NodeId): ReadonlySet<NodeId> {
    return this.#of[id] ?? new Set();
  }

  /** Of one clock, or of such as are made of one: the time between their edges is known, and looked at by timing. */
  keepStep(register: NodeId, to: Register): boolean {
    const clock = this.#clock.get(register) ?? -1;
    return (this.#made.get(clock) ?? clock) === (this.#made.get(to.clock) ?? to.clock);
  }

  name(register: NodeId): string {
    return this.#names.get(register) ?? '?';
  }
}
