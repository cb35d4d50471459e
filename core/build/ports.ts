import type { PortNeed } from '../constraints/index.ts';
import { partNamed } from '../families/index.ts';
import { elaborate, type Message } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import type { BuildMemory } from './build.ts';
import { generatorsIn, type GeneratorUse } from './generators.ts';
import { designSettings, filesForHardware, type Project } from './project.ts';
import { clockPorts } from './signals.ts';

/** The ports of a design as its sources stand, without a build. */
export interface SourcePorts {
  /** Null where the sources do not make a design. */
  readonly ports: readonly PortNeed[] | null;
  readonly top: string | null;
  /** Where something can be put into the top module. */
  readonly topBody: Place | null;
  /** Its clock generators. */
  readonly generators: readonly GeneratorUse[];
  /** All modules that were found, whether the design uses them or not. */
  readonly modules: readonly string[];
  /** The first thing that stands in the way. */
  readonly trouble: Pick<Message, 'file' | 'line' | 'message'> | null;
}

export function readPorts(project: Project, memory: BuildMemory): SourcePorts {
  const { netlist, hierarchy, modules, messages, topBody } = elaborate(filesForHardware(project), {
    ...designSettings(project.file),
    topFrom: { file: 'nimble.json', line: 1, column: 1 },
    memory: memory.sources,
  });
  const small = netlist && optimise(netlist).netlist;
  const generator = partNamed(project.file.part)?.family.clockGenerator ?? null;
  const error = messages.list.find(({ severity }) => severity === 'error');
  return {
    ports: small && clockPorts(small),
    generators: small ? generatorsIn(small, generator) : [],
    top: hierarchy?.name ?? null,
    topBody,
    modules,
    trouble: error ? { file: error.file, line: error.line, message: error.message } : null,
  };
}
