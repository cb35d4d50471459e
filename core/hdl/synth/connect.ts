import { cellPort, type NodeId } from '../../netlist/index.ts';
import type { Place } from '../../result.ts';
import { counted } from '../../words.ts';
import {
  type Behaviour,
  type BehaviourItem,
  bitsShape,
  lookup,
  type Elaborated,
  partShape,
  type Scope,
  typeOf,
  type Vector,
} from '../names/index.ts';
import { type Connection, type Expression, GiveUp } from '../read/index.ts';
import { readAlways, readInitial } from './behaviour.ts';
import { emitAssigned, type ExpressionContext } from './expressions.ts';
import { gateAssignments } from './gate.ts';
import { Procedure, widthOfTarget } from './procedure.ts';
import { selection } from './select.ts';
import { countWork, type Driver, netOf, type Shared } from './shared.ts';
import { emitPinValue, mentionsFloat } from './tri-state.ts';
import { targetOf, targetShape } from './update.ts';

type Instances = Behaviour & { readonly kind: 'instances' };

/** Reads what one instance and all below it do into the netlist. */
export class Connector {
  readonly #shared: Shared;
  readonly #instance: Elaborated;
  readonly #isTop: boolean;

  constructor(shared: Shared, instance: Elaborated, isTop: boolean) {
    this.#shared = shared;
    this.#instance = instance;
    this.#isTop = isTop;
  }

