import { item } from '../../lists.ts';
import type { Memory, Netlist, NodeId } from '../../netlist/index.ts';

/** Choices one behind the other that are worth a look-up. */
const LEAST_CHOICES = 6;
/** Bits that choose: a table has a word for each of their values. */
const WIDEST_SUBJECT = 12;

/** Values of one choice, joined one by one. */
const DEEPEST = 256;

/** A row of choices by one word, each of a constant. */
interface Row {
  readonly subject: NodeId;
  readonly values: ReadonlyMap<bigint, bigint>;
  readonly otherwise: bigint;
}

/**
 * The same netlist in which a row of choices between constants by one word, as a `case` of constants makes it, is a
 * look-up in a memory that nobody writes. Nodes keep their numbers.
 */
export function withLookUps(source: Netlist): Netlist {
  const nodes = [...source.nodes];
  const memories: Memory[] = [...source.memories];
  // From the last to the first: a row is met at its head, and what it was made of is nobody's any more.
  const within = new Set<NodeId>();
  for (let id = source.nodes.length - 1; id >= 0; id--) {
    if (within.has(id)) continue;
    const row = rowAt(source, id, within);
    if (row === null) continue;
    const { width } = item(source.nodes, id);
    const depth = 1 << item(source.nodes, row.subject).width;
    const init = Array.from({ length: depth }, (_, value) => row.values.get(BigInt(value)) ?? row.otherwise);
    const memory = memories.push({ name: '', width, depth, init, writes: [] }) - 1;
    nodes[id] = { op: 'memread', width, args: [row.subject], memory };
  }
  return memories.length === source.memories.length ? source : { ...source, nodes, memories };
}

function rowAt({ nodes }: Netlist, head: NodeId, within: Set<NodeId>): Row | null {
  const values = new Map<bigint, bigint>();
  const path: NodeId[] = [];
  let subject: NodeId | null = null;
  let at = head;
  for (let node = item(nodes, at); node.op === 'mux'; node = item(nodes, at)) {
    const [condition, then, otherwise] = node.args;
    const chosen = item(nodes, then);
    const asked = askedOf(nodes, condition);
    if (chosen.op !== 'const' || asked === null || (subject !== null && asked.subject !== subject)) break;
    ({ subject } = asked);
    // The first choice that holds is taken.
    for (const value of asked.values) if (!values.has(value)) values.set(value, chosen.value);
    path.push(at);
    at = otherwise;
  }
  // What is no row as a whole is none from any later choice on.
  for (const id of path.slice(1)) within.add(id);
  if (subject === null || path.length < LEAST_CHOICES) return null;
  const { width } = item(nodes, subject);
  if (width > WIDEST_SUBJECT) return null;
  const rest = item(nodes, at);
  const isWhole = values.size === 1 << width;
  if (rest.op !== 'const' && !isWhole) return null;
  return { subject, values, otherwise: rest.op === 'const' ? rest.value : 0n };
}

/** The word that a condition compares with one constant, or with one of several. */
function askedOf(
  nodes: Netlist['nodes'],
  condition: NodeId,
  depth = 0,
): { readonly subject: NodeId; readonly values: readonly bigint[] } | null {
  const node = item(nodes, condition);
  if (node.op === 'or' && node.width === 1) {
    if (depth > DEEPEST) return null;
    const [x, y] = [askedOf(nodes, node.args[0], depth + 1), askedOf(nodes, node.args[1], depth + 1)];
    return x && y && x.subject === y.subject ? { subject: x.subject, values: [...x.values, ...y.values] } : null;
  }
  if (node.op !== 'eq') return null;
  const [a, b] = node.args;
  const [first, second] = [item(nodes, a), item(nodes, b)];
  if (second.op === 'const') return { subject: a, values: [second.value] };
  return first.op === 'const' ? { subject: b, values: [first.value] } : null;
}
