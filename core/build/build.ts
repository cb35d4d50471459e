import {
  type BoardDescription,
  checkPins,
  type PinIssue,
  type PlacedOn,
  type PortNeed,
  parsePinTable,
} from '../constraints/index.ts';
import {
  type Design,
  FAMILIES,
  type Family,
  type Part,
  partNamed,
  type PinBinding,
  writeBitstream,
} from '../families/index.ts';
import type { HierarchyNode, Messages, SourceMemory } from '../hdl/index.ts';
import { item } from '../lists.ts';
import {
  countResources,
  type InstanceUse,
  type LineUse,
  map,
  type MemoryUse,
  PieceMemory,
  mostSaved,
  type Resources,
  type RewrittenStates,
  type Saving,
  time,
  type TimingPath,
  type TimingReport,
} from '../mapping/index.ts';
import { type Netlist, optimise } from '../netlist/index.ts';
import { coresIn, emptyPlan, insertCores, type ProbeMap, type ProbePlan, writtenAlong } from '../probes/index.ts';
import { stopIfCancelled, unwatched, type Watch } from '../progress.ts';
import { type JudgedMessage, judge } from './accept.ts';
import { checkClocks } from './clock-constraints.ts';
import { checkGenerators, clocksMade, frequenciesOf, type GeneratorUse, generatorsIn } from './generators.ts';
import { fingerprintOf } from './fingerprint.ts';
import { foreignOf } from './foreign.ts';
import { reportTiming, timingRules } from './timing-rules.ts';
import { type LampRate, lampRates } from './lamp-rates.ts';
import { boardOf, filesForHardware, isBesideDesign, type Project, type ProjectFile } from './project.ts';
import { clockPorts, type SignalInfo } from './signals.ts';
import { copyOf, type KnownDesign, understand } from './understand.ts';

export interface BuildInputs {
  readonly project: Project;
  readonly plan: ProbePlan;
  /** Families whose parts can be built for; all that are known here where nothing else is said. */
  readonly families?: readonly Family[];
}

/** What earlier builds left to be used again: files already read, logic already mapped. Results do not depend on it. */
export interface BuildMemory {
  readonly sources: SourceMemory;
  readonly pieces: PieceMemory;
  /** The design that was read last. */
  design?: KnownDesign;
}

export interface BuildOutput {
  readonly fingerprint: string;
  readonly part: string;
  readonly top: string;
  readonly resources: Resources & { readonly lutsOfPart: number; readonly blockRamsOfPart: number };
  readonly instances: readonly InstanceUse[];
  /** The lines of the sources that take most; missing in builds of an older release. */
  readonly lines?: readonly (LineUse & { readonly text: string })[];
  readonly memories: readonly MemoryUse[];
  /** State machines that are mapped with their states written anew; missing in builds of an older release. */
  readonly machines?: readonly RewrittenStates[];
  /** Where most could be saved; null where nowhere, missing in builds of an older release. */
  readonly saving?: Saving | null;
  readonly timing: TimingReport | null;
  readonly messages: readonly JudgedMessage[];
}

/** `bitstream` is the content of a `.nbits` file; null when a message says why there is none. */
export interface BuildResult extends BuildOutput {
  readonly bitstream: Uint8Array | null;
  /** For a part that others' tools build for: the design with its probes, and a module to fill in. Else null. */
  readonly taken?: { readonly verilog: string; readonly wrapper: string } | null;
  readonly probes: ProbeMap | null;
  readonly signals: readonly SignalInfo[];
  readonly ports: readonly PortNeed[];
  readonly pinIssues: readonly PinIssue[];
  readonly clocks: readonly string[];
  readonly lampRates: readonly LampRate[];
  /** Missing in builds of an older release. */
  readonly generators?: readonly GeneratorUse[];
  readonly hierarchy: HierarchyNode | null;
  /** How much of the work an earlier build had done. */
  readonly reuse: {
    readonly files: number;
    readonly filesKnown: number;
    readonly pieces: number;
    readonly piecesKnown: number;
  };
}

const STEPS = [
  'Reading sources',
  'Checking',
  'Inserting probes',
  'Optimising',
  'Mapping',
  'Timing',
  'Packing',
] as const;
const SETTINGS = { file: 'nimble.json', line: 1, column: 1 };

