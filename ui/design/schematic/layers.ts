import { item } from '../../../core/lists.ts';
import type { Schematic } from '../../../core/schematic/index.ts';
import { type BoxSize, boxSize } from './box-size.ts';
import type { PlacedDrawing, PlacedEdge, PlacedNode } from './layout.ts';

const MARGIN = 16;
const BETWEEN_BOXES = 12;
const LANE = 5;
const LEAST_CHANNEL = 30;
const MOST_CHANNEL = 220;
const SWEEPS = 6;
const INSIDE = { top: 40, side: 30, bottom: 14 };

/** What stands in a layer: a box, or the lane of a line that passes. */
interface Slot {
  readonly layer: number;
  readonly height: number;
  readonly before: Slot[];
  readonly after: Slot[];
  y: number;
}

/** A line from one point to all its ends. `lanes[i]` is its lane in layer `from + 1 + i`. */
interface Net {
  readonly source: Point;
  readonly sinks: readonly { readonly at: Point; readonly edge: Schematic['edges'][number] }[];
  readonly lanes: readonly Slot[];
}

interface Point {
  readonly box: Box;
  readonly y: number;
}

interface Box {
  readonly index: number;
  readonly size: BoxSize;
  readonly contents: PlacedDrawing | null;
  slot: Slot;
  x: number;
}

/**
 * A large drawing: boxes in columns by how many boxes lie before them, ordered within a column by the middle of their
 * neighbours, lines on tracks between the columns. Takes time in proportion to boxes and to the columns that lines
 * cross, where finding few crossings well would take minutes.
 *
 * @source K. Sugiyama, S. Tagawa, M. Toda, Methods for visual understanding of hierarchical system structures, 1981
 * (layers, barycentres)
 */
export function placeInLayers(drawing: Schematic): PlacedDrawing {
  const { boxes, ends } = boxesOf(drawing);
  const layers = layersOf(boxes.length, drawing, ends);
  for (const box of boxes)
    box.slot = { layer: layers[box.index] ?? 0, height: box.size.height, before: [], after: [], y: 0 };
  const columns: Slot[][] = Array.from({ length: Math.max(0, ...layers) + 1 }, () => []);
  for (const box of boxes) columns[box.slot.layer]?.push(box.slot);
  const { nets, frame } = netsOf(drawing, ends, columns);
  order(columns);
  return place(drawing, boxes, columns, nets, frame);
}

function boxesOf(drawing: Schematic): { boxes: Box[]; ends: Map<string, Point> } {
  const nowhere: Slot = { layer: 0, height: 0, before: [], after: [], y: 0 };
  const ends = new Map<string, Point>();
  const boxes = drawing.nodes.map((node, index): Box => {
    const contents = node.inside ? placeInLayers(node.inside) : null;
    const size = boxSize(
      node,
      contents
        ? { width: contents.width + 2 * INSIDE.side, height: contents.height + INSIDE.top + INSIDE.bottom }
        : undefined,
    );
    const box: Box = { index, size, contents, slot: nowhere, x: 0 };
    for (const port of size.ports) ends.set(port.id, { box, y: port.y });
    return box;
  });
  return { boxes, ends };
}

/**
 * The longest way from a beginning, lines that would lead back left out; what has nothing before it stands next to what
 * it feeds.
 */
function layersOf(count: number, drawing: Schematic, ends: ReadonlyMap<string, Point>): number[] {
  const next: number[][] = Array.from({ length: count }, () => []);
  for (const edge of drawing.edges) {
    const [from, to] = [ends.get(edge.from)?.box.index, ends.get(edge.to)?.box.index];
    if (from !== undefined && to !== undefined && from !== to) next[from]?.push(to);
  }
  const done = finished(next);
  const rank = new Array<number>(count);
  done.forEach((box, i) => {
    rank[box] = i;
  });
  const forward = next.map((targets, box) => targets.filter((target) => (rank[target] ?? 0) < (rank[box] ?? 0)));
  const layers = new Array<number>(count).fill(0);
  const fed = new Array<boolean>(count).fill(false);
  for (const box of [...done].reverse())
    for (const target of forward[box] ?? []) {
      fed[target] = true;
      layers[target] = Math.max(layers[target] ?? 0, (layers[box] ?? 0) + 1);
    }
  for (const box of done) {
    const targets = forward[box] ?? [];
    if (!fed[box] && drawing.nodes[box]?.kind !== 'input' && targets.length > 0)
      layers[box] = Math.min(...targets.map((target) => layers[target] ?? 0)) - 1;
  }
  const last = Math.max(0, ...layers);
  return layers.map((layer, box) =>
    drawing.nodes[box]?.kind === 'output' ? last : drawing.nodes[box]?.kind === 'input' ? 0 : layer,
  );
}