  read(): void {
    for (const behaviour of this.#instance.behaviours) this.#guard(() => this.#behave(behaviour));
  }

  /** The top's ports become the netlist's. */
  connectTop(): void {
    const { build } = this.#shared;
    for (const { name, at } of this.#instance.module.ports) {
      const entity = this.#instance.scope.names.get(name);
      if (entity?.kind !== 'vector') continue;
      const net = netOf(this.#shared, entity);
      const pins = net.drivers.filter((driver) => driver.enable !== undefined);
      if (entity.direction === 'input')
        net.drivers.push({ lo: 0, width: entity.width, node: build.input(name, entity.width), at });
      else if (entity.direction === 'inout') this.#connectInout(entity, pins);
      else if (entity.direction === 'output')
        build.netlist.outputs.push({
          name,
          node: net.wire,
          width: entity.width,
          ...(pins.length > 0
            ? {
                enable: joinPins(
                  build,
                  entity,
                  net.drivers,
                  (driver) => driver.enable ?? build.constant(-1n, driver.width),
                ),
              }
            : {}),
        });
    }
  }

  /** What the design reads on an inout is the pin; what it drives goes out beside it with its enable. */
  #connectInout(port: Vector, pins: readonly Driver[]): void {
    const net = netOf(this.#shared, port);
    const { build } = this.#shared;
    const others = net.drivers.filter((driver) => driver.enable === undefined);
    const drivers = [...pins, ...others];
    const pin = build.input(port.name, port.width);
    net.drivers.length = 0;
    if (drivers.length === 0) {
      net.drivers.push({ lo: 0, width: port.width, node: pin, at: port.at });
      return;
    }
    const node = joinPins(build, port, drivers, (driver) => driver.node);
    const enable = joinPins(build, port, drivers, (driver) => driver.enable ?? build.constant(-1n, driver.width));
    build.netlist.outputs.push({ name: port.name, node, width: port.width, enable });
    // While it drives, the design reads its own level back.
    net.drivers.push({
      lo: 0,
      width: port.width,
      node: build.or(build.and(enable, node), build.and(build.not(enable), pin)),
      at: port.at,
    });
  }

  #context(scope: Scope): ExpressionContext {
    return { ...new Procedure(this.#shared, scope).context, read: (vector) => netOf(this.#shared, vector).wire };
  }

  /** Reports what went wrong with one item and goes on with the next. */
  #guard(work: () => void): void {
    try {
      countWork(this.#shared, this.#instance.module.at);
      work();
    } catch (error) {
      if (!(error instanceof GiveUp) || error.code === 'too-large') throw error;
      this.#shared.messages.error(error.code, error.place, error.message);
    }
  }

  #behave(behaviour: Behaviour): void {
    const { item, scope } = behaviour;
    const { build } = this.#shared;
    build.origin = { path: this.#instance.path, file: item.at.file, line: item.at.line };
    if (behaviour.kind === 'instances') return this.#instances(behaviour);
    if (behaviour.kind === 'primitives')
      throw new GiveUp(
        'not-synthesizable',
        item.at,
        `"${behaviour.item.module}" is a primitive given by a table, which is read for simulation only. Write the table as a ` +
          'case statement.',
      );
    this.#item(behaviour.item, scope);
  }

  #item(item: BehaviourItem, scope: Scope): void {
    switch (item.kind) {
      case 'assign':
        return this.#assign(item, scope);
      case 'gate':
        for (const one of gateAssignments(item, this.#context(scope))) this.#assign(one, scope);
        return;
      case 'always':
        return readAlways(this.#shared, scope, item);
      case 'initial':
        if (!item.atEnd) readInitial(this.#shared, scope, item);
        return;
    }
  }

  #assign(item: BehaviourItem & { kind: 'assign' }, scope: Scope): void {
    const context = this.#context(scope);
    if (item.delay)
      this.#shared.messages.warning(
        'delay',
        item.at,
        'The delay has no hardware and is passed over when this is built.',
      );
    if (this.#isPin(item.target, item.value, context)) return this.#drivePin(item, context);
    const shape =
      item.target.kind === 'concatenation'
        ? bitsShape(widthOfTarget(item.target, context))
        : targetShape(targetOf(item.target, context), context);
    this.#drive(item.target, emitAssigned(item.value, shape, context), context);
  }

  /** Connects a value to a target of a continuous assignment or an output port. */
  #drive(target: Expression, value: number, context: ExpressionContext): void {
    const { build } = this.#shared;
    if (target.kind === 'concatenation') {
      let at = 0;
      for (const part of [...target.parts].reverse()) {
        const width = widthOfTarget(part, context);
        this.#drive(part, build.slice(value, at, width), context);
        at += width;
      }
      return;
    }
    const place = this.#place(target, context);
    if (place)
      netOf(this.#shared, place.vector).drivers.push({
        lo: place.lo,
        width: place.width,
        node: build.resize(value, place.width, false),
        at: target.at,
      });
  }

  /** The bits of a net that a continuous assignment drives; null where they lie outside it. */
  #place(target: Expression, context: ExpressionContext): { vector: Vector; lo: number; width: number } | null {
    const { root, parts } = targetOf(target, context);
    if ('memory' in root)
      throw new GiveUp('target', target.at, `The memory "${root.memory.name}" is written at a clock edge only.`);
    if (root.direction === 'input')
      throw new GiveUp(
        'input-driven',
        target.at,
        `"${root.name}" is an input of this module and cannot be driven from inside.`,
      );
    let { shape } = root;
    let lo = 0;
    let { width } = shape;
    for (const part of parts) {
      const select = selection(part, shape, context);
      if (select.lo === null)
        throw new GiveUp(
          'target',
          target.at,
          'Which bit this drives depends on a signal. Use an always block for that.',
        );
      shape = partShape(part, shape, context);
      lo += select.lo;
      ({ width } = select);
    }
    return lo < 0 || lo + width > root.width ? null : { vector: root, lo, width };
  }

  /** An assignment that may leave a pin floating: to an inout port, or of a z to an output, of the top module. */
  #isPin(target: Expression, value: Expression, context: ExpressionContext): boolean {
    if (!this.#isTop || target.kind === 'concatenation') return false;
    const { root } = targetOf(target, context);
    if ('memory' in root) return false;
    return root.direction === 'inout' || (root.direction === 'output' && mentionsFloat(value));
  }

  #drivePin(item: BehaviourItem & { kind: 'assign' }, context: ExpressionContext): void {
    const place = this.#place(item.target, context);
    if (!place) return;
    const { value, enable } = emitPinValue(item.value, place.width, context);
    netOf(this.#shared, place.vector).drivers.push({
      lo: place.lo,
      width: place.width,
      node: value,
      enable,
      at: item.target.at,
    });
  }

