import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api';
import type { Schematic, SchematicNode } from '../../../core/schematic/index.ts';
import { boxSize } from './box-size.ts';

/** A drawing with places, in pixels. Children of an expanded instance are placed within it. */
export interface PlacedNode {
  readonly node: SchematicNode;
  readonly x: number;
  readonly y: number;
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

/** The drawing as the layout engine takes it. */
export function elkGraph(drawing: Schematic): ElkNode {
  return {
    id: 'root',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      ...(drawing.nodes.some((node) => node.inside) ? { 'elk.hierarchyHandling': 'INCLUDE_CHILDREN' } : {}),
      'elk.spacing.nodeNode': '14',
      'elk.layered.spacing.nodeNodeBetweenLayers': '44',
      'elk.spacing.edgeEdge': '7',
      'elk.layered.spacing.edgeNodeBetweenLayers': '12',
      'elk.layered.spacing.edgeEdgeBetweenLayers': '7',
      'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
      'elk.layered.thoroughness': '7',
      'elk.padding': '[top=16,left=16,bottom=16,right=16]',
    },
    ...contents(drawing),
  };
}

function contents(drawing: Schematic): { children: ElkNode[]; edges: ElkExtendedEdge[] } {
  return {
    children: drawing.nodes.map(elkNode),
    edges: drawing.edges.map((edge) => ({ id: edge.id, sources: [edge.from], targets: [edge.to] })),
  };
}

function elkNode(node: SchematicNode): ElkNode {
  const { width, height, ports } = boxSize(node);
  const ins = ports.filter((port) => port.side === 'in');
  const order = (port: (typeof ports)[number]) =>
    port.side === 'in' ? ins.length - 1 - ins.indexOf(port) : ports.indexOf(port) - ins.length;
  const inside = node.inside ? contents(node.inside) : {};
  return {
    id: node.id,
    width,
    height,
    layoutOptions: {
      'elk.portConstraints': node.inside ? 'FIXED_SIDE' : 'FIXED_POS',
      ...(node.inside
        ? {
            'elk.padding': '[top=40,left=30,bottom=14,right=30]',
            'elk.nodeSize.constraints': 'MINIMUM_SIZE PORTS',
            'elk.nodeSize.minimum': `(${width}, ${height})`,
          }
        : {}),
      ...(node.kind === 'input'
        ? { 'elk.layered.layering.layerConstraint': 'FIRST' }
        : node.kind === 'output'
          ? { 'elk.layered.layering.layerConstraint': 'LAST' }
          : {}),
    },
    ports: ports.map((port) => ({
      id: port.id,
      width: 1,
      height: 1,
      x: port.x,
      y: port.y,
      layoutOptions: { 'elk.port.side': port.side === 'in' ? 'WEST' : 'EAST', 'elk.port.index': String(order(port)) },
    })),
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
        node,
        x,
        y,
        width: found.width ?? 0,
        height: found.height ?? 0,
        ports: (found.ports ?? []).map((port) => {
          const own = node.ports.find((p) => p.id === port.id);
          return {
            id: port.id,
            name: own?.name ?? '',
            side: own?.side ?? 'in',
            x: x + (port.x ?? 0),
            y: y + (port.y ?? 0),
          };
        }),
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
      for (const section of edge.sections ?? [])
        edges.push({
          id: own.id,
          name: own.name,
          width: own.width,
          from: own.from,
          to: own.to,
          points: [section.startPoint, ...(section.bendPoints ?? []), section.endPoint].map(
            (p) => [x0 + p.x, y0 + p.y] as const,
          ),
        });
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
