import { item } from '../lists.ts';
import type { BoardDescription } from './board.ts';
import type { PortNeed } from './check-pins.ts';

/** A pin that may belong to a port, with what speaks for it. `score` runs from 0 to 1. */
export interface PinOffer {
  readonly name: string;
  readonly pin: string;
  readonly net: string;
  readonly score: number;
  readonly because: string;
}

/** Words that boards and sources use for the same thing (common practice). */
const SAME: readonly (readonly string[])[] = [
  ['led', 'lamp', 'light', 'ld'],
  ['sw', 'switch', 'dip'],
  ['btn', 'button', 'key', 'push', 'pb'],
  ['clk', 'clock', 'osc', 'xtal'],
  ['rst', 'reset'],
  ['seg', 'segment'],
  ['dig', 'digit', 'common', 'anode', 'com'],
  ['tx', 'txd'],
  ['rx', 'rxd'],
  ['mosi', 'sdi', 'din'],
  ['miso', 'sdo', 'dout'],
  ['sck', 'sclk'],
  ['cs', 'ss', 'ce'],
];
const MEANING = new Map(SAME.flatMap((words) => words.map((word) => [word, item(words, 0)] as const)));
const LEAST_SCORE = 0.5;

interface Parts {
  readonly words: readonly string[];
  readonly index: number | null;
}

/**
 * For every port bit without a pin the best net of the board, where one is likely. Nothing is taken: these are offers.
 */
export function offerPins(
  ports: readonly PortNeed[],
  placed: ReadonlySet<string>,
  board: BoardDescription,
  usedPins: ReadonlySet<string>,
): PinOffer[] {
  const nets = [...board.nets, ...board.oscillators]
    .filter(({ pin }) => !usedPins.has(pin))
    .map(({ net, pin }) => ({ net, pin, parts: partsOf(net) }));
  const wanted = ports
    .flatMap(({ name, width, clock }) =>
      Array.from({ length: width }, (_, bit) => ({
        name: width === 1 ? name : `${name}[${bit}]`,
        key: `${name}[${bit}]`,
        parts: bitParts(name, width, bit),
        clock,
      })),
    )
    .filter(({ key }) => !placed.has(key));
  const all = wanted.flatMap((port) =>
    nets.map((net) => ({
      port,
      net,
      score:
        scoreOf(port.parts, net.parts) + (port.clock && board.oscillators.some((o) => o.pin === net.pin) ? 0.3 : 0),
    })),
  );
  const taken = new Set<string>();
  const given = new Set<string>();
  const offers: PinOffer[] = [];
  for (const { port, net, score } of all
    .filter((pair) => pair.score >= LEAST_SCORE)
    .sort((a, b) => b.score - a.score)) {
    if (taken.has(net.pin) || given.has(port.key)) continue;
    taken.add(net.pin);
    given.add(port.key);
    offers.push({
      name: port.name,
      pin: net.pin,
      net: net.net,
      score: Math.min(1, score),
      because: `net ${net.net} of ${board.name}`,
    });
  }
  return offers.sort((a, b) => (a.name < b.name ? -1 : 1));
}

function bitParts(name: string, width: number, bit: number): Parts {
  const { words, index } = partsOf(name);
  return width === 1 ? { words, index } : { words, index: bit };
}

/** `USER_LED3_N` is the words user and led with the number 3; a sign for active low tells nothing. */
function partsOf(name: string): Parts {
  const pieces = name
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((piece) => piece !== '');
  const words: string[] = [];
  let index: number | null = null;
  for (const piece of pieces) {
    const match = /^([a-z]*)(\d*)$/.exec(piece);
    if (!match) continue;
    const [, word = '', digits = ''] = match;
    if (word !== '' && !['n', 'i', 'o', 'in', 'out', 'p', 'user', 'pin', 'io', 'net'].includes(word))
      words.push(MEANING.get(word) ?? MEANING.get(word.replace(/s$/, '')) ?? word);
    if (digits !== '') index = Number(digits);
  }
  return { words, index };
}

function scoreOf(a: Parts, b: Parts): number {
  const shared = a.words.filter((word) => b.words.includes(word)).length;
  if (shared === 0) return 0;
  const words = shared / Math.max(a.words.length, b.words.length);
  const index = a.index === b.index ? 1 : a.index === null || b.index === null ? 0.5 : 0;
  return words * 0.6 + (index === 0 ? -0.3 : index * 0.4);
}