  #instances({ item, scope, made }: Instances): void {
    const { messages } = this.#shared;
    const [child] = made;
    if (!child) return;
    const { module } = child;
    if (module.isCell) for (const one of made) placeCell(this.#shared, one, item.at);
    else for (const one of made) new Connector(this.#shared, one, false).read();
    const context = this.#context(scope);
    const connected = new Set<string>();
    const byOrder = item.ports.length > 0 && item.ports.every((port) => port.name === null);
    if (byOrder && item.ports.length > module.ports.length)
      messages.error(
        'too-many-ports',
        item.at,
        `"${module.name}" has ${counted(module.ports.length, 'port')}, ${item.ports.length} are connected.`,
      );
    for (const [i, connection] of item.ports.entries()) {
      const name = connection.name ?? module.ports[i]?.name;
      if (name === undefined) continue;
      connected.add(name);
      this.#guard(() => this.#connect(made, name, connection, context));
    }
    for (const { name } of module.ports) {
      if (connected.has(name)) continue;
      const same = item.wildcard ? scope.find(name) : null;
      if (same)
        this.#guard(() =>
          this.#connect(made, name, { at: item.at, name, value: { kind: 'name', at: item.at, name } }, context),
        );
      else this.#unconnected(item, made, name);
    }
  }

  /** @source IEEE 1364-2005, clause 19.9: an unconnected input is pulled where the source says so, else it is 0 here */
  #unconnected(item: Instances['item'], made: readonly Elaborated[], name: string): void {
    const { build, messages } = this.#shared;
    for (const { scope, module } of made) {
      const port = scope.names.get(name);
      if (port?.kind !== 'vector' || port.direction !== 'input') continue;
      const { unconnected } = module;
      if (unconnected === 'z')
        messages.warning('unconnected', item.at, `The input "${name}" of "${item.name}" is not connected and reads 0.`);
      else
        netOf(this.#shared, port).drivers.push({
          lo: 0,
          width: port.width,
          node: build.constant(unconnected === 'pull1' ? -1n : 0n, port.width),
          at: item.at,
        });
    }
  }

  /** The value at an input, which takes its lower bits where it is wider; another width than the input's is told. */
  #valueAt(name: string, port: Vector, value: Expression, context: ExpressionContext): NodeId {
    const { build, messages } = this.#shared;
    const wanted = port.width;
    const type = hasOwnWidth(value, context) && !port.shape.unpacked ? typeOf(value, context) : null;
    if (!type || type.width === wanted) return emitAssigned(value, port.shape, context);
    messages.warning(
      'port-width',
      value.at,
      `The input "${name}" has ${counted(wanted, 'bit')}, what it is connected to ${type.width}: ` +
        (type.width > wanted
          ? `the upper ${type.width - wanted} are lost.`
          : type.signed
            ? 'its sign fills the rest.'
            : `the upper ${wanted - type.width} are 0.`),
    );
    return build.resize(emitAssigned(value, bitsShape(type.width), context), wanted, type.signed);
  }

  /**
   * Connects one port of one instance, or of all instances of an array: a word as wide as all of them is divided, the
   * first index leftmost.
   */
  #connect(made: readonly Elaborated[], name: string, { at, value }: Connection, context: ExpressionContext): void {
    const { build, messages } = this.#shared;
    const ports = made.map((child) => {
      const port = child.scope.names.get(name);
      if (port?.kind !== 'vector' || !port.direction)
        throw new GiveUp('no-port', at, `There is no port "${name}" on "${child.name}" (module ${child.module.name}).`);
      return port;
    });
    const [port] = ports;
    if (value === null || !port) return;
    if (port.direction === 'inout')
      throw new GiveUp(
        'not-taken',
        at,
        `The port "${name}" is an inout inside the design, where nothing can float. Give the module an input, an ` +
          'output and an enable, and join them at the pin of the top module.',
      );
    const all = port.width * made.length;
    if (port.direction === 'input') {
      const divided = made.length > 1 && typeOf(value, context).width === all;
      const node = divided ? emitAssigned(value, bitsShape(all), context) : this.#valueAt(name, port, value, context);
      for (const [i, one] of ports.entries())
        netOf(this.#shared, one).drivers.push({
          lo: 0,
          width: one.width,
          node: divided ? build.slice(node, (made.length - 1 - i) * one.width, one.width) : node,
          at,
        });
      return;
    }
    const width = widthOfTarget(value, context);
    if (width !== all)
      messages.warning(
        'port-width',
        at,
        `The output "${name}" has ${counted(all, 'bit')}, what it is connected to ${width}: ` +
          (width < all
            ? `the upper ${all - width} are lost.`
            : port.signed
              ? 'its sign fills the rest.'
              : `the upper ${width - all} are 0.`),
      );
    const word = build.concat(ports.map((one) => netOf(this.#shared, one).wire).reverse());
    this.#drive(value, build.resize(word, width, port.signed), context);
  }
}

/** Puts a cell of the part into the netlist: what it gives comes in there, what it takes goes out. */
function placeCell(shared: Shared, { path, module, scope }: Elaborated, at: Place): void {
  const { build } = shared;
  const inner = path.slice(path.indexOf('.') + 1);
  const parameters: Record<string, number> = {};
  for (const one of module.items) {
    if (one.kind !== 'parameter') continue;
    const entity = scope.names.get(one.name);
    if (entity?.kind !== 'constant') continue;
    const { value, unknown, width, signed, real } = entity.constant;
    if (unknown !== 0n || real !== undefined)
      throw new GiveUp('part-cell', at, `The parameter "${one.name}" of "${path}" must be a whole number.`);
    parameters[one.name] = Number(signed ? BigInt.asIntN(width, value) : value);
  }
  build.netlist.cells.push({ module: module.name, path: inner, parameters, at });
  for (const { name } of module.ports) {
    const port = scope.names.get(name);
    if (port?.kind !== 'vector') continue;
    shared.placed.set(port, at);
    const net = netOf(shared, port);
    if (port.direction === 'input')
      build.netlist.outputs.push({ name: cellPort(inner, name), node: net.wire, width: port.width });
    else net.drivers.push({ lo: 0, width: port.width, node: build.input(cellPort(inner, name), port.width), at });
  }
}

/** Whether what is written has a width of its own, as a signal has; a number or a sum takes that of where it stands. */
function hasOwnWidth(expression: Expression, context: ExpressionContext): boolean {
  switch (expression.kind) {
    case 'number':
      return expression.width !== null && !expression.fill;
    case 'name':
      return isSignal(expression, context);
    case 'member':
    case 'index':
    case 'range':
    case 'indexed-range':
    case 'concatenation':
    case 'replication':
      return true;
    default:
      return false;
  }
}

function isSignal(name: Expression & { kind: 'name' }, context: ExpressionContext): boolean {
  const entity = lookup(name, context.scope, context.shared);
  return entity.kind === 'vector' && entity.net !== 'integer';
}

/** Drivers of a pin side by side; bits that none drives are 0, which as an enable means floating. */
function joinPins(
  build: Shared['build'],
  port: Vector,
  drivers: readonly Driver[],
  of: (driver: Driver) => NodeId,
): NodeId {
  const parts: NodeId[] = [];
  let at = 0;
  for (const driver of [...drivers].sort((a, b) => a.lo - b.lo)) {
    if (driver.lo < at) continue;
    if (driver.lo > at) parts.push(build.constant(0n, driver.lo - at));
    parts.push(of(driver));
    at = driver.lo + driver.width;
  }
  if (at < port.width) parts.push(build.constant(0n, port.width - at));
  return build.concat(parts);
}
