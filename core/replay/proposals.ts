// What to record so that all of a region can be computed, from the fewest bits to the shortest unknown beginning.
import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { type BitGraph, CONSTANT, type Vertex } from './bit-graph.ts';
import { circlesOf, type Cone, coneOf, onCircles, type Way, waysOnCircles } from './feedback.ts';
import { lostIn } from './closure.ts';
import { leastCut } from './least-cut.ts';
import { problem } from './problems.ts';
import type { Region } from './region.ts';
import { beginningOf, type Unknown } from './beginning.ts';
import { partIn, type StoredPart, storedParts } from './stored-parts.ts';

/**
 * Which registers are trusted to come to a known value by themselves, each trusting more than the one before: `none`;
 * those that time alone moves on (`flows`); those that a value is loaded into (`loaded`); those that are reset at times
 * (`reset`); all (`all`), however long it takes.
 */
const TRUSTS = ['none', 'flows', 'loaded', 'reset', 'all'] as const;
export type Trust = (typeof TRUSTS)[number];

/** What was asked of a proposal beside the region. */
interface Limits {
  /** Full names of signals that are recorded whatever follows. */
  readonly insist?: readonly string[] | undefined;
  /** Full names of signals that are not to be recorded. */
  readonly never?: readonly string[] | undefined;
}

export interface Proposal {
  readonly trust: Trust;
  /** How many registers before the region may be computed too; null for any number. */
  readonly reach: number | null;
  readonly stored: readonly StoredPart[];
  readonly storedBits: number;
  /** Bits of what was chosen that will be seen, each counted once however many names it has. */
  readonly seenBits: number;
  /** Bits with names outside of it that follow from the same record. */
  readonly alongBits: number;
  /** Bits of words of memories that will be followed. */
  readonly memoryBits: number;
  /** Bits that are seen for one that is stored. */
  readonly factor: number;
  readonly unknown: readonly Unknown[];
  /**
   * Registers that keep a value from before the record until something sets them. Read once at the trigger, all of
   * them, they leave unknown no more than `unknownIfRead`, counted from there on.
   */
  readonly readable: readonly StoredPart[];
  readonly readableBits: number;
  readonly unknownIfRead: readonly Unknown[];
}

const REACHES: readonly (number | null)[] = [0, 1, 2, 4, 8, null];
/** Registers tried in turn when one of a circle is chosen. */
const MOST_TRIED = 24;

/**
 * Proposals that are each worth having: none of them stores as few bits as another one that knows more from the
 * beginning. Most bits first.
 */
export function proposalsFor(region: Region, limits: Limits = {}): Result<readonly Proposal[]> {
  const found: Proposal[] = [];
  let missing: string[] = [];
  for (const trust of TRUSTS) {
    let best: Cut | null = null;
    const picked = pick(region, trust);
    for (const reach of REACHES) {
      const cut = cutFor(region, limits, { trust, reach, picked });
      if (!Array.isArray(cut)) {
        missing = cut.missing;
        continue;
      }
      const stored = storedParts(region, cut, limits.insist ?? []);
      const storedBits = stored.reduce((sum, { width }) => sum + width, 0);
      if (best === null || storedBits < best.storedBits) best = { cut, stored, storedBits, reach };
    }
    if (best && found.every((one) => one.storedBits > best.storedBits)) found.push(proposalOf(region, best, trust));
  }
  return found.length > 0 ? ok(found) : fail(problem('cannot-be-stored', { names: missing.slice(0, 8).join(', ') }));
}

/** The proposal that knows most from the beginning with at most so many bits. */
export function proposalWithin(proposals: readonly Proposal[], bits: number | null): Result<Proposal> {
  const fitting = proposals[placeWithin(proposals, bits)];
  if (fitting) return ok(fitting);
  const least = Math.min(...proposals.map(({ storedBits }) => storedBits));
  return fail(problem('too-few-bits', { wanted: bits ?? 0, least }));
}

/**
 * Its place among them, -1 where none stores so few; without a wish the place of the one that trusts registers that
 * values are loaded into, where that makes a difference.
 */
export function placeWithin(proposals: readonly Proposal[], bits: number | null): number {
  if (bits !== null) return proposals.findIndex(({ storedBits }) => storedBits <= bits);
  return Math.max(
    0,
    proposals.findLastIndex(({ trust }) => TRUSTS.indexOf(trust) <= TRUSTS.indexOf('loaded')),
  );
}

