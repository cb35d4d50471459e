import type { Netlist } from '../netlist/index.ts';
import { type Design, type DesignOptions, type HierarchyNode, readDesign } from './names/index.ts';
import type { Place } from '../result.ts';
import type { Messages, SourceFile } from './read/index.ts';
import { synthesize } from './synth/index.ts';

interface Elaboration extends Pick<Design, 'modules' | 'filesRead' | 'filesKnown'> {
  /** Null when an error stops the design from becoming hardware. */
  readonly netlist: Netlist | null;
  readonly hierarchy: HierarchyNode | null;
  readonly messages: Messages;
  /** Behind the header of the top module; null without one. */
  readonly topBody: Place | null;
}

/** Reads sources and builds the netlist of the whole design, every declared name still in it. */
export function elaborate(files: readonly SourceFile[], options: DesignOptions = {}): Elaboration {
  const design = readDesign(files, { ...options, forHardware: true });
  const { modules, filesRead, filesKnown } = design;
  return { ...synthesize(design), modules, filesRead, filesKnown, topBody: design.top?.module.body ?? null };
}
