import { readTimingTable, TIMING_TABLE, type TimingRules } from '../constraints/index.ts';
import type { Messages } from '../hdl/index.ts';
import type { TimingReport } from '../mapping/index.ts';
import { own } from '../lists.ts';
import { counted } from '../words.ts';
import type { Project } from './project.ts';

const at = (line: number) => ({ file: TIMING_TABLE, line, column: 1 });

/** What the project's timing table says; lines that say nothing that is understood become messages. */
export function timingRules(
  { files }: Project,
  frequencies: Readonly<Record<string, number>>,
  messages: Messages,
): TimingRules {
  const text = files.find(({ name }) => name === TIMING_TABLE)?.text ?? '';
  const { rules, issues } = readTimingTable(text);
  for (const { line, message } of issues) messages.add('serious', 'timing-table', at(line), message);
  for (const { clock, line, kind } of rules.ports)
    if (own(frequencies, clock) === undefined)
      messages.warning(
        'timing-clock',
        at(line),
        `This ${kind} is of "${clock}", a clock without a frequency: it says nothing.`,
      );
  return rules;
}

/** Rules that are about nothing, ports among them, and pins whose way is too long. */
export function reportTiming(
  { rules = [], ports = [] }: TimingReport,
  { ports: named }: TimingRules,
  messages: Messages,
): void {
  for (const { line, kind, from, to, ways } of rules)
    if (ways === 0)
      messages.warning(
        'timing-unused',
        at(line),
        `No way goes from "${from}" to "${to}", so this ${kind} is about nothing. Names are those of registers, memories ` +
          'and clocks, with the instances before them; * is anything.',
      );
  const used = new Set(ports.map(({ line }) => line));
  for (const { line, port, clock } of named)
    if (!used.has(line))
      messages.warning(
        'timing-unused',
        at(line),
        `No way goes between the port "${port}" and registers of "${clock}", or a later line says the same of it.`,
      );
  for (const { port, direction, clock, inside, board, slack, line } of ports) {
    if (slack === null || slack >= 0 || board === null || line === null) continue;
    messages.add(
      'serious',
      'port-too-slow',
      at(line),
      `"${port}" ${direction === 'in' ? 'comes in' : 'goes out'} ${(-slack).toFixed(2)} ns too late for ${clock}: ` +
        `the board takes ${board.toFixed(2)} ns, the part ${inside.toFixed(2)} ns.`,
    );
  }
}

/** What the rules leave out, in a sentence; null where that is nothing. */
export function setAside({ rules = [] }: TimingReport): string | null {
  const [never, longer] = (['false path', 'multicycle'] as const).map((kind) =>
    rules.filter((rule) => rule.kind === kind).reduce((sum, { ways }) => sum + ways, 0),
  );
  if (!never && !longer) return null;
  return `${TIMING_TABLE}: ${counted(never ?? 0, 'way')} left out, ${counted(longer ?? 0, 'way')} of several cycles`;
}