/** Bits that do, as signals and parts of them. */
interface Cut extends Pick<Proposal, 'stored' | 'storedBits' | 'reach'> {
  readonly cut: readonly Vertex[];
}

interface Asked {
  readonly trust: Trust;
  readonly reach: number | null;
  /** Registers and memories that have to be recorded because they are not trusted. */
  readonly picked: ReadonlySet<Vertex>;
}

/** The bits to store; what cannot be done without where there are none. */
function cutFor(region: Region, { insist = [], never = [] }: Limits, asked: Asked): Vertex[] | { missing: string[] } {
  const { graph } = region;
  const [wanted, left] = [verticesOf(region, insist), verticesOf(region, never)];
  const far = asked.reach === null ? null : within(region, asked.reach);
  const isSource = (v: Vertex) => region.reasonOf(v) !== null || asked.picked.has(v) || (far !== null && !far.has(v));
  const cone = coneOf(graph, region.targets, (v) => isSource(v) || wanted.has(v));
  const place = new Map(cone.vertices.map((v, i) => [v, i]));
  const placeOf = (v: Vertex) => place.get(v) ?? 0;
  const costs = cone.vertices.map((v) => {
    if (wanted.has(v)) return 0;
    return left.has(v) || region.namesOf(v).length === 0 || graph.memoryOf(v) !== null ? Number.POSITIVE_INFINITY : 1;
  });
  const edges: (readonly [number, number])[] = [];
  for (const to of cone.vertices)
    if (cone.closed[to] === 0) graph.feeds(to, (from) => void edges.push([placeOf(from), placeOf(to)]));
  const sources = cone.vertices.filter((v) => isSource(v) && !wanted.has(v)).map(placeOf);
  const cut = leastCut({ size: cone.vertices.length, edges, costs, sources, targets: region.targets.map(placeOf) });
  if (cut === null) {
    const stuck = cone.vertices.filter((v) => isSource(v) && (left.has(v) || region.namesOf(v).length === 0));
    return { missing: [...new Set(stuck.map((v) => region.nameOf(v)))] };
  }
  return [...new Set([...cut.map((i) => item(cone.vertices, i)), ...wanted])];
}

function verticesOf(region: Region, names: readonly string[]): Set<Vertex> {
  const { design, graph } = region;
  const vertices = new Set<Vertex>();
  for (const { name, node } of design.signals)
    if (names.some((one) => name === one || name.startsWith(`${one}.`)))
      for (const vertex of graph.bitsOf(node)) if (vertex !== CONSTANT) vertices.add(vertex);
  for (const name of names)
    for (const vertex of partIn(region, name) ?? []) if (vertex !== CONSTANT) vertices.add(vertex);
  return vertices;
}

/** Vertices with at most so many registers between them and the region; its own do not count. */
function within(region: Region, reach: number): Set<Vertex> {
  const { graph } = region;
  const seen = new Set(region.targets);
  const now = [...seen];
  for (let step = 0; now.length > 0; step++) {
    const next: Vertex[] = [];
    for (let v = now.pop(); v !== undefined; v = now.pop())
      graph.feeds(v, (from, delay) => {
        if (seen.has(from)) return;
        const isOwn = delay === 0 || (region.isSeen(v) && graph.registerOf(v) !== null);
        if (!isOwn && step >= reach) return;
        if (isOwn) {
          seen.add(from);
          now.push(from);
        } else next.push(from);
      });
    for (const v of next)
      if (!seen.has(v)) {
        seen.add(v);
        now.push(v);
      }
  }
  return seen;
}

const ENOUGH: Readonly<Record<Trust, readonly Way[]>> = {
  none: [],
  flows: ['flows'],
  loaded: ['flows', 'loaded'],
  reset: ['flows', 'loaded', 'reset'],
  all: ['flows', 'loaded', 'reset', 'never'],
};

/**
 * Registers to be recorded so that all others are of the trusted kinds: one after another, each the one that helps most
 * for its bits, then those left out again that another one has made needless.
 */
