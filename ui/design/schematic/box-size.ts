import type { SchematicNode } from '../../../core/schematic/index.ts';

/** A box and its points before it has a place, in pixels; the points count from its upper left corner. */
export interface BoxSize {
  readonly width: number;
  readonly height: number;
  readonly ports: readonly {
    readonly id: string;
    readonly name: string;
    readonly side: 'in' | 'out';
    readonly x: number;
    readonly y: number;
  }[];
}

const CHAR = 6.6;
const SMALL_CHAR = 5.6;
const PORT_STEP = 15;
const HEAD = 30;

/** As large as its texts need; `least` is the room that contents of an open instance take. */
export function boxSize(
  node: SchematicNode,
  least: { readonly width: number; readonly height: number } = { width: 0, height: 0 },
): BoxSize {
  const ins = node.ports.filter((port) => port.side === 'in');
  const outs = node.ports.filter((port) => port.side === 'out');
  const named = node.kind === 'instance' || node.ports.some((port) => port.name !== '');
  const longest = (ports: typeof ins) => Math.max(0, ...ports.map((port) => port.name.length));
  const text = Math.max(node.label.length * CHAR, node.detail.length * SMALL_CHAR) + 18;
  const width = Math.max(
    least.width,
    node.kind === 'operation' || node.kind === 'constant' ? 34 : 60,
    text,
    named ? (longest(ins) + longest(outs)) * SMALL_CHAR + 30 : 0,
  );
  const rows = Math.max(ins.length, outs.length);
  const height = Math.max(least.height, named ? HEAD + rows * PORT_STEP + 4 : node.detail === '' ? 24 : 34);
  const place = (port: (typeof ins)[number], i: number, of: number) => ({
    id: port.id,
    name: port.name,
    side: port.side,
    x: port.side === 'in' ? 0 : width,
    y: named ? HEAD + i * PORT_STEP + PORT_STEP / 2 : (height * (i + 1)) / (of + 1),
  });
  return {
    width,
    height,
    ports: [...ins.map((port, i) => place(port, i, ins.length)), ...outs.map((port, i) => place(port, i, outs.length))],
  };
}
