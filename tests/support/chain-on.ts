import { type BoardHands, ChainSession } from '../../core/board/index.ts';
import type { Cable, ChainMemory } from '../../core/jtag/index.ts';

/** A session that has not scanned yet, on a cable with nothing said of its chain. */
export const chainOn = (
  cable: Cable,
  { hands = {}, memory = { answers: [], described: [] } }: { hands?: BoardHands; memory?: ChainMemory } = {},
): ChainSession => ChainSession.on({ cable, hands, memory });
