import { buildStream, frameCapacity, packagePins, packNetlist, type Part, partNamed, type PinBinding, writeBitstream } from '../fabric/index.ts';
import { elaborate, type HierarchyNode, type Message, type Messages } from '../hdl/index.ts';
import { clocksOf, type CellCounts, countCells, type Netlist, type NetNode, optimise } from '../netlist/index.ts';
import { insertCores, type ProbeMap, type ProbePlan } from '../probes/index.ts';
import { stopIfCancelled, unwatched, type Watch } from '../progress.ts';
import { fingerprintOf } from './fingerprint.ts';
import { parsePins } from './pins.ts';
import type { Project } from './project.ts';

export interface BuildInputs {
  readonly project: Project;
  readonly plan: ProbePlan;
}

/** A name inside the design that can be probed. `domain` is its clock port, empty where there is none or several. */
export interface SignalInfo {
  readonly name: string;
  readonly width: number;
  readonly kind: 'input' | 'output' | 'wire' | 'reg';
  readonly signed: boolean;
  readonly domain: string;
  readonly free: boolean;
  readonly file: string;
  readonly line: number;
}

export interface BuildOutput {
  readonly fingerprint: string;
  readonly part: string;
  readonly top: string;
  readonly resources: CellCounts & { readonly lutsOfPart: number; readonly blockRamsOfPart: number };
  readonly messages: readonly Message[];
}

/** `bitstream` is the content of a `.nbits` file; null when a message says why there is none. */
export interface BuildResult extends BuildOutput {
  readonly bitstream: Uint8Array | null;
  readonly probes: ProbeMap | null;
  readonly signals: readonly SignalInfo[];
  readonly clocks: readonly string[];
  readonly hierarchy: HierarchyNode | null;
}

const STEPS = ['Reading sources', 'Inserting probes', 'Optimising', 'Packing'] as const;

/** Builds a project. The same inputs give the same bytes. */
export function build(inputs: BuildInputs, watch: Watch = unwatched): BuildResult {
  const step = (index: number) => {
    stopIfCancelled(watch, 'Nothing of the last build was replaced.');
    watch.report({ phase: STEPS[index] as string, done: index, total: STEPS.length, unit: 'steps' });
  };
  const { file, files } = inputs.project;
  const fingerprint = fingerprintOf({ files, project: { part: file.part, top: file.top ?? null, pins: file.pins }, plan: inputs.plan });
  step(0);
  const { netlist, hierarchy, messages } = elaborate(files, file.top === undefined ? {} : { top: file.top });
  const part = partNamed(file.part);
  if (!part) messages.error('unknown-part', { file: 'nimble.json', line: 1, column: 1 }, `There is no part "${file.part}" in the Corvane family.`);
  const failed = (): BuildResult => ({
    fingerprint, part: file.part, top: hierarchy?.name ?? file.top ?? '', resources: emptyResources(part), messages: messages.list, bitstream: null, probes: null, signals: [], clocks: [], hierarchy,
  });
  if (!netlist || !part) return failed();
  const before = describeSignals(netlist);
  step(1);
  let probes: ProbeMap | null = null;
  if (inputs.plan.recorders.length + inputs.plan.panels.length > 0) {
    const inserted = insertCores(netlist, inputs.plan, fingerprint);
    if (inserted.ok) probes = inserted.value;
    else messages.error(inserted.error.code, { file: 'probe plan', line: 1, column: 1 }, `${inserted.error.message} ${inserted.error.tryNext.join(' ')}`);
  }
  step(2);
  const { netlist: small, loops } = optimise(netlist);
  for (const { names } of loops) messages.error('loop', placeOf(netlist, names[0]), `This logic feeds itself without a register: ${names.join(' > ') || 'unnamed signals'}. Put a register into the way round.`);
  const pins = bindPins(inputs.project, small, part, messages);
  const resources = { ...countCells(small), lutsOfPart: part.luts, blockRamsOfPart: part.blockRams };
  checkFit(resources, part, messages);
  step(3);
  if (messages.failed) return { ...failed(), resources, ...before };
  const payload = packNetlist({ netlist: small, pins });
  if (payload.length > frameCapacity(part.frames)) {
    messages.error('does-not-fit', { file: 'nimble.json', line: 1, column: 1 }, `The packed design takes ${payload.length} bytes; the frames of a ${part.name} hold ${frameCapacity(part.frames)}.`);
    return { ...failed(), resources, ...before };
  }
  const print = Uint8Array.from({ length: 16 }, (_, i) => Number.parseInt(fingerprint.slice(i * 2, i * 2 + 2), 16));
  const top = hierarchy?.name ?? '';
  const bitstream = writeBitstream({ part: part.name, top, fingerprint, stream: buildStream(part.idcode, part.frames, print, payload) });
  return { fingerprint, part: part.name, top, resources, messages: messages.list, bitstream, probes, hierarchy, ...before };
}

