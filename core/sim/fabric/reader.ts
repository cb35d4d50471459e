// Values of nodes where some are known beforehand: each is computed when it is first asked for.
import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import type { Calm } from './assume.ts';
import type { Program } from './compile.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { type Limbs, Lowering } from './lower.ts';

export interface Reader {
  /** The same for code that is not always run: what is computed there is not known behind it. */
  readonly within: () => Reader;
  readonly get: (id: NodeId) => Limbs;
  /** A fact as it is, not as it is taken for. */
  readonly computed: (id: NodeId) => Limbs;
}

/** What a node is computed from; of a choice that is known, the one that is taken. */
export function argsOf({ nodes }: Netlist, { facts }: Calm, id: NodeId): readonly NodeId[] {
  const node = item(nodes, id);
  if (node.op === 'reg') return [];
  if (node.op !== 'mux') return node.args;
  const known = facts.get(node.args[0]);
  return known === undefined ? node.args : [known === 0 ? node.args[2] : node.args[1]];
}

/** `given`: values that are there already; `kept`: words where others are kept. What is a fact is taken for granted. */
export function readerOf(
  program: Pick<Program, 'netlist' | 'layout'>,
  calm: Calm,
  e: Emitter,
  given: ReadonlyMap<NodeId, Limbs>,
  kept: ReadonlyMap<NodeId, number> = new Map(),
): Reader {
  const { netlist, layout } = program;
  const lowering = new Lowering(netlist, layout, e);
  const values = new Map(given);
  const value = (id: NodeId): Limbs => entry(values, id);
  const own = (id: NodeId): Limbs => {
    const node = item(netlist.nodes, id);
    const [chosen] = argsOf(netlist, calm, id);
    const isChosen = node.op === 'mux' && calm.facts.has(node.args[0]) && chosen !== undefined;
    return given.get(id) ?? (isChosen ? value(chosen) : lowering.node(id, value));
  };
  const ask = (ids: readonly NodeId[]) => {
    const wanted = new Set<NodeId>();
    const open = [...ids];
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (values.has(id) || wanted.has(id)) continue;
      const fact = calm.facts.get(id);
      const place = kept.get(id);
      if (fact !== undefined) values.set(id, [constant(fact)]);
      else if (place !== undefined) values.set(id, lowering.loadWord(place, item(netlist.nodes, id).width));
      else {
        wanted.add(id);
        open.push(...argsOf(netlist, calm, id));
      }
    }
    for (const id of [...wanted].sort((a, b) => a - b)) values.set(id, own(id));
  };
  return {
    within: () => readerOf(program, calm, e, values, kept),
    get: (id) => {
      ask([id]);
      return value(id);
    },
    computed: (id) => {
      ask(argsOf(netlist, calm, id));
      return own(id);
    },
  };
}

/** Another word than 0 where one of some facts is no fact. */
export const factsOf = ({ facts }: Calm, ids: readonly NodeId[], { computed }: Reader, e: Emitter): Value =>
  ids
    .map((id) => e.binary('xor', item(computed(id), 0), constant(entry(facts, id))))
    .reduce((x, y) => e.binary('or', x, y), constant(0));
