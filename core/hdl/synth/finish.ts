import { item } from '../../lists.ts';
import type { NodeId, Signal } from '../../netlist/index.ts';
import type { Vector } from '../names/index.ts';
import { type Driver, type Shared, netOf, type Net } from './shared.ts';

/** Joins every vector's drivers, gives registers their power-up values and enters all names into the netlist. */
export function finishVectors(shared: Shared): void {
  const { build, messages } = shared;
  const registers = new Map(build.netlist.registers.map((register) => [register.node, register]));
  // Marks rather than a set: words of many parts have millions of arguments.
  const isRead = new Uint8Array(build.netlist.nodes.length);
  const read = { add: (id: NodeId) => void (isRead[id] = 1), has: (id: NodeId) => isRead[id] === 1 };
  for (const { args } of build.netlist.nodes) for (const id of args) isRead[id] = 1;
  for (const port of build.netlist.outputs) read.add(port.node);
  const vectors = shared.vectors.filter(({ shape }) => !shape.special);
  for (const vector of vectors) for (const driver of netOf(shared, vector).drivers) read.add(driver.node);
  for (const register of build.netlist.registers)
    for (const id of [register.d, register.clock, register.reset]) if (id !== null) read.add(id);
  for (const vector of vectors) {
    const net = netOf(shared, vector);
    resolve(shared, vector, net);
    const drivers = [...net.drivers].sort((a, b) => a.lo - b.lo);
    clash(shared, vector, drivers);
    for (const driver of drivers) {
      const register = registers.get(driver.node);
      if (!register || net.init === null) continue;
      register.init = BigInt.asUintN(driver.width, net.init >> BigInt(driver.lo));
      register.initialised = true;
    }
    const free = drivers.length === 0 && net.init === null;
    if (!free) build.node(net.wire).args = [joined(shared, vector, drivers)];
    else if (!messages.failed && vector.direction === null && vector.net !== 'integer' && read.has(net.wire))
      messages.warning(
        'undriven',
        vector.at,
        `Nothing gives "${vector.name}" a value; it reads 0 until a lever drives it.`,
      );
    const { file, line, column } = shared.placed.get(vector) ?? vector.at;
    build.netlist.signals.push({
      name: vector.path,
      node: net.wire,
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
      at: { file, line, column },
      variable: vector.net !== 'wire',
      free,
      keep: vector.keep,
      names: valueNames(vector, net),
    });
  }
}

/**
 * What the kind of a net says of bits with several drivers or none: `wand` and `wor` join them, a supply or a pull
 * fills up.
 *
 * @source IEEE 1364-2005, clauses 4.6.2 to 4.6.6
 */
function resolve(shared: Shared, vector: Vector, net: Net): void {
  const { build, messages } = shared;
  const { resolution, width } = vector;
  if (resolution === 'wire' || resolution === 'trireg') return;
  if (resolution === 'supply0' || resolution === 'supply1') {
    if (net.drivers.length > 0)
      messages.warning('supply-driven', vector.at, `"${vector.name}" is a supply; what drives it changes nothing.`);
    const node = build.constant(resolution === 'supply1' ? -1n : 0n, width);
    net.drivers.splice(0, net.drivers.length, { lo: 0, width, node, at: vector.at });
    return;
  }
  const drivers = [...net.drivers];
  const cuts = new Set([0, width, ...drivers.flatMap(({ lo, width: bits }) => [lo, lo + bits])]);
  const edges = [...cuts].sort((a, b) => a - b);
  net.drivers.length = 0;
  for (const [i, lo] of edges.slice(0, -1).entries()) {
    const bits = item(edges, i + 1) - lo;
    const over = drivers.filter((one) => one.lo <= lo && lo < one.lo + one.width);
    const parts = over.map((one) => ({ ...one, lo, width: bits, node: build.slice(one.node, lo - one.lo, bits) }));
    const [first] = parts;
    if (resolution === 'tri0' || resolution === 'tri1') {
      const pulled = { lo, width: bits, node: build.constant(resolution === 'tri1' ? -1n : 0n, bits), at: vector.at };
      net.drivers.push(...(first ? parts : [pulled]));
    } else if (first) {
      const node = parts
        .map((part) => part.node)
        .reduce((a, b) => (resolution === 'wand' ? build.and(a, b) : build.or(a, b)));
      net.drivers.push({ ...first, node });
    }
  }
}

/** Names of an enum, or of the case labels of a signal that has several: a lone constant names no state. */
function valueNames({ shape }: Vector, { labels }: Net): Signal['names'] {
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
function joined(shared: Shared, vector: Vector, drivers: readonly Driver[]): NodeId {
  const { build } = shared;
  const { init } = netOf(shared, vector);
  const parts: NodeId[] = [];
  let at = 0;
  const fill = (to: number) => {
    if (to > at) parts.push(init === null ? build.constant(0n, to - at) : build.constant(init >> BigInt(at), to - at));
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
