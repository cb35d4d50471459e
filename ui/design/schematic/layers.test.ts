import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Schematic, SchematicNode } from '../../../core/schematic/index.ts';
import type { PlacedDrawing } from './layout.ts';
import { placeInLayers } from './layers.ts';

const box = (id: string, inside?: Schematic): SchematicNode => ({
  id,
  kind: inside ? 'instance' : 'operation',
  label: id,
  detail: '',
  path: id,
  file: '',
  line: 0,
  ports: [
    { id: `${id}!in`, name: '', side: 'in', width: 1 },
    { id: `${id}!out`, name: '', side: 'out', width: 1 },
  ],
  ...(inside ? { inside } : {}),
});
const graph = (nodes: readonly SchematicNode[], pairs: readonly (readonly [string, string])[]): Schematic => ({
  nodes,
  cut: false,
  edges: pairs.map(([from, to], i) => ({
    id: `${nodes[0]?.id}-${i}`,
    from: `${from}!out`,
    to: `${to}!in`,
    name: 'n',
    width: 1,
  })),
});
const of = (placed: PlacedDrawing, id: string) =>
  placed.nodes.find((n) => n.node.id === id) as PlacedDrawing['nodes'][number];

describe('a large drawing in columns', () => {
  test('what feeds stands left of what is fed', () => {
    const placed = placeInLayers(
      graph(
        ['a', 'b', 'c'].map((id) => box(id)),
        [
          ['a', 'b'],
          ['b', 'c'],
          ['a', 'c'],
        ],
      ),
    );
    const [a, b, c] = [of(placed, 'a'), of(placed, 'b'), of(placed, 'c')];
    expect(a.x + a.width).toBeLessThan(b.x);
    expect(b.x + b.width).toBeLessThan(c.x);
  });

  test('boxes lie apart and lines join their points, whatever leads back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40 }),
        fc.array(fc.tuple(fc.nat(39), fc.nat(39)), { maxLength: 120 }),
        (count, pairs) => {
          const nodes = Array.from({ length: count }, (_, i) => box(`n${i}`));
          const drawing = graph(
            nodes,
            pairs.map(([from, to]) => [`n${from % count}`, `n${to % count}`] as const),
          );
          const placed = placeInLayers(drawing);
          for (const [i, one] of placed.nodes.entries())
            for (const other of placed.nodes.slice(i + 1))
              expect(
                one.x + one.width <= other.x ||
                  other.x + other.width <= one.x ||
                  one.y + one.height <= other.y ||
                  other.y + other.height <= one.y,
              ).toBe(true);
          expect(placed.edges.length).toBe(drawing.edges.length);
          const points = new Map(placed.nodes.flatMap((n) => n.ports.map((p) => [p.id, p] as const)));
          for (const edge of placed.edges) {
            const [from, to] = [points.get(edge.from), points.get(edge.to)];
            expect(edge.points[0]).toEqual([from?.x, from?.y]);
            expect(edge.points.at(-1)).toEqual([to?.x, to?.y]);
            for (const [k, [x, y]] of edge.points.slice(1).entries())
              expect(x === edge.points[k]?.[0] || y === edge.points[k]?.[1]).toBe(true);
            for (const [x, y] of edge.points)
              expect(x >= 0 && y >= 0 && x <= placed.width && y <= placed.height).toBe(true);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  test('an open instance has its contents within, joined to its frame', () => {
    const inside: Schematic = { ...graph([box('i'), box('j')], [['i', 'j']]), cut: false };
    const joined: Schematic = {
      ...inside,
      edges: [...inside.edges, { id: 'f', from: 'u!in', to: 'i!in', name: 'f', width: 1 }],
    };
    const placed = placeInLayers(graph([box('a'), box('u', joined)], [['a', 'u']]));
    const [u, i, j] = [of(placed, 'u'), of(placed, 'i'), of(placed, 'j')];
    for (const inner of [i, j])
      expect(
        inner.x > u.x &&
          inner.y > u.y &&
          inner.x + inner.width < u.x + u.width &&
          inner.y + inner.height < u.y + u.height,
      ).toBe(true);
    expect(placed.edges.find((edge) => edge.id === 'f')?.points).toEqual([
      [u.x, u.ports[0]?.y],
      [i.x, i.ports[0]?.y],
    ]);
  });

  test('two thousand boxes in a long chain with shortcuts do not exhaust the stack', () => {
    const nodes = Array.from({ length: 2000 }, (_, i) => box(`n${i}`));
    const pairs = nodes.slice(1).map((_, i) => [`n${i}`, `n${i + 1}`] as const);
    expect(
      placeInLayers(
        graph(nodes, [...pairs, ...pairs.slice(0, 300).map(([from], i) => [from, `n${i * 6 + 20}`] as const)]),
      ).nodes.length,
    ).toBe(2000);
  });
});
