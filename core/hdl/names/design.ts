import { item, PlaceError } from '../../lists.ts';
import type { Place } from '../../result.ts';
import {
  findBeside,
  GiveUp,
  type Item,
  Messages,
  type Module,
  parseSources,
  type SourceFile,
  type SourceMemory,
} from '../read/index.ts';
import { elaborateModule } from './instance.ts';
import { readPackage } from './packages.ts';
import { isTestbench } from './testbench.ts';
import { type Elaborated, type HierarchyNode, type Names, Scope } from './scope.ts';

/** The elaborated design: instances, objects and what each of them does, for hardware and simulation alike. */
export interface Design {
  /** Null when an error stops the design from being understood. */
  readonly top: Elaborated | null;
  readonly names: Names;
  readonly messages: Messages;
  /** Names of all modules in the sources. */
  readonly modules: readonly string[];
  /** Source files, and how many of them an earlier reading had done. */
  readonly filesRead: number;
  readonly filesKnown: number;
  /** Cells of the part are in it, whose behaviour takes time. */
  readonly usesCells: boolean;
}

export interface DesignOptions {
  /** Name of the top module; left out, it is the one nobody instantiates. */
  readonly top?: string;
  /** Where that name is written, for messages. */
  readonly topFrom?: Place;
  /** Overrides of the top's parameters. */
  readonly parameters?: Readonly<Record<string, bigint>>;
  /** Files read before. */
  readonly memory?: SourceMemory;
  /** It is to become hardware: a testbench that lies among the sources is no top. */
  readonly forHardware?: boolean;
  /** Modules that describe cells of the part; each is read where the sources use its name and do not define it. */
  readonly cells?: readonly SourceFile[];
}

/** Reads sources and finds out what every name in them stands for. */
export function readDesign(files: readonly SourceFile[], options: DesignOptions = {}): Design {
  const messages = new Messages();
  const modules = new Map<string, Module>();
  const parsed = parseSources(files, messages, options.memory);
  const { filesRead, filesKnown } = parsed;
  for (const module of parsed.modules) {
    const known = modules.get(module.name);
    if (known)
      messages.error(
        'module-twice',
        module.at,
        `The module "${module.name}" was already defined in ${known.at.file}, line ${known.at.line}.`,
      );
    else modules.set(module.name, module);
  }
  const contents = new Map(files.map((file) => [file.name, file.text]));
  const names: Names = {
    messages,
    broken: parsed.broken,
    vectors: [],
    memories: [],
    packages: new Map(),
    unit: new Scope('', null),
    defparams: new Map(),
    work: { done: 0 },
    readData: (name, from) => findBeside(contents, name, from) ?? null,
  };
  const own = [...modules.keys()];
  const usesCells = addCells(modules, options);
  const found = { names, messages, modules: own, filesRead, filesKnown, usesCells };
  const benches = options.forHardware ? benchesIn(modules) : new Set<string>();
  const top = findTop({ modules, benches, messages, files, broken: parsed.broken }, options);
  if (!top) return { top: null, ...found };
  tellUnused(modules, benches, top, messages);
  try {
    for (const one of parsed.packages) {
      const scope = new Scope(one.name, names.unit);
      readPackage(one, scope, names);
      names.packages.set(one.name, scope);
    }
    readPackage({ items: parsed.outside }, names.unit, names);
    const primitives = new Map(parsed.primitives.map((one) => [one.name, one]));
    const position = { path: top.name, within: null, chain: [top.name] };
    const made = elaborateModule(names, { modules, primitives }, top, position, options.parameters ?? {});
    for (const [path, { at, used }] of names.defparams)
      if (!used) messages.error('no-parameter', at, `There is no parameter "${path}" that this could set.`);
    return { top: made, ...found };
  } catch (error) {
    const wrong = asGiveUp(error, top.at);
    if (!wrong) throw error;
    messages.error(wrong.code, wrong.place, wrong.message);
    return { top: null, ...found };
  }
}

/**
 * Cells that the sources use; false where they use none. To hardware only what leads into them and out of them is of
 * interest.
 */
function addCells(modules: Map<string, Module>, { cells = [], forHardware = false }: DesignOptions): boolean {
  const before = modules.size;
  const used = new Set([...modules.values()].flatMap(({ items }) => modulesUsed(items)));
  const isSeen = (one: Item) => one.kind === 'parameter' || (one.kind === 'declaration' && one.direction !== null);
  for (const cell of cells) {
    // As text first: most designs use none, and reading takes its time.
    if (![...used].some((name) => cell.text.includes(`module ${name}`) && !modules.has(name))) continue;
    for (const module of parseSources([cell], new Messages()).modules)
      if (used.has(module.name) && !modules.has(module.name))
        modules.set(module.name, {
          ...module,
          isCell: true,
          items: forHardware ? module.items.filter(isSeen) : module.items,
        });
  }
  return modules.size > before;
}

/** A tree or a chain of names deeper than the call stack, or a number larger than can be, is told like any other. */
export function asGiveUp(error: unknown, at: Place): GiveUp | null {
  if (error instanceof GiveUp) return error;
  if (error instanceof RangeError && !(error instanceof PlaceError))
    return new GiveUp('too-deep', at, 'Something in this design is nested too deeply to be followed.');
  return null;
}