/** Boxes in the order in which a depth-first walk leaves them: targets before sources, but for lines that lead back. */
function finished(next: readonly (readonly number[])[]): number[] {
  const seen = new Uint8Array(next.length);
  const done: number[] = [];
  for (let start = 0; start < next.length; start++) {
    if (seen[start]) continue;
    seen[start] = 1;
    const stack: [number, number][] = [[start, 0]];
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const target = next[top[0]]?.[top[1]++];
      if (target === undefined) {
        done.push(top[0]);
        stack.pop();
      } else if (!seen[target]) {
        seen[target] = 1;
        stack.push([target, 0]);
      }
    }
  }
  return done;
}

/**
 * Lines that begin at one point share their lanes. An end on the frame of the open instance around is left to `frame`.
 */
function netsOf(
  drawing: Schematic,
  ends: ReadonlyMap<string, Point>,
  columns: Slot[][],
): { nets: Net[]; frame: Schematic['edges'][number][] } {
  const frame: Schematic['edges'][number][] = [];
  const bySource = new Map<string, { source: Point; sinks: { at: Point; edge: Schematic['edges'][number] }[] }>();
  for (const edge of drawing.edges) {
    const [source, at] = [ends.get(edge.from), ends.get(edge.to)];
    if (!source || !at) {
      frame.push(edge);
      continue;
    }
    const net = bySource.get(edge.from) ?? { source, sinks: [] };
    net.sinks.push({ at, edge });
    bySource.set(edge.from, net);
  }
  const nets = [...bySource.values()].map(({ source, sinks }): Net => {
    const from = source.box.slot;
    const furthest = Math.max(...sinks.map(({ at }) => at.box.slot.layer));
    const lanes: Slot[] = [];
    for (let layer = from.layer + 1; layer < furthest; layer++) {
      const lane: Slot = { layer, height: LANE, before: [], after: [], y: 0 };
      columns[layer]?.push(lane);
      lanes.push(lane);
    }
    const stops = [from, ...lanes];
    stops.slice(1).forEach((lane, i) => {
      link(item(stops, i), lane);
    });
    for (const { at } of sinks) {
      const before = stops[at.box.slot.layer - 1 - from.layer];
      if (before) link(before, at.box.slot);
    }
    return { source, sinks, lanes };
  });
  return { nets, frame };
}

function link(before: Slot, after: Slot): void {
  before.after.push(after);
  after.before.push(before);
}

/**
 * Sweeps to and fro: every column takes the order of its neighbours' middles, then moves towards them as far as there
 * is room.
 */
function order(columns: readonly Slot[][]): void {
  for (const column of columns) stack(column, (slot) => slot.y);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const forward = sweep % 2 === 0;
    for (const column of forward ? columns : [...columns].reverse()) {
      // What no line leads to stands below all others.
      const wish = new Map(
        column.map((slot) => [
          slot,
          slot.before.length + slot.after.length === 0
            ? Number.POSITIVE_INFINITY
            : (middle(forward ? slot.before : slot.after) ?? slot.y + slot.height / 2),
        ]),
      );
      const of = (slot: Slot) => wish.get(slot) ?? 0;
      column.sort((a, b) => (of(a) === of(b) ? 0 : of(a) - of(b)));
      stack(column, (slot) => of(slot) - slot.height / 2);
    }
  }
}

const middle = (slots: readonly Slot[]): number | null =>
  slots.length === 0 ? null : slots.reduce((sum, slot) => sum + slot.y + slot.height / 2, 0) / slots.length;

/**
 * Keeps the order and puts each slot as near its wish as those above leave it; the column as a whole then moves by the
 * mean error. One without an end to its wish stands right below those above.
 */
function stack(column: readonly Slot[], wish: (slot: Slot) => number): void {
  const wishes = column.map(wish);
  let floor = Number.NEGATIVE_INFINITY;
  let error = 0;
  column.forEach((slot, i) => {
    const wanted = wishes[i] ?? 0;
    slot.y = Number.isFinite(wanted) ? Math.max(floor, wanted) : Math.max(floor, 0);
    if (Number.isFinite(wanted)) error += slot.y - wanted;
    floor = slot.y + slot.height + (slot.height > LANE ? BETWEEN_BOXES : 1);
  });
  const shift = error / Math.max(1, column.length);
  for (const slot of column) slot.y -= shift;
}

