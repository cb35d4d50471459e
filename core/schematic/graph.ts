/** One connection point of a box. */
export interface SchematicPort {
  readonly id: string;
  readonly name: string;
  readonly side: 'in' | 'out';
  readonly width: number;
}

/**
 * A box. `path` is the full name of an instance, register or port, for jumping; file and line are where it is written.
 * An expanded instance, or box of logic, has its contents in `inside`.
 */
export interface SchematicNode {
  readonly id: string;
  readonly kind: 'instance' | 'register' | 'memory' | 'logic' | 'operation' | 'constant' | 'input' | 'output';
  readonly label: string;
  readonly detail: string;
  readonly path: string;
  readonly file: string;
  readonly line: number;
  readonly ports: readonly SchematicPort[];
  readonly inside?: Schematic;
}

/** A line from an output to an input; ends are ids of ports. */
export interface SchematicEdge {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  readonly name: string;
  readonly width: number;
}

export interface Schematic {
  readonly nodes: readonly SchematicNode[];
  readonly edges: readonly SchematicEdge[];
  /** More was there than is drawn. */
  readonly cut: boolean;
}

/** All boxes, those inside open instances too. */
export const countBoxes = (drawing: Schematic): number =>
  drawing.nodes.reduce((sum, node) => sum + 1 + (node.inside ? countBoxes(node.inside) : 0), 0);

export const lastName = (path: string): string => path.slice(path.lastIndexOf('.') + 1);
