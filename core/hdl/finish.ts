import { item } from '../lists.ts';
import type { NodeId, Signal } from '../netlist/index.ts';
import type { Driver, Shared, Vector } from './scope.ts';

/** Joins every vector's drivers, gives registers their power-up values and enters all names into the netlist. */
export function finishVectors(shared: Shared): void {
  const { build, messages } = shared;
  const registers = new Map(build.netlist.registers.map((register) => [register.node, register]));
  const read = new Set(build.netlist.nodes.flatMap((node) => node.args));
  for (const port of build.netlist.outputs) read.add(port.node);
  for (const vector of shared.vectors) for (const driver of vector.drivers) read.add(driver.node);
  for (const register of build.netlist.registers)
    for (const id of [register.d, register.clock, register.reset]) if (id !== null) read.add(id);
  for (const vector of shared.vectors) {
    const drivers = [...vector.drivers].sort((a, b) => a.lo - b.lo);
    clash(shared, vector, drivers);
    for (const driver of drivers) {
      const register = registers.get(driver.node);
      if (!register || vector.init === null) continue;
      register.init = BigInt.asUintN(driver.width, vector.init >> BigInt(driver.lo));
      register.initialised = true;
    }
    const free = drivers.length === 0 && vector.init === null;
    if (!free) build.node(vector.wire).args = [joined(shared, vector, drivers)];
    else if (!messages.failed && vector.direction === null && vector.net !== 'integer' && read.has(vector.wire))
      messages.warning(
        'undriven',
        vector.at,
        `Nothing gives "${vector.name}" a value; it reads 0 until a lever drives it.`,
      );
    build.netlist.signals.push({
      name: vector.path,
      node: vector.wire,
      width: vector.width,
      signed: vector.signed,
      lsb: vector.shape.right,
      kind:
        vector.direction === 'input'
          ? 'input'
          : vector.direction === 'output'
            ? 'output'
            : vector.net === 'wire'
              ? 'wire'
              : 'reg',
      at: { file: vector.at.file, line: vector.at.line, column: vector.at.column },
      free,
      keep: vector.keep,
      names: valueNames(vector),
    });
  }
}

/** Names of an enum, or of the case labels of a signal that has several: a lone constant names no state. */
function valueNames({ shape, labels }: Vector): Signal['names'] {
  const names = shape.names ?? (labels.size > 1 ? labels : new Map<bigint, string>());
  return [...names].map(([value, name]) => ({ value: value.toString(), name }));
}

function clash({ messages }: Shared, vector: Vector, drivers: readonly Driver[]): void {
  for (let i = 1; i < drivers.length; i++) {
    const [before, after] = [item(drivers, i - 1), item(drivers, i)];
    if (before.lo + before.width > after.lo)
      messages.error(
        'several-drivers',
        after.at,
        `"${vector.name}" already gets its value in ${before.at.file}, line ${before.at.line}. Two drivers of ` +
          'one signal fight each other.',
      );
  }
}

/** Undriven bits of a partly driven vector carry their power-up value, or 0. */
function joined({ build }: Shared, vector: Vector, drivers: readonly Driver[]): NodeId {
  const parts: NodeId[] = [];
  let at = 0;
  const fill = (to: number) => {
    if (to > at)
      parts.push(vector.init === null ? build.unknown(to - at) : build.constant(vector.init >> BigInt(at), to - at));
  };
  for (const driver of drivers) {
    if (driver.lo < at) continue;
    fill(driver.lo);
    parts.push(driver.node);
    at = driver.lo + driver.width;
  }
  fill(vector.width);
  return build.concat(parts);
}