/** Builds a project. The same inputs give the same bytes. */
export function build(
  inputs: BuildInputs,
  watch: Watch = unwatched,
  memory: BuildMemory = { sources: new Map(), pieces: new PieceMemory() },
): BuildResult {
  const step = (index: number) => {
    stopIfCancelled(watch, 'Nothing of the last build was replaced.');
    watch.report({ phase: item(STEPS, index), done: index, total: STEPS.length, unit: 'steps' });
  };
  const { file } = inputs.project;
  const files = filesForHardware(inputs.project);
  const fingerprint = buildPrint(inputs);
  step(0);
  const { hierarchy, messages, filesKnown, filesRead, understood } = understand(inputs.project, memory);
  const foreign = foreignOf(inputs.project);
  if (foreign && !foreign.ok) messages.error(foreign.error.code, SETTINGS, foreign.error.message);
  const part = partNamed(file.part, inputs.families ?? FAMILIES);
  if (!part && !foreign)
    messages.error('unknown-part', SETTINGS, `There is no part "${file.part}" that designs are built for here.`);
  const basics = { fingerprint, part: file.part, top: hierarchy?.name ?? file.top ?? '', hierarchy };
  const reuse = { files: filesRead, filesKnown, pieces: 0, piecesKnown: 0 };
  const nothing = {
    bitstream: null,
    taken: null,
    probes: null,
    signals: [],
    ports: [],
    pinIssues: [],
    clocks: [],
    lampRates: [],
    generators: [],
    instances: [],
    memories: [],
    timing: null,
    resources: withPart(NO_RESOURCES, part),
    reuse,
  };
  const judged = () => judge(messages.list, file.accepted, files);
  if (foreign?.ok && understood) {
    step(2);
    const own = forForeign(inputs, understood, { fingerprint, top: basics.top }, messages);
    return { ...nothing, ...basics, ...own, messages: judged() };
  }
  if (part && inputs.plan.bridge)
    messages.error('bridge-own-flash', SETTINGS, `A ${part.name} reaches its flash by itself; leave the bridge out.`);
  const packageName = part ? packageOf(file, part, messages) : null;
  if (!understood || !part || packageName === null) return { ...nothing, ...basics, messages: judged() };
  step(1);
  const { plain, described } = understood;
  const generators = generatorsIn(plain.netlist, part.family.clockGenerator);
  const frequencies = frequenciesOf(generators, file.clocks);
  checkGenerators(generators, { ...described, cells: plain.netlist.cells }, part, file.clocks, messages);
  const before = { ...described, generators, lampRates: lampRates(plain.netlist, frequencies) };
  step(2);
  const netlist = copyOf(understood.netlist);
  const prints = { fingerprint, sources: sourcesPrint(inputs.project) };
  const probes = insertProbes(netlist, inputs.plan, prints, messages);
  step(3);
  const small = probes ? optimise(netlist).netlist : plain.netlist;
  const ports = clockPorts(plain.netlist);
  const { bindings, pinIssues } = placePins(inputs.project, plain.netlist, ports, { part, packageName }, messages);
  checkClocks(inputs.project, ports, bindings, before.clocks, messages);
  step(4);
  const mapped = map(small, part.family.memories, memory.pieces);
  const usage = countResources(mapped);
  checkFit(usage.total, usage.instances, part, messages);
  step(5);
  const wanted = new Map(Object.entries(frequencies));
  const rules = timingRules(inputs.project, frequencies, messages);
  const timing = time(mapped, part.family.delays(file.grade), wanted, rules, clocksMade(generators));
  reportTiming(timing, rules, messages);
  reportSlowClocks(timing, messages);
  const lines = linesOf(usage.lines, files);
  const done = {
    ...nothing,
    ...basics,
    ...before,
    ports,
    pinIssues,
    timing,
    probes,
    resources: withPart(usage.total, part),
    instances: usage.instances,
    lines,
    memories: usage.memories,
    machines: mapped.machines,
    saving: mostSaved(small, { ...usage, lines }),
    reuse: { ...reuse, pieces: mapped.pieces, piecesKnown: mapped.reused },
  };
  step(6);
  if (messages.failed) return { ...done, probes: null, messages: judged() };
  const design = { netlist: small, pins: bindings };
  const bitstream = packed(design, { part, packageName }, basics, messages);
  return { ...done, probes: bitstream ? probes : null, bitstream, messages: judged() };
}

