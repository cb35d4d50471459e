import { item, PlaceError } from '../lists.ts';
import { emptyNetlist, NetBuilder, type Netlist } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import type { Item, Module } from './ast.ts';
import { finishVectors } from './finish.ts';
import { finishStores } from './memory-writes.ts';
import { Instance } from './instance.ts';
import { GiveUp, Messages } from './message.ts';
import { parseSources, type SourceFile, type SourceMemory } from './parse-sources.ts';
import { readPackage } from './packages.ts';
import { type HierarchyNode, Scope, type Shared } from './scope.ts';

interface Elaboration {
  /** Null when an error stops the design from being understood. */
  readonly netlist: Netlist | null;
  readonly hierarchy: HierarchyNode | null;
  readonly messages: Messages;
  /** Names of all modules in the sources. */
  readonly modules: readonly string[];
  /** Source files, and how many of them an earlier reading had done. */
  readonly filesRead: number;
  readonly filesKnown: number;
}

interface ElaborateOptions {
  /** Name of the top module; left out, it is the one nobody instantiates. */
  readonly top?: string;
  /** Where that name is written, for messages. */
  readonly topFrom?: Place;
  /** Overrides of the top's parameters. */
  readonly parameters?: Readonly<Record<string, bigint>>;
  /** Keep x and z apart from 0, for a simulation without hardware. */
  readonly fourState?: boolean;
  /** Files read before. */
  readonly memory?: SourceMemory;
}

/** Reads sources and builds the netlist of the whole design, every declared name still in it. */
export function elaborate(files: readonly SourceFile[], options: ElaborateOptions = {}): Elaboration {
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
  const top = findTop(modules, options.top, messages, files, parsed.broken, options.topFrom);
  if (top) tellUnused(modules, top, messages);
  if (!top) return { modules: [...modules.keys()], netlist: null, hierarchy: null, messages, filesRead, filesKnown };
  const fourState = options.fourState ?? false;
  const build = new NetBuilder(emptyNetlist(), fourState);
  const packages = new Map<string, Scope>();
  const unit = new Scope('', null);
  const contents = new Map(files.map((file) => [file.name, file.text]));
  const shared: Shared = {
    build,
    messages,
    broken: parsed.broken,
    vectors: [],
    stores: [],
    packages,
    unit,
    fourState,
    work: { done: 0 },
    readData: (name) => contents.get(name) ?? [...contents].find(([key]) => key.endsWith(`/${name}`))?.[1] ?? null,
  };
  try {
    for (const found of parsed.packages) {
      const scope = new Scope(found.name, unit);
      readPackage(found, scope, shared);
      packages.set(found.name, scope);
    }
    readPackage({ items: parsed.outside }, unit, shared);
    const instance = new Instance(shared, modules, top, top.name, [top.name], options.parameters ?? {});
    instance.connectTop();
    finishStores(shared);
    finishVectors(shared);
    return {
      modules: [...modules.keys()],
      netlist: messages.failed ? null : build.netlist,
      hierarchy: instance.hierarchy,
      messages,
      filesRead,
      filesKnown,
    };
  } catch (error) {
    // A tree or a chain of names deeper than the call stack, or a number larger than can be.
    const found =
      error instanceof RangeError && !(error instanceof PlaceError)
        ? new GiveUp('too-deep', top.at, 'Something in this design is nested too deeply to be followed.')
        : error;
    if (!(found instanceof GiveUp)) throw error;
    messages.error(found.code, found.place, found.message);
    return { modules: [...modules.keys()], netlist: null, hierarchy: null, messages, filesRead, filesKnown };
  }
}

function findTop(
  modules: ReadonlyMap<string, Module>,
  wanted: string | undefined,
  messages: Messages,
  files: readonly SourceFile[],
  broken: ReadonlySet<string>,
  settings: Place | undefined,
): Module | null {
  const sources = files.find(({ name }) => /\.s?vh?$/i.test(name)) ?? files[0];
  const nowhere = { file: sources?.name ?? '', line: 1, column: 1 };
  const used = new Set([...modules.values()].flatMap((m) => modulesUsed(m.items)));
  const tops = [...modules.values()].filter((module) => !used.has(module.name));
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
function tellUnused(modules: ReadonlyMap<string, Module>, top: Module, messages: Messages): void {
  const seen = new Set<string>();
  const open = [top.name];
  for (let name = open.pop(); name !== undefined; name = open.pop()) {
    const module = seen.has(name) ? undefined : modules.get(name);
    seen.add(name);
    if (module) open.push(...modulesUsed(module.items));
  }
  for (const { name, at } of modules.values())
    if (!seen.has(name))
      messages.add(
        'info',
        'module-unused',
        at,
        `The module "${name}" is not part of the design: nothing below the top "${top.name}" uses it.`,
      );
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