/** The instances of a design. A cell of the part is in no file: it is where it is used. */
export function hierarchyOf({ path, name, module, behaviours }: Elaborated, used = module.at): HierarchyNode {
  const { file, line } = module.isCell ? used : module.at;
  return {
    path,
    name,
    module: module.name,
    file,
    line,
    children: behaviours.flatMap((one) =>
      one.kind === 'instances' ? one.made.map((child) => hierarchyOf(child, one.item.at)) : [],
    ),
  };
}

/** Testbenches that nobody instantiates. */
function benchesIn(modules: ReadonlyMap<string, Module>): ReadonlySet<string> {
  const used = new Set([...modules.values()].flatMap((m) => modulesUsed(m.items)));
  const all = [...modules.values()].filter((module) => !used.has(module.name));
  const benches = all.filter(isTestbench);
  // Where there is nothing else it may be what is meant after all.
  return new Set(benches.length === modules.size ? [] : benches.map(({ name }) => name));
}

interface Candidates {
  readonly modules: ReadonlyMap<string, Module>;
  /** Modules that are no top. */
  readonly benches: ReadonlySet<string>;
  readonly messages: Messages;
  readonly files: readonly SourceFile[];
  readonly broken: ReadonlySet<string>;
}

function findTop(
  { modules, benches, messages, files, broken }: Candidates,
  { top: wanted, topFrom: settings }: Pick<DesignOptions, 'top' | 'topFrom'>,
): Module | null {
  const sources = files.find(({ name }) => /\.s?vh?$/i.test(name)) ?? files[0];
  const nowhere = { file: sources?.name ?? '', line: 1, column: 1 };
  const plain = [...modules.values()].filter(({ name }) => !benches.has(name));
  const used = new Set(plain.flatMap((m) => modulesUsed(m.items)));
  const tops = plain.filter((module) => !used.has(module.name));
  const offered = (tops.length > 0 ? tops : [...modules.values()]).map(({ name }) => name);
  const fix =
    offered.length > 0
      ? { fix: { kind: 'choose-top' as const, label: 'Take as top', tops: offered.slice(0, MOST_OFFERED) } }
      : {};
  if (wanted !== undefined) {
    const module = modules.get(wanted);
    if (!module && !broken.has(wanted))
      messages.add(
        'error',
        'no-top',
        settings ?? nowhere,
        `There is no module "${wanted}" to be the top. Modules found: ${[...modules.keys()].join(', ') || 'none'}.`,
        fix,
      );
    return module ?? null;
  }
  if (tops.length === 1) return item(tops, 0);
  if (broken.size > 0) return null;
  const [first, second] = tops;
  if (second)
    messages.add(
      'error',
      'several-tops',
      second.at,
      `Several modules could be the top: ${tops.map((t) => t.name).join(', ')}. Name one.`,
      fix,
    );
  else
    messages.add(
      'error',
      'no-top',
      first?.at ?? nowhere,
      modules.size === 0
        ? 'There is no module in the sources.'
        : 'Every module is used by another one, so none can be the top.',
      fix,
    );
  return null;
}

const MOST_OFFERED = 12;

/** Modules that the design does not have in it: a file may lie there for another top, or an instance may be missing. */
function tellUnused(
  modules: ReadonlyMap<string, Module>,
  benches: ReadonlySet<string>,
  top: Module,
  messages: Messages,
): void {
  const seen = new Set<string>();
  const open = [top.name];
  for (let name = open.pop(); name !== undefined; name = open.pop()) {
    const module = seen.has(name) ? undefined : modules.get(name);
    seen.add(name);
    if (module) open.push(...modulesUsed(module.items));
  }
  for (const { name, at, isCell } of modules.values()) {
    if (isCell || seen.has(name)) continue;
    if (benches.has(name))
      messages.add('info', 'testbench', at, `"${name}" looks like a testbench and is left out of what is built.`);
    else
      messages.add(
        'info',
        'module-unused',
        at,
        `The module "${name}" is not part of the design: nothing below the top "${top.name}" uses it.`,
      );
  }
}

/** Names of the modules that items instantiate, inside generate blocks too. */
function modulesUsed(items: readonly Item[]): string[] {
  return items.flatMap((item) => {
    switch (item.kind) {
      case 'instance':
        return [item.module];
      case 'generate-if':
        return modulesUsed([...item.then, ...item.otherwise]);
      case 'generate-case':
        return modulesUsed(item.arms.flatMap((arm) => arm.items));
      case 'generate-for':
        return modulesUsed(item.items);
      default:
        return [];
    }
  });
}

/** A module as it may be chosen for a simulation. */
export interface OfferedModule {
  readonly name: string;
  readonly file: string;
  readonly line: number;
  readonly isTestbench: boolean;
  /** Nobody instantiates it. */
  readonly isTop: boolean;
  readonly parameters: readonly string[];
}

/** The modules of sources, testbenches first; what cannot be read is left out. */
export function offeredModules(files: readonly SourceFile[]): OfferedModule[] {
  const { modules } = parseSources(files, new Messages());
  const used = new Set(modules.flatMap((module) => modulesUsed(module.items)));
  return modules
    .map((module) => ({
      name: module.name,
      file: module.at.file,
      line: module.at.line,
      isTestbench: !used.has(module.name) && isTestbench(module),
      isTop: !used.has(module.name),
      parameters: module.items.flatMap((one) => (one.kind === 'parameter' && !one.local ? [one.name] : [])),
    }))
    .sort((a, b) => Number(b.isTestbench) - Number(a.isTestbench) || Number(b.isTop) - Number(a.isTop));
}
