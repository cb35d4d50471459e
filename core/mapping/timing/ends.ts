import type { Delays } from '../../families/index.ts';
import type { NodeId } from '../../netlist/index.ts';
import { type Literal, TRUE } from '../gates/index.ts';
import type { Mapped } from '../map.ts';
import type { PathEnd } from './arrivals.ts';
import type { WordNames } from './names.ts';

/** Where signals end that a clock takes. */
export interface Endpoint extends PathEnd {
  readonly clock: NodeId;
  readonly edge: 'posedge' | 'negedge';
  /** Names by which a rule may mean it. */
  readonly names: readonly string[];
}

type Bits = readonly (Literal | null)[];

/** What flip-flops and memories take at their clock edge. */
export function endpointsOf({ design }: Mapped, delays: Delays, words: WordNames): Endpoint[] {
  const ends: Endpoint[] = [];
  const put = (name: (bit: number) => string, of: Omit<Endpoint, 'name' | 'literal'>, literals: Bits) => {
    for (const [i, literal] of literals.entries())
      if (literal !== null && literal > TRUE) ends.push({ ...of, name: name(i), literal });
  };
  for (const ff of design.flipFlops) {
    const { clock, edge, node } = ff.register;
    const name = words.of(node);
    const of = { clock, edge, setup: delays.setup, names: words.all(node) };
    put((bit) => words.bit(node, bit), of, ff.data);
    put(() => `${name} (enable)`, of, [ff.enable]);
    put(() => `${name} (reset)`, of, [ff.syncReset]);
  }
  for (const port of design.memoryPorts) {
    if (port.kind !== 'write' || port.clock === null) continue;
    const name = design.source.memories[port.memory]?.name ?? 'memory';
    const of = { clock: port.clock, edge: 'posedge', setup: delays.memorySetup, names: [name] } as const;
    put((bit) => `${name} (address)[${bit}]`, of, port.address);
    put((bit) => `${name} (data)[${bit}]`, of, port.data);
    put(() => `${name} (write)`, of, [port.enable]);
  }
  return ends;
}