/**
 * For a part that others' tools build for: the design with its probes as text, and nothing that only those tools know,
 * such as what it takes and how fast it is.
 */
function forForeign(
  inputs: BuildInputs,
  { netlist: read, plain, described }: KnownDesign['understood'] & object,
  { fingerprint, top }: { readonly fingerprint: string; readonly top: string },
  messages: Messages,
): Pick<BuildResult, 'probes' | 'taken' | 'signals' | 'clocks' | 'ports'> {
  const netlist = copyOf(read);
  const probes = insertProbes(netlist, inputs.plan, { fingerprint, sources: sourcesPrint(inputs.project) }, messages);
  const ports = clockPorts(plain.netlist);
  if (messages.failed) return { ...described, ports, probes: null, taken: null };
  return { ...described, ports, probes, taken: writtenAlong(optimise(netlist).netlist, top, fingerprint) };
}

/** Lines of the design's own files, with what stands there; those of debug cores are nobody's to change. */
function linesOf(
  lines: readonly LineUse[],
  files: readonly { readonly name: string; readonly text: string }[],
): NonNullable<BuildOutput['lines']> {
  const texts = new Map(files.map(({ name, text }) => [name, text.split('\n')]));
  return lines.flatMap((use) => {
    const text = texts.get(use.file)?.[use.line - 1];
    return text === undefined ? [] : [{ ...use, text: text.trim().slice(0, LONGEST_TEXT) }];
  });
}

const LONGEST_TEXT = 160;

/** The case that pins are chosen of: the one the project says, else the usual one of the part. */
function packageOf({ package: wanted }: ProjectFile, { name, packages }: Part, messages: Messages): string | null {
  const packageName = wanted ?? packages[0] ?? null;
  if (packageName !== null && packages.includes(packageName)) return packageName;
  messages.error(
    'unknown-package',
    SETTINGS,
    `A ${name} does not come in a ${packageName}. It comes in: ${packages.join(', ')}.`,
  );
  return null;
}

/** Of all that goes into a bitstream. */
export const buildPrint = ({ project, plan }: BuildInputs): string =>
  fingerprintOf({
    files: designFiles(project),
    project: {
      part: project.file.part,
      ...(project.file.package === undefined ? {} : { package: project.file.package }),
      top: project.file.top ?? null,
      ...(project.file.parameters === undefined ? {} : { parameters: project.file.parameters }),
      pins: project.file.pins,
    },
    plan,
  });

/** The fingerprint of a design without debug cores. */
export const sourcesPrint = (project: Project): string => buildPrint({ project, plan: emptyPlan });

/** Files that the bitstream depends on: the board's description only informs. */
const designFiles = (project: Project): Project['files'] =>
  filesForHardware(project)
    .filter(({ name }) => name !== project.file.board && !isBesideDesign(name))
    .map(({ name, text }) => ({ name, text }));

const NO_RESOURCES: Resources = {
  luts: 0,
  registers: 0,
  cells: 0,
  carryBits: 0,
  memoryLuts: 0,
  blockRams: 0,
  ioPins: 0,
  depth: 0,
};

const withPart = (resources: Resources, part: Part | undefined) => ({
  ...resources,
  lutsOfPart: part?.luts ?? 0,
  blockRamsOfPart: part?.blockRams ?? 0,
});

function insertProbes(
  netlist: Netlist,
  plan: ProbePlan,
  { fingerprint, sources }: { readonly fingerprint: string; readonly sources: string },
  messages: Messages,
): ProbeMap | null {
  if (coresIn(plan) === 0) return null;
  const inserted = insertCores(netlist, plan, fingerprint);
  if (inserted.ok) return { ...inserted.value, sources };
  messages.error(
    inserted.error.code,
    { file: 'probe plan', line: 1, column: 1 },
    `${inserted.error.message} ${inserted.error.tryNext.join(' ')}`,
  );
  return null;
}