function pick(region: Region, trust: Trust): Set<Vertex> {
  const { graph } = region;
  const picked = new Set<Vertex>();
  if (trust === 'all') return picked;
  const cone = coneOf(graph, region.targets, (v) => region.reasonOf(v) !== null);
  if (trust === 'none') {
    for (const v of cone.vertices)
      if (region.isSeen(v) && (graph.registerOf(v) || graph.memoryOf(v) !== null)) picked.add(v);
    return picked;
  }
  const words: Vertex[][] = [];
  const isPicked = (v: Vertex) => picked.has(v);
  const all = onCircles(cone, isPicked);
  for (let rest = all; ; rest = onCircles(rest, isPicked)) {
    const bad = untrusted(rest, trust);
    if (bad.length === 0) break;
    const among = rest;
    const left = (without: readonly Vertex[]) => {
      const gone = new Set(without);
      return untrusted(
        onCircles(among, (v) => gone.has(v)),
        trust,
      ).length;
    };
    const word = mostHelpful(graph, bad, left);
    for (const v of word) picked.add(v);
    words.push(word);
  }
  for (const word of words.sort((a, b) => b.length - a.length)) {
    for (const v of word) picked.delete(v);
    if (untrusted(onCircles(all, isPicked), trust).length > 0) for (const v of word) picked.add(v);
  }
  return picked;
}

/** Registers and memories on circles that do not come to a value in a way that is trusted. */
const untrusted = (cone: Cone, trust: Trust): Vertex[] =>
  [...waysOnCircles(cone, circlesOf(cone))].flatMap(([v, way]) => (ENOUGH[trust].includes(way) ? [] : [v]));

/** The bits of one register, or of a memory, with which fewest others stay untrusted for the bits they take. */
function mostHelpful(graph: BitGraph, bad: readonly Vertex[], left: (without: readonly Vertex[]) => number): Vertex[] {
  const words = new Map<string, Vertex[]>();
  for (const v of bad) {
    const word = graph.wordOf(v);
    const key = word ? `r${word.node}` : `m${graph.memoryOf(v)}`;
    const known = words.get(key);
    if (known) known.push(v);
    else words.set(key, [v]);
  }
  // Narrow ones first: a state of a few bits is what decides most.
  const tried = [...words.values()].sort((a, b) => a.length - b.length).slice(0, MOST_TRIED);
  let best = item(tried, 0);
  let least = Number.POSITIVE_INFINITY;
  if (tried.length === 1) return best;
  for (const word of tried) {
    const price = left(word) + word.length;
    if (price < least) [best, least] = [word, price];
  }
  return best;
}

function proposalOf(region: Region, { cut, stored, storedBits, reach }: Cut, trust: Trust): Proposal {
  const { graph } = region;
  const known = new Set(cut);
  const cone: Cone = coneOf(graph, region.targets, (v) => known.has(v));
  const along = alongWith(region, known, trust);
  const seenBits = region.targets.length;
  const memories = new Set(cone.vertices.map((v) => graph.memoryOf(v)).filter((one) => one !== null));
  const memoryBits = [...memories].reduce((sum, memory) => {
    const { width, depth } = item(region.design.netlist.memories, memory);
    return sum + width * depth;
  }, 0);
  const ways = waysOnCircles(cone, circlesOf(cone));
  const kept = [...ways].flatMap(([v, way]) =>
    way !== 'flows' && graph.registerOf(v) && region.namesOf(v).length > 0 ? [v] : [],
  );
  const readable = kept.length === 0 ? [] : storedParts(region, kept, []);
  return {
    trust,
    reach,
    readable,
    readableBits: readable.reduce((sum, { width }) => sum + width, 0),
    unknownIfRead: beginningOf(region, readCone(region, known, kept), new Set([...known, ...kept])),
    stored,
    storedBits,
    seenBits,
    alongBits: along,
    memoryBits,
    factor: storedBits === 0 ? 0 : (seenBits + along) / storedBits,
    unknown: beginningOf(region, cone, known),
  };
}

const readCone = ({ graph, targets }: Region, known: ReadonlySet<Vertex>, read: readonly Vertex[]): Cone => {
  const closed = new Set([...known, ...read]);
  return coneOf(graph, targets, (v) => closed.has(v));
};

/** Bits with names, outside the region, that follow from the same bits; a register on a circle where it is trusted. */
function alongWith(region: Region, known: ReadonlySet<Vertex>, trust: Trust): number {
  const { graph } = region;
  const everywhere = coneOf(
    graph,
    region.design.signals.flatMap(({ node }) => graph.bitsOf(node)).filter((v) => v !== CONSTANT),
    (v) => known.has(v) || region.reasonOf(v) !== null,
  );
  const ways = waysOnCircles(everywhere, circlesOf(everywhere));
  const lost = lostIn(region, known, undefined, (v) => !ENOUGH[trust].includes(ways.get(v) ?? 'flows'));
  return everywhere.vertices.filter((v) => lost[v] === 0 && region.namesOf(v).length > 0 && !region.isSeen(v)).length;
}
