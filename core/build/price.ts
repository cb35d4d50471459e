import { type MemoryCells, memoriesOf } from '../families/index.ts';
import { countResources, map } from '../mapping/index.ts';
import { type Netlist, optimise } from '../netlist/index.ts';
import { coresIn, insertCores, type ProbeCost, type ProbePlan } from '../probes/index.ts';
import { type BuildMemory, buildPrint } from './build.ts';
import type { Project } from './project.ts';
import { copyOf, understand } from './understand.ts';

/**
 * What debug cores take in a design, found as a build finds it: the design is mapped with them and without. That counts
 * the logic that is only there because it is probed, and what is known of probed bits and saved.
 */
export class DesignPrices {
  readonly #project: Project;
  readonly #memory: BuildMemory;
  readonly #cells: MemoryCells;
  #plain: ProbeCost | null | undefined;

  constructor(project: Project, memory: BuildMemory) {
    this.#project = project;
    this.#memory = memory;
    this.#cells = memoriesOf(project.file.part);
  }

  /** What the design takes by itself; null where its sources do not make one as they stand. */
  plain(): ProbeCost | null {
    if (this.#plain === undefined) {
      const { understood } = understand(this.#project, this.#memory);
      this.#plain = understood && this.#mapped(understood.plain.netlist);
    }
    return this.#plain;
  }

  /** What a plan adds to it; null where the design is none, or the plan names what it does not have. */
  cost(plan: ProbePlan): ProbeCost | null {
    const plain = this.plain();
    const { understood } = understand(this.#project, this.#memory);
    const netlist = understood && copyOf(understood.netlist);
    if (
      !plain ||
      !netlist ||
      (coresIn(plan) > 0 && !insertCores(netlist, plan, buildPrint({ project: this.#project, plan })).ok)
    )
      return null;
    const whole = this.#mapped(optimise(netlist).netlist);
    return {
      luts: whole.luts - plain.luts,
      registers: whole.registers - plain.registers,
      blockRams: whole.blockRams - plain.blockRams,
    };
  }

  #mapped(netlist: Netlist): ProbeCost {
    const mapped = map(netlist, this.#cells, this.#memory.pieces);
    const { luts, registers, blockRams } = countResources(mapped).total;
    return { luts, registers, blockRams };
  }
}
