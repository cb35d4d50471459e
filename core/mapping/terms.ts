import { item } from '../lists.ts';
import { allKnown, type Known, lowOf, type Netlist, type NetNode, type NodeId, usesIn } from '../netlist/index.ts';

/** What each sum is a sum of; nothing for one that is only part of another. */
export function termsOf(source: Netlist): ReadonlyMap<NodeId, readonly NodeId[]> {
  const uses = usesIn(source);
  const terms = new Map<NodeId, readonly NodeId[]>();
  const known = allKnown(source, new Map());
  /** The sum that a word is, with zeros above it or without, where nothing else takes it. */
  const innerOf = (id: NodeId, width: number): NodeId | null => {
    const node = item(source.nodes, id);
    if (uses[id] !== 1) return null;
    if (node.op === 'add') return node.width === width || isExact(known, node) ? id : null;
    const low = lowOf(source.nodes, id);
    return low === null ? null : innerOf(low, width);
  };
  for (const [id, node] of source.nodes.entries()) {
    if (node.op !== 'add') continue;
    terms.set(
      id,
      node.args.flatMap((arg) => {
        const at = innerOf(arg, node.width);
        const inner = at === null ? undefined : terms.get(at);
        if (at === null || !inner) return [arg];
        for (let gone = arg; ; gone = item<NodeId>(item(source.nodes, gone).args, 0)) {
          terms.set(gone, []);
          if (gone === at) return inner;
        }
      }),
    );
  }
  return terms;
}

/** No carry is lost at the top of a sum. */
function isExact(known: readonly Known[], { width, args }: NetNode): boolean {
  const most = args.reduce((sum, arg) => sum + item(known, arg).max, 0n);
  return most < 1n << BigInt(width);
}
