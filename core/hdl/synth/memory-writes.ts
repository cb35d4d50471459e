import { item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import { assignedParts } from './behaviour.ts';
import { type ClockedStore, type Shared, memoryIndex } from './shared.ts';

/**
 * Makes write ports of the stores of all clocked blocks. Several stores to one word at one edge are joined bit by bit:
 * what a later one leaves as it is, is what the earlier ones made of it, and where both write a bit the later statement
 * or block wins.
 *
 * @source IEEE 1364-2005, clause 9.2.2: non-blocking assignments of one time are carried out in the order of the
 * statements; between blocks the standard leaves the order open, and that of the source is taken
 */
export function finishStores(shared: Shared): void {
  const { build } = shared;
  const byMemory = new Map<number, ClockedStore[]>();
  for (const store of shared.stores)
    byMemory.set(memoryIndex(shared, store.memory), [
      ...(byMemory.get(memoryIndex(shared, store.memory)) ?? []),
      store,
    ]);
  for (const [memory, stores] of byMemory) {
    tellOrder(shared, stores);
    for (const port of portsOf(shared, stores)) {
      const { width } = build.netlist.memories[memory] ?? { width: 1 };
      build.netlist.memories[memory]?.writes.push({
        clock: port.clock.node,
        edge: port.clock.edge,
        enable: port.condition,
        address: port.address,
        data: build.resize(port.data, width, false),
      });
    }
  }
}

type Port = Pick<ClockedStore, 'clock' | 'condition' | 'address' | 'data'>;

const isOneEdge = (a: ClockedStore | Port, b: ClockedStore | Port): boolean =>
  a.clock.node === b.clock.node && a.clock.edge === b.clock.edge;

/**
 * Ports in the order in which they write; stores of other blocks at the same address share one, so that it needs no
 * more than a hardware port has.
 */
function portsOf(shared: Shared, stores: readonly ClockedStore[]): Port[] {
  const { build } = shared;
  const ports: Port[] = [];
  const before: ClockedStore[] = [];
  for (const store of stores) {
    const others = before.filter((one) => one.block !== store.block && isOneEdge(one, store));
    const last = ports.at(-1);
    const isShared =
      last &&
      others.length > 0 &&
      before.at(-1)?.block !== store.block &&
      last.address === store.address &&
      isOneEdge(last, store);
    if (store.base !== null && others.length > 0) build.node(store.base).args = [wordAfter(shared, others, store)];
    if (isShared) {
      ports[ports.length - 1] = {
        clock: store.clock,
        condition: build.or(last.condition, store.condition),
        address: store.address,
        data: build.mux(store.condition, store.data, last.data),
      };
    } else ports.push(store);
    before.push(store);
  }
  return ports;
}

/** The word at a store's address as earlier stores of other blocks leave it. */
function wordAfter(shared: Shared, earlier: readonly ClockedStore[], { memory, address }: ClockedStore): NodeId {
  const { build } = shared;
  return earlier.reduce(
    (word, one) => {
      const width = Math.max(build.width(address), build.width(one.address));
      const same = build.eq(build.resize(address, width, false), build.resize(one.address, width, false));
      return build.mux(build.and(one.condition, same), one.data, word);
    },
    build.memoryRead(memoryIndex(shared, memory), memory.width, address),
  );
}

/** Says where the order of blocks decides what a word becomes, and where two clocks write parts of one word. */
function tellOrder(shared: Shared, stores: readonly ClockedStore[]): void {
  const told = new Set<string>();
  for (const [i, later] of stores.entries())
    for (const earlier of stores.slice(0, i)) {
      const key = `${earlier.block} ${later.block}`;
      if (earlier.block === later.block || told.has(key) || exclusive(shared, earlier, later)) continue;
      const { name } = later.memory;
      if (!isOneEdge(earlier, later)) {
        if (later.base === null && earlier.base === null) continue;
        shared.messages.warning(
          'memory-clocks',
          later.at,
          `Parts of one word of "${name}" are written under another clock in line ${earlier.at.line}. Where both ` +
            'clocks tick at once, only one of the two is kept. Write all parts under one clock.',
        );
      } else if (overlap(shared, earlier, later))
        shared.messages.add(
          'info',
          'memory-order',
          later.at,
          'Where this and line ' +
            `${earlier.at.line}${earlier.at.file === later.at.file ? '' : ` of ${earlier.at.file}`} write the same ` +
            `bits of one word of "${name}" at one edge, this one wins: it stands later in the source. The standard ` +
            'leaves that order open.',
        );
      else continue;
      told.add(key);
    }
}

/** Whether two stores may write a bit in common. */
function overlap(shared: Shared, a: ClockedStore, b: ClockedStore): boolean {
  const bitsOf = ({ data, base }: ClockedStore) => assignedParts(shared, data, base ?? undefined);
  return bitsOf(a).some((one) =>
    bitsOf(b).some((other) => one.lo < other.lo + other.width && other.lo < one.lo + one.width),
  );
}

/**
 * Whether two stores can be seen never to meet: their addresses are constants apart, or one's condition denies what the
 * other's needs.
 */
function exclusive({ build }: Shared, a: ClockedStore, b: ClockedStore): boolean {
  const [one, other] = [build.constantOf(a.address), build.constantOf(b.address)];
  if (one !== null && other !== null && one !== other) return true;
  const needs = needsOf(build, a.condition);
  return needsOf(build, b.condition).some((need) =>
    needs.some(
      (mine) =>
        (mine.node === need.node && mine.is !== need.is) ||
        (mine.word !== null && mine.word === need.word && mine.value !== need.value && mine.is && need.is),
    ),
  );
}

/** One thing a condition needs: a node to be 1, or 0; where it compares a word with a constant, which. */
interface Need {
  readonly node: NodeId;
  readonly is: boolean;
  readonly word: NodeId | null;
  readonly value: bigint | null;
}

function needsOf(build: Shared['build'], condition: NodeId): Need[] {
  const { op, args } = build.node(condition);
  if (op === 'and' && build.width(condition) === 1) return args.flatMap((arg) => needsOf(build, arg));
  if (op === 'not')
    return needsOf(build, item(args, 0)).length === 1
      ? needsOf(build, item(args, 0)).map((need) => ({ ...need, is: !need.is }))
      : [{ node: item(args, 0), is: false, word: null, value: null }];
  if (op === 'eq') {
    const [left, right] = args as [NodeId, NodeId];
    const [a, b] = [build.constantOf(left), build.constantOf(right)];
    if ((a === null) !== (b === null))
      return [{ node: condition, is: true, word: a === null ? left : right, value: a ?? b }];
  }
  return [{ node: condition, is: true, word: null, value: null }];
}
