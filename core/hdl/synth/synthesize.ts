import { emptyNetlist, NetBuilder, type Netlist } from '../../netlist/index.ts';
import { arrayShape, asGiveUp, type Design, evaluationIn, hierarchyOf, type HierarchyNode } from '../names/index.ts';
import { GiveUp, type Messages } from '../read/index.ts';
import { Connector } from './connect.ts';
import { finishVectors } from './finish.ts';
import { finishStores } from './memory-writes.ts';
import { memoryIndex, netOf, type Shared } from './shared.ts';

interface Synthesis {
  /** Null when an error stops the design from becoming hardware. */
  readonly netlist: Netlist | null;
  readonly hierarchy: HierarchyNode | null;
  readonly messages: Messages;
}

/** Builds the netlist of a whole design, every declared name still in it. */
export function synthesize({ top, names }: Design): Synthesis {
  const { messages } = names;
  if (!top) return { netlist: null, hierarchy: null, messages };
  const build = new NetBuilder(emptyNetlist());
  const shared: Shared = {
    ...names,
    build,
    stores: [],
    nets: new Map(),
    indexes: new Map(),
    endless: new Set(),
    placed: new Map(),
  };
  try {
    declareNets(shared);
    const connector = new Connector(shared, top, true);
    connector.read();
    connector.connectTop();
    finishStores(shared);
    finishVectors(shared);
    return { netlist: messages.failed ? null : build.netlist, hierarchy: hierarchyOf(top), messages };
  } catch (error) {
    const wrong = asGiveUp(error, top.module.at);
    if (!wrong) throw error;
    messages.error(wrong.code, wrong.place, wrong.message);
    return { netlist: null, hierarchy: null, messages };
  }
}

/** A wire for each declared vector and a place for each memory, with what they hold at power-up. */
function declareNets(shared: Shared): void {
  const { build, messages } = shared;
  const guard = (work: () => void) => {
    try {
      work();
    } catch (error) {
      if (!(error instanceof GiveUp)) throw error;
      messages.error(error.code, error.place, error.message);
    }
  };
  for (const memory of shared.memories) {
    const { path, width, depth, dimensions } = memory;
    const ranges = dimensions.map(({ left, right }) => ({
      lowest: Math.min(left, right),
      size: Math.abs(left - right) + 1,
    }));
    const made = { name: path, width, depth, init: [], writes: [], ranges };
    shared.indexes.set(memory, build.netlist.memories.push(made) - 1);
  }
  for (const vector of shared.vectors)
    if (!vector.shape.special)
      guard(() => {
        const net = netOf(shared, vector);
        if (!vector.initial) return;
        const { value, scope } = vector.initial;
        const word = constant(() => evaluationIn(shared, scope).assigned(value, vector.shape));
        if (word === null)
          throw new GiveUp(
            'initial-value',
            value.at,
            'A power-up value must be a constant. For logic, declare a wire or use assign.',
          );
        net.init = word.v & ~word.x;
      });
  for (const memory of shared.memories) guard(() => fill(shared, memory));
}

/** The contents that a memory is declared with. */
function fill(shared: Shared, memory: Shared['memories'][number]): void {
  if (memory.initial?.value.kind !== 'pattern') return;
  const { value, scope } = memory.initial;
  const [range = { left: 0, right: 0 }] = memory.dimensions;
  const whole = constant(() =>
    evaluationIn(shared, scope).assigned(value, arrayShape(memory.shape, range.left, range.right)),
  );
  if (whole === null || memory.dimensions.length > 1)
    throw new GiveUp('initial-value', value.at, 'The contents of a memory must be constant, of one range.');
  const descending = range.left >= range.right;
  const { init } = shared.build.netlist.memories[memoryIndex(shared, memory)] ?? { init: [] };
  for (let i = 0; i < memory.depth; i++) {
    const word = BigInt.asUintN(memory.width, (whole.v & ~whole.x) >> BigInt(i * memory.width));
    init[descending ? i : memory.depth - 1 - i] = word;
  }
}

/** Null where a value depends on something that is not known. */
function constant<T>(read: () => T): T | null {
  try {
    return read();
  } catch (error) {
    if (error instanceof GiveUp && error.code === 'not-constant') return null;
    throw error;
  }
}
