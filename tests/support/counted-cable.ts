import type { Cable } from '../../core/jtag/index.ts';

/**
 * A cable whose time is counted and not waited for: TCK cycles, pauses, and round trips. Batches that are sent while
 * others are under way share their trip, as they would on a line.
 */
export function countedCable(cable: Cable, eachWaySeconds: number) {
  const spent = { cycles: 0, pauseSeconds: 0, trips: 0 };
  let underWay = 0;
  const through = async <T>(work: () => Promise<T>): Promise<T> => {
    if (underWay++ === 0) spent.trips++;
    const answer = await work();
    // Whoever sends the next without waiting for this one has done so by then.
    await new Promise((resolve) => setImmediate(resolve));
    underWay--;
    return answer;
  };
  const counted: Cable = {
    get tckHz() {
      return cable.tckHz;
    },
    state: () => through(() => cable.state()),
    setFrequency: (hz) => through(() => cable.setFrequency(hz)),
    run: (ops) =>
      through(() => {
        for (const op of ops) {
          if (op.kind === 'wait') spent.pauseSeconds += op.microseconds / 1e6;
          else if (op.kind !== 'trst') spent.cycles += op.count;
        }
        return cable.run(ops);
      }),
  };
  return {
    cable: counted,
    /** What a piece of work took: cycles, round trips, and seconds of all of it. */
    of: async <T>(work: () => Promise<T>) => {
      const before = { ...spent };
      const answer = await work();
      const cycles = spent.cycles - before.cycles;
      const trips = spent.trips - before.trips;
      const seconds = cycles / cable.tckHz + spent.pauseSeconds - before.pauseSeconds + trips * 2 * eachWaySeconds;
      return { answer, cycles, trips, seconds };
    },
  };
}
