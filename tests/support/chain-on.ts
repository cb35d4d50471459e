import { type BoardHands, ChainSession } from '../../core/board/index.ts';
import { FAMILIES, type Family } from '../../core/families/index.ts';
import type { Cable, ChainMemory } from '../../core/jtag/index.ts';

/** A session that has not scanned yet, on a cable with nothing said of its chain. */
export const chainOn = (
  cable: Cable,
  {
    hands = {},
    memory = { answers: [], described: [] },
    families = FAMILIES,
  }: { hands?: BoardHands; memory?: ChainMemory; families?: readonly Family[] } = {},
): ChainSession => ChainSession.on({ cable, hands, memory, families });
