import { checkNetlist } from '../checks/index.ts';
import { elaborate, type HierarchyNode, type Message, Messages, type SourceMemory } from '../hdl/index.ts';
import { type Netlist, optimise, type Optimised } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import { designSettings, filesForHardware, type Project } from './project.ts';
import { describeSignals, type SignalInfo } from './signals.ts';

/** What the sources of a project say, whatever its plan, pins and constraints are. */
interface Understood {
  /** Every declared name still in it; it is not to be changed. */
  readonly netlist: Netlist;
  readonly hierarchy: HierarchyNode | null;
  readonly plain: Optimised;
  readonly described: { readonly signals: SignalInfo[]; readonly clocks: string[] };
  readonly modules: readonly string[];
  /** Behind the header of the top module. */
  readonly topBody: Place | null;
  /** Of reading, and of checking what was read. */
  readonly messages: readonly Message[];
  readonly filesRead: number;
}

/** What was read last: while sources, part, top and parameters stay as they were, they are not read again. */
export interface KnownDesign {
  readonly files: Project['files'];
  readonly settings: string;
  readonly understood: Understood;
}

interface UnderstandMemory {
  readonly sources: SourceMemory;
  design?: KnownDesign;
}

interface Understanding {
  readonly hierarchy: HierarchyNode | null;
  readonly modules: readonly string[];
  readonly topBody: Place | null;
  readonly messages: Messages;
  readonly filesRead: number;
  readonly filesKnown: number;
  /** Null where the sources do not make a design. */
  readonly understood: Understood | null;
}

/** Where the choice of the top module stands. */
const SETTINGS = { file: 'nimble.json', line: 1, column: 1 };

/** Reads, optimises and checks the design of a project. */
export function understand(project: Project, memory: UnderstandMemory): Understanding {
  const files = filesForHardware(project);
  const settings = JSON.stringify([project.file.part, project.file.top ?? null, project.file.parameters ?? null]);
  const known = memory.design;
  if (known && known.settings === settings && areSame(known.files, files)) {
    const { understood } = known;
    const messages = new Messages();
    for (const { severity, code, message, file, line, column, ...more } of understood.messages)
      messages.add(severity, code, { file, line, column }, message, more);
    const { hierarchy, modules, topBody, filesRead } = understood;
    return { hierarchy, modules, topBody, messages, filesRead, filesKnown: filesRead, understood };
  }
  const read = elaborate(files, { ...designSettings(project.file), topFrom: SETTINGS, memory: memory.sources });
  const { netlist, messages, filesKnown, ...found } = read;
  if (!netlist) return { ...found, messages, filesKnown, understood: null };
  const plain = optimise(netlist);
  checkNetlist(netlist, plain.netlist, plain.loops, messages);
  const described = describeSignals(netlist, plain);
  const understood = { ...found, netlist, plain, described, messages: [...messages.list] };
  memory.design = { files, settings, understood };
  return { ...found, messages, filesKnown, understood };
}

const areSame = (x: Project['files'], y: Project['files']): boolean =>
  x.length === y.length && x.every(({ name, text }, i) => name === y[i]?.name && text === y[i]?.text);

/** A netlist that may be added to, where the one that it comes from may not. */
export const copyOf = (netlist: Netlist): Netlist => ({
  nodes: [...netlist.nodes],
  origins: [...netlist.origins],
  registers: [...netlist.registers],
  memories: netlist.memories.map((memory) => ({ ...memory, writes: [...memory.writes] })),
  inputs: [...netlist.inputs],
  outputs: [...netlist.outputs],
  signals: [...netlist.signals],
  cells: [...netlist.cells],
});