/** Pins of all ports; what is wrong with the table becomes messages at its lines. */
function placePins(
  project: Project,
  netlist: Netlist,
  ports: readonly PortNeed[],
  on: PlacedOn,
  messages: Messages,
): { bindings: readonly PinBinding[]; pinIssues: readonly PinIssue[] } {
  const table = project.files.find((f) => f.name === project.file.pins);
  const entries = table ? parsePinTable(table.text) : [];
  const board = boardOf(project);
  if (board && !board.ok) messages.error(board.error.code, SETTINGS, board.error.message);
  if (board?.ok) checkCase(board.value, on, messages);
  const { bindings, issues } = checkPins(entries, ports, on, board?.ok ? board.value.banks : {});
  const declared = (port: string) =>
    netlist.signals.find(
      (signal) => signal.name.endsWith(`.${port}`) && signal.name.indexOf('.') === signal.name.lastIndexOf('.'),
    )?.at;
  for (const { entry, severity, code, message, port } of issues) {
    const line = entries[entry]?.line;
    messages.add(
      severity,
      code,
      line === undefined
        ? (declared(port) ?? { file: project.file.pins, line: 1, column: 1 })
        : { file: project.file.pins, line, column: 1 },
      message,
    );
  }
  return { bindings, pinIssues: issues };
}

/** The package of the board's description is the one that is built for. */
function checkCase(board: BoardDescription, { part, packageName }: PlacedOn, messages: Messages): void {
  const onBoard = board.package ?? part.packages[0];
  if (board.part !== part.name || onBoard === packageName) return;
  messages.add(
    'serious',
    'board-package',
    SETTINGS,
    `The project is built for a ${part.name} in a ${packageName}; on ${board.name} it comes in a ${onBoard}.`,
  );
}

function packed(
  design: Design,
  { part, packageName }: PlacedOn,
  { fingerprint, top }: { readonly fingerprint: string; readonly top: string },
  messages: Messages,
): Uint8Array | null {
  const print = Uint8Array.from({ length: 16 }, (_, i) => Number.parseInt(fingerprint.slice(i * 2, i * 2 + 2), 16));
  const stream = part.family.stream.make(part, design, print);
  if (!stream.ok) {
    messages.error(stream.error.code, SETTINGS, stream.error.message);
    return null;
  }
  return writeBitstream({ part: part.name, package: packageName, top, fingerprint, stream: stream.value });
}

/** Says what does not fit, and which instances take most of it. */
function checkFit(resources: Resources, instances: readonly InstanceUse[], part: Part, messages: Messages): void {
  const over = (what: string, have: number, need: number, of: (use: InstanceUse) => number) => {
    if (need <= have) return;
    const most = [...instances]
      .sort((a, b) => of(b) - of(a))
      .slice(0, 3)
      .filter((use) => of(use) > 0);
    messages.error(
      'does-not-fit',
      SETTINGS,
      `The design needs ${need} ${what}; a ${part.name} has ${have}. To cut: ` +
        `${most.map((use) => `${use.path} takes ${of(use)}`).join(', ')}.`,
    );
  };
  over('LUTs', part.luts, resources.luts, (use) => use.luts);
  over('flip-flops', part.luts, resources.registers, (use) => use.registers);
  over('block RAMs', part.blockRams, resources.blockRams, (use) => use.blockRams);
}

/** Of a way between two clocks of one family: how little time there is. */
const betweenText = (path: TimingPath | undefined): string =>
  path?.between && path.between.time !== null
    ? ` (${path.between.from} comes ${path.between.time.toFixed(2)} ns before)`
    : '';

function reportSlowClocks({ clocks }: TimingReport, messages: Messages): void {
  for (const { clock, wanted, highest, worstSlack, failing, paths } of clocks) {
    if (worstSlack === null || worstSlack >= 0 || wanted === null || highest === null) continue;
    const [worst] = paths;
    const at = worst?.steps.findLast((s) => s.file !== '');
    messages.add(
      'serious',
      'clock-too-fast',
      { file: at?.file ?? 'nimble.json', line: at?.line ?? 1, column: 1 },
      `"${clock}" should run at ${(wanted / 1e6).toFixed(2)} MHz; the longest way, from ${worst?.from} to ` +
        `${worst?.to}${betweenText(worst)}, allows ${(highest / 1e6).toFixed(2)} MHz (estimate). ${failing} ` +
        `${failing === 1 ? 'end is' : 'ends are'} too late.`,
    );
  }
}
