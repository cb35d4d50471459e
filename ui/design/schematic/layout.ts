import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api';
import type { Schematic, SchematicNode } from '../../../core/schematic/index.ts';

/** A drawing with places, in pixels. Children of an expanded instance are placed within it. */
export interface PlacedNode {
  readonly node: SchematicNode;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly ports: readonly { readonly id: string; readonly name: string; readonly side: 'in' | 'out'; readonly x: number; readonly y: number }[];
}

export interface PlacedEdge {
  readonly id: string;
  readonly name: string;
  readonly width: number;
  readonly from: string;
  readonly to: string;
  readonly points: readonly (readonly [number, number])[];
}

export interface PlacedDrawing {
  readonly nodes: readonly PlacedNode[];
  readonly edges: readonly PlacedEdge[];
  readonly width: number;
  readonly height: number;
}

const CHAR = 6.6;
const SMALL_CHAR = 5.6;
const PORT_STEP = 15;
const HEAD = 30;

/** Drawings beyond this are laid out in a faster, plainer way. */
const LARGE = 400;

/** The drawing as the layout engine takes it. */
export function elkGraph(drawing: Schematic): ElkNode {
  const large = drawing.nodes.length > LARGE;
  return {
    id: 'root',
    layoutOptions: {
      'elk.algorithm': 'layered', 'elk.direction': 'RIGHT', 'elk.edgeRouting': large ? 'POLYLINE' : 'ORTHOGONAL',
      ...(drawing.nodes.some((node) => node.inside) ? { 'elk.hierarchyHandling': 'INCLUDE_CHILDREN' } : {}),
      'elk.spacing.nodeNode': '14', 'elk.layered.spacing.nodeNodeBetweenLayers': large ? '30' : '44', 'elk.spacing.edgeEdge': '7', 'elk.layered.spacing.edgeNodeBetweenLayers': '12', 'elk.layered.spacing.edgeEdgeBetweenLayers': '7',
      'elk.layered.nodePlacement.strategy': large ? 'SIMPLE' : 'NETWORK_SIMPLEX', 'elk.layered.thoroughness': large ? '1' : '7', 'elk.padding': '[top=16,left=16,bottom=16,right=16]',
      ...(large ? { 'elk.layered.crossingMinimization.greedySwitch.type': 'OFF', 'elk.layered.layering.strategy': 'LONGEST_PATH' } : {}),
    },
    ...contents(drawing),
  };
}

function contents(drawing: Schematic): { children: ElkNode[]; edges: ElkExtendedEdge[] } {
  return { children: drawing.nodes.map(elkNode), edges: drawing.edges.map((edge) => ({ id: edge.id, sources: [edge.from], targets: [edge.to] })) };
}

function elkNode(node: SchematicNode): ElkNode {
  const ins = node.ports.filter((port) => port.side === 'in');
  const outs = node.ports.filter((port) => port.side === 'out');
  const named = node.kind === 'instance' || node.ports.some((port) => port.name !== '');
  const longest = (ports: typeof ins) => Math.max(0, ...ports.map((port) => port.name.length));
  const text = Math.max(node.label.length * CHAR, node.detail.length * SMALL_CHAR) + 18;
  const width = Math.max(node.kind === 'operation' || node.kind === 'constant' ? 34 : 60, text, named ? (longest(ins) + longest(outs)) * SMALL_CHAR + 30 : 0);
  const rows = Math.max(ins.length, outs.length);
  const height = named ? HEAD + rows * PORT_STEP + 4 : node.detail === '' ? 24 : 34;
  const port = (p: (typeof ins)[number], i: number, of: number) => ({
    id: p.id, width: 1, height: 1, x: p.side === 'in' ? 0 : width, y: named ? HEAD + i * PORT_STEP + PORT_STEP / 2 : (height * (i + 1)) / (of + 1),
    layoutOptions: { 'elk.port.side': p.side === 'in' ? 'WEST' : 'EAST', 'elk.port.index': String(p.side === 'in' ? of - 1 - i : i) },
  });
  const inside = node.inside ? contents(node.inside) : {};
  return {
    id: node.id, width, height,
    layoutOptions: { 'elk.portConstraints': node.inside ? 'FIXED_SIDE' : 'FIXED_POS', ...(node.inside ? { 'elk.padding': '[top=40,left=30,bottom=14,right=30]', 'elk.nodeSize.constraints': 'MINIMUM_SIZE PORTS', 'elk.nodeSize.minimum': `(${width}, ${height})` } : {}), ...(node.kind === 'input' ? { 'elk.layered.layering.layerConstraint': 'FIRST' } : node.kind === 'output' ? { 'elk.layered.layering.layerConstraint': 'LAST' } : {}) },
    ports: [...ins.map((p, i) => port(p, i, ins.length)), ...outs.map((p, i) => port(p, i, outs.length))],
    ...inside,
  };
}

/** The laid-out graph with every place counted from the upper left corner. */
export function placedDrawing(drawing: Schematic, laid: ElkNode): PlacedDrawing {
  const nodes: PlacedNode[] = [];
  const edges: PlacedEdge[] = [];
  const origin = new Map<string, readonly [number, number]>();
  const visit = (graph: Schematic, at: ElkNode, x0: number, y0: number): void => {
    origin.set(at.id, [x0, y0]);
    const children = new Map((at.children ?? []).map((child) => [child.id, child]));
    for (const node of graph.nodes) {
      const found = children.get(node.id);
      if (!found) continue;
      const [x, y] = [x0 + (found.x ?? 0), y0 + (found.y ?? 0)];
      nodes.push({
        node, x, y, width: found.width ?? 0, height: found.height ?? 0,
        ports: (found.ports ?? []).map((port) => { const own = node.ports.find((p) => p.id === port.id); return { id: port.id, name: own?.name ?? '', side: own?.side ?? 'in', x: x + (port.x ?? 0), y: y + (port.y ?? 0) }; }),
      });
      if (node.inside) visit(node.inside, found, x, y);
    }
  };
  visit(drawing, laid, 0, 0);
  const walk = (graph: Schematic, at: ElkNode): void => {
    const meant = new Map(graph.edges.map((edge) => [edge.id, edge]));
    for (const edge of at.edges ?? []) {
      const own = meant.get(edge.id);
      if (!own) continue;
      const [x0, y0] = origin.get((edge as ElkExtendedEdge & { container?: string }).container ?? at.id) ?? [0, 0];
      for (const section of edge.sections ?? []) edges.push({ id: own.id, name: own.name, width: own.width, from: own.from, to: own.to, points: [section.startPoint, ...(section.bendPoints ?? []), section.endPoint].map((p) => [x0 + p.x, y0 + p.y] as const) });
    }
    const children = new Map((at.children ?? []).map((child) => [child.id, child]));
    for (const node of graph.nodes) {
      const found = children.get(node.id);
      if (node.inside && found) walk(node.inside, found);
    }
  };
  walk(drawing, laid);
  return { nodes, edges, width: laid.width ?? 0, height: laid.height ?? 0 };
}
