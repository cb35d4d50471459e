import type { PortNeed } from '../constraints/index.ts';
import { partNamed } from '../families/index.ts';
import type { Message } from '../hdl/index.ts';
import type { Place } from '../result.ts';
import type { BuildMemory } from './build.ts';
import { generatorsIn, type GeneratorUse } from './generators.ts';
import type { Project } from './project.ts';
import { clockPorts } from './signals.ts';
import { understand } from './understand.ts';

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
  const { hierarchy, modules, topBody, messages, understood } = understand(project, memory);
  const small = understood?.plain.netlist ?? null;
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
