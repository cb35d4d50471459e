import type { Messages } from '../hdl/index.ts';
import type { CombinationalLoop, Netlist } from '../netlist/index.ts';
import { checkClocks } from './clocks.ts';
import { checkCrossings } from './crossings.ts';
import { NetNames } from './names.ts';
import { checkRemoved } from './removed.ts';

/** Reads a design before and after optimisation, and the loops found on the way, and says what it finds. */
export function checkNetlist(
  whole: Netlist,
  small: Netlist,
  loops: readonly CombinationalLoop[],
  messages: Messages,
): void {
  for (const loop of apart(loops)) reportLoop(whole, loop, messages);
  const names = new NetNames(small);
  checkClocks(small, names, messages);
  checkCrossings(small, names, messages);
  checkRemoved(whole, small, messages);
}

const wordOf = (name: string): string => name.replace(/\[\d+\]$/, '');

/** Loops through the same words, one for each bit, are one loop of words. */
function apart(loops: readonly CombinationalLoop[]): CombinationalLoop[] {
  const byWords = new Map<string, CombinationalLoop[]>();
  for (const loop of loops) {
    const key = [...new Set(loop.names.map(wordOf))].join();
    byWords.set(key, [...(byWords.get(key) ?? []), loop]);
  }
  return [...byWords.values()].flatMap((same) =>
    same.length === 1 ? same : [{ names: [...new Set((same[0]?.names ?? []).map(wordOf))] }],
  );
}

function reportLoop(whole: Netlist, { names }: CombinationalLoop, messages: Messages): void {
  const signals = names.flatMap((name) => whole.signals.find((signal) => signal.name === wordOf(name)) ?? []);
  const at = signals[0]?.at ?? whole.signals[0]?.at ?? { file: '', line: 1, column: 1 };
  messages.add(
    'error',
    'loop',
    at,
    'This logic feeds itself without a register: ' +
      `${names.join(' > ') || 'unnamed signals'}${names[0] === undefined ? '' : ` > ${names[0]}`}. Put a register ` +
      'into the way round.',
    { trail: signals.map((signal) => ({ name: signal.name, ...signal.at })) },
  );
}
