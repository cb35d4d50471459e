import type { Design, Vector, Word } from '../../hdl/index.ts';
import { ProblemError, problem } from '../../result.ts';
import { buildSimulation } from './build.ts';
import { Machine } from './machine.ts';
import type { Cell } from './objects.ts';

interface SteppedPort {
  readonly name: string;
  readonly width: number;
  readonly direction: 'input' | 'output' | 'inout';
}

/** A declared signal and how to read what it holds now. */
interface SteppedSignal {
  readonly name: string;
  readonly width: number;
  readonly read: () => Word;
}

/** Ticks of a picosecond, the precision of cells: enough for whatever they do between two changes. */
const CELL_STEP = 50_000;

/**
 * A design without a testbench: its inputs are set from outside, and after each change it runs until nothing is left to
 * do at that moment. Where it has cells of the part, 50 ns pass with each change: a clock set up and down is one of
 * 10 MHz.
 */
export class Stepped {
  readonly ports: readonly SteppedPort[];
  readonly #machine: Machine;
  readonly #cells: ReadonlyMap<string, Cell>;
  readonly #vectors: readonly (readonly [Vector, Cell])[];
  readonly #step: number;
  #time = 0;

  private constructor(
    machine: Machine,
    step: number,
    ports: readonly (readonly [Vector, Cell])[],
    all: readonly (readonly [Vector, Cell])[],
  ) {
    this.#machine = machine;
    this.#step = step;
    this.#vectors = all;
    this.#cells = new Map(ports.map(([vector, cell]) => [vector.name, cell]));
    this.ports = ports.flatMap(([{ name, width, direction }]) => (direction ? [{ name, width, direction }] : []));
    this.#settle();
  }

  /** Null where the design cannot be simulated; its messages say why. */
  static of(design: Design): Stepped | null {
    const built = buildSimulation(design);
    const { top, names } = design;
    if (!built || !top) return null;
    const host = { read: () => null, print: () => {} };
    const machine = new Machine(built, { ...host, plusargs: [], readData: names.readData });
    const withCell = (vector: Vector) => [vector, built.objects.of(vector)] as const;
    const plain = names.vectors.filter(({ shape }) => !shape.special && !shape.unpacked);
    const ports = top.module.ports.flatMap(({ name }) => {
      const port = top.scope.names.get(name);
      return port?.kind === 'vector' ? [withCell(port)] : [];
    });
    return new Stepped(machine, design.usesCells ? CELL_STEP : 1, ports, plain.map(withCell));
  }

  /** All named signals, in the order in which they are declared. */
  get signals(): SteppedSignal[] {
    return this.#vectors.map(([{ path, width }, { id }]) => ({
      name: path,
      width,
      read: () => this.#machine.runtime.wordOf(id),
    }));
  }

  /**
   * Sets inputs, all at once, and lets a little time pass; with cells, whose clocks are to come evenly, none where
   * `isBetween` two changes of a clock.
   */
  set(values: ReadonlyMap<string, Word>, isBetween = false): void {
    for (const [name, word] of values) {
      const cell = this.#cells.get(name);
      if (cell) this.#machine.runtime.putHeld(cell.id, word.v, word.x);
    }
    this.#settle(isBetween && this.#step > 1);
  }

  get(name: string): Word {
    const cell = this.#cells.get(name);
    return cell ? this.#machine.runtime.wordOf(cell.id) : { v: 0n, x: 0n };
  }

  #settle(atOnce = false): void {
    const { kernel } = this.#machine.runtime;
    const { ending, told } = this.#machine.run({ until: atOnce ? kernel.time : this.#time });
    if (!atOnce) {
      // What measures time needs it to pass where nothing happens, too.
      if (this.#step > 1) kernel.time = this.#time;
      this.#time += this.#step;
    }
    if (ending === 'idle' || ending === 'limit') return;
    throw new ProblemError(problem(`simulation-${ending}`, told || `The simulation ended by itself: ${ending}.`));
  }
}
