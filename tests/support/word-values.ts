// A netlist's words, one after the other, by the operations' own definition: what compiled and mapped forms are held to.
import { item } from '../../core/lists.ts';
import { evaluateConstant, isLeaf, lowBitOf, type Netlist, type NetNode } from '../../core/netlist/index.ts';

/** Values of all words, given those of inputs, registers and memory reads, which may look at the words before them. */
export function wordValues(
  { nodes }: Netlist,
  given: (id: number, node: NetNode, values: readonly bigint[]) => bigint,
): bigint[] {
  const values: bigint[] = [];
  for (const [id, node] of nodes.entries()) {
    if (node.op === 'const') values[id] = node.value;
    else if (isLeaf(node)) values[id] = BigInt.asUintN(node.width, given(id, node, values));
    else
      values[id] = evaluateConstant(
        node.op,
        node.width,
        node.args.map((arg) => item(values, arg)),
        node.args.map((arg) => item(nodes, arg).width),
        lowBitOf(node),
      );
  }
  return values;
}