const emptyResources = (part: Part | undefined) => ({ luts: 0, registers: 0, blockRams: 0, ioPins: 0, lutsOfPart: part?.luts ?? 0, blockRamsOfPart: part?.blockRams ?? 0 });

function placeOf(netlist: Netlist, name: string | undefined) {
  return netlist.signals.find((signal) => signal.name === name)?.at ?? { file: netlist.signals[0]?.at.file ?? '', line: 1, column: 1 };
}

/** Names, widths and clocks of the design without its probes. */
function describeSignals(netlist: Netlist): { signals: SignalInfo[]; clocks: string[] } {
  const whole: Netlist = { ...netlist, outputs: [...netlist.outputs, ...netlist.signals.map(({ name, node, width }) => ({ name, node, width }))] };
  const { netlist: seen } = optimise(whole);
  const clocks = clocksOf(seen);
  const nodeOf = new Map(seen.outputs.map((port) => [port.name, port.node]));
  const all = new Set(seen.registers.map((r) => (seen.nodes[r.clock] as NetNode).name ?? ''));
  all.delete('');
  const signals = netlist.signals.map(({ name, width, kind, signed, free, at }) => {
    const domains = [...clocks(nodeOf.get(name) ?? -1)];
    return { name, width, kind, signed, free, domain: domains.length === 1 ? (domains[0] as string) : '', file: at.file, line: at.line };
  });
  return { signals, clocks: [...all].sort() };
}

function bindPins({ file, files }: Project, netlist: Netlist, part: Part, messages: Messages): PinBinding[] {
  const table = files.find((f) => f.name === file.pins);
  const rows = table ? parsePins(table.name, table.text, messages) : [];
  const known = new Set(packagePins(part.package));
  const ports = new Map([...netlist.inputs, ...netlist.outputs].filter((p) => !p.name.startsWith('$')).map((p) => [p.name, p]));
  const usedPins = new Map<string, number>();
  const placed = new Set<string>();
  const bindings: PinBinding[] = [];
  for (const { port, bit, pin, line } of rows) {
    const at = { file: file.pins, line, column: 1 };
    const entry = ports.get(port);
    const before = usedPins.get(pin);
    if (!entry) messages.warning('pin-port', at, `The design has no port "${port}"; this line is passed over.`);
    else if (bit >= entry.width) messages.error('pin-port', at, `"${port}" has ${entry.width} bits; there is no bit ${bit}.`);
    else if (!known.has(pin)) messages.error('pin-unknown', at, `The package ${part.package} of a ${part.name} has no user pin "${pin}".`);
    else if (before !== undefined) messages.error('pin-twice', at, `Pin ${pin} is already used in line ${before}.`);
    else {
      usedPins.set(pin, line);
      placed.add(`${port}[${bit}]`);
      bindings.push({ port, bit, pin });
    }
  }
  for (const { name, width } of ports.values()) {
    const missing = Array.from({ length: width }, (_, bit) => bit).filter((bit) => !placed.has(`${name}[${bit}]`));
    if (missing.length > 0) messages.warning('unplaced-port', placeOfPort(netlist, name, file.pins), `${missing.length === width ? `"${name}"` : `"${name}" bit ${missing.join(', ')}`} is on no pin and is left unconnected.`);
  }
  return bindings;
}

function placeOfPort(netlist: Netlist, port: string, pins: string) {
  return netlist.signals.find((signal) => signal.name.endsWith(`.${port}`) && signal.name.indexOf('.') === signal.name.lastIndexOf('.'))?.at ?? { file: pins, line: 1, column: 1 };
}

function checkFit(resources: CellCounts, part: Part, messages: Messages): void {
  const at = { file: 'nimble.json', line: 1, column: 1 };
  const over = (what: string, have: number, need: number) => need > have && messages.error('does-not-fit', at, `The design needs ${need} ${what}; a ${part.name} has ${have}.`);
  over('LUTs', part.luts, resources.luts);
  over('flip-flops', part.luts, resources.registers);
  over('block RAMs', part.blockRams, resources.blockRams);
}