function place(
  drawing: Schematic,
  boxes: readonly Box[],
  columns: readonly Slot[][],
  nets: readonly Net[],
  frame: readonly Schematic['edges'][number][],
): PlacedDrawing {
  const slots = columns.flat();
  const top = slots.reduce((least, slot) => Math.min(least, slot.y), Number.POSITIVE_INFINITY);
  for (const slot of slots) slot.y += MARGIN - top;
  const bottom = slots.reduce((most, slot) => Math.max(most, slot.y + slot.height), 0);
  const widths = columns.map(() => 0);
  for (const { slot, size } of boxes) widths[slot.layer] = Math.max(widths[slot.layer] ?? 0, size.width);
  const tracks = tracksOf(columns.length, nets);
  // Channel i lies left of column i; the last one is right of all.
  const room = tracks.map((list) => Math.min(MOST_CHANNEL, Math.max(LEAST_CHANNEL, (list.length + 2) * LANE)));
  const left = [MARGIN];
  const start = widths.map((width, layer) => {
    const x = (left[layer] ?? 0) + (room[layer] ?? 0);
    left.push(x + width);
    return x;
  });
  for (const box of boxes) box.x = start[box.slot.layer] ?? 0;
  const trackX = tracks.map(
    (list, channel) =>
      new Map(list.map((net, i) => [net, (left[channel] ?? 0) + ((i + 1) * (room[channel] ?? 0)) / (list.length + 1)])),
  );
  let below = bottom;
  const edges: PlacedEdge[] = [];
  for (const net of nets) {
    const out = [net.source.box.x + net.source.box.size.width, net.source.box.slot.y + net.source.y] as const;
    const first = net.source.box.slot.layer;
    const under = net.sinks.some(({ at }) => at.box.slot.layer <= first) ? (below += LANE) : 0;
    for (const { at, edge } of net.sinks) {
      const target = at.box.slot.layer;
      const end = [at.box.x, at.box.slot.y + at.y] as const;
      const points: (readonly [number, number])[] = [out];
      let y = out[1];
      const turn = (channel: number, to: number) => {
        const x = trackX[channel]?.get(net) ?? 0;
        points.push([x, y], [x, to]);
        y = to;
      };
      if (target > first)
        for (let channel = first + 1; channel <= target; channel++)
          turn(channel, channel === target ? end[1] : middleOf(net.lanes[channel - first - 1]));
      else {
        turn(first + 1, under);
        turn(target, end[1]);
      }
      points.push(end);
      edges.push({ id: edge.id, name: edge.name, width: edge.width, from: edge.from, to: edge.to, points });
    }
  }
  const nodes: PlacedNode[] = [];
  for (const box of boxes) {
    const node = drawing.nodes[box.index];
    if (!node) continue;
    const { size, contents, x } = box;
    const y = box.slot.y;
    const ports = size.ports.map((port) => ({ ...port, x: x + port.x, y: y + port.y }));
    nodes.push({ node, x, y, width: size.width, height: size.height, ports });
    if (!contents) continue;
    const [dx, dy] = [x + (size.width - contents.width) / 2, y + INSIDE.top];
    for (const inner of contents.nodes)
      nodes.push({
        ...inner,
        x: inner.x + dx,
        y: inner.y + dy,
        ports: inner.ports.map((port) => ({ ...port, x: port.x + dx, y: port.y + dy })),
      });
    for (const inner of contents.edges)
      edges.push({ ...inner, points: inner.points.map(([px, py]) => [px + dx, py + dy] as const) });
  }
  edges.push(...straight(frame, nodes));
  for (const node of drawing.nodes)
    if (node.inside)
      edges.push(
        ...straight(
          node.inside.edges.filter((edge) => node.ports.some((port) => port.id === edge.from || port.id === edge.to)),
          nodes,
        ),
      );
  return { nodes, edges, width: (left.at(-1) ?? 0) + (room.at(-1) ?? 0) + MARGIN, height: below + MARGIN };
}

const middleOf = (slot: Slot | undefined): number => (slot ? slot.y + slot.height / 2 : 0);

/** The lines that turn in each channel, those from higher up further right, so that fewer of them cross. */
function tracksOf(columns: number, nets: readonly Net[]): Net[][] {
  const tracks: Net[][] = Array.from({ length: columns + 1 }, () => []);
  for (const net of nets) {
    const first = net.source.box.slot.layer;
    const channels = new Set<number>();
    for (const { at } of net.sinks) {
      const target = at.box.slot.layer;
      if (target > first) for (let channel = first + 1; channel <= target; channel++) channels.add(channel);
      else channels.add(first + 1).add(target);
    }
    for (const channel of channels) tracks[channel]?.push(net);
  }
  const height = (net: Net, channel: number) => {
    const first = net.source.box.slot.layer;
    return channel <= first + 1 ? net.source.box.slot.y + net.source.y : middleOf(net.lanes[channel - first - 2]);
  };
  return tracks.map((list, channel) => list.sort((a, b) => height(b, channel) - height(a, channel)));
}

/**
 * Lines between a frame and what is in it, drawn without bends. Ends that are not placed yet wait for the drawing
 * around.
 */
function straight(edges: readonly Schematic['edges'][number][], nodes: readonly PlacedNode[]): PlacedEdge[] {
  if (edges.length === 0) return [];
  const points = new Map(
    nodes.flatMap((node) => node.ports.map((port) => [port.id, [port.x, port.y] as const] as const)),
  );
  return edges.flatMap((edge): PlacedEdge[] => {
    const [from, to] = [points.get(edge.from), points.get(edge.to)];
    return from && to
      ? [{ id: edge.id, name: edge.name, width: edge.width, from: edge.from, to: edge.to, points: [from, to] }]
      : [];
  });
}
