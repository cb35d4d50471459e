import { type PortNeed, parsePinTable } from '../constraints/index.ts';
import type { PinBinding } from '../families/index.ts';
import type { Messages } from '../hdl/index.ts';
import { entry, own } from '../lists.ts';
import { boardOf, type Project } from './project.ts';

/**
 * Clocks nobody gave a frequency, with the oscillator on their pin as the answer, and frequencies for clocks that are
 * none.
 */
export function checkClocks(
  project: Project,
  ports: readonly PortNeed[],
  bindings: readonly PinBinding[],
  clocks: readonly string[],
  messages: Messages,
): void {
  const board = boardOf(project);
  const oscillators = board?.ok ? board.value.oscillators : [];
  const table = project.files.find((file) => file.name === project.file.pins);
  const lines = new Map(table ? parsePinTable(table.text).map((entry) => [entry.name, entry.line]) : []);
  for (const { name, clock } of ports) {
    if (!clock || own(project.file.clocks, name) !== undefined) continue;
    const pin = bindings.find((binding) => binding.port === name)?.pin;
    const oscillator = oscillators.find((o) => o.pin === pin);
    const place = lines.has(name)
      ? { file: project.file.pins, line: entry(lines, name), column: 1 }
      : { file: 'nimble.json', line: 1, column: 1 };
    messages.add(
      'serious',
      'clock-unconstrained',
      place,
      `The clock "${name}" has no frequency, so nobody knows whether the design is fast enough for ` +
        `it.${oscillator ? ` Its pin ${oscillator.pin} has the oscillator ${oscillator.net}.` : ''}`,
      oscillator
        ? {
            fix: {
              kind: 'constrain-clock',
              label: `Constrain it to ${oscillator.hertz / 1e6} MHz, as ${oscillator.net} runs`,
              clock: name,
              hertz: oscillator.hertz,
            },
          }
        : { fix: { kind: 'find-clock', label: 'Say its frequency', clock: name } },
    );
  }
  for (const [name, hertz] of Object.entries(project.file.clocks)) {
    const pin = bindings.find((binding) => binding.port === name)?.pin;
    const oscillator = oscillators.find((o) => o.pin === pin);
    if (!clocks.includes(name))
      messages.warning(
        'clock-unknown',
        { file: 'nimble.json', line: 1, column: 1 },
        `"${name}" has a frequency but clocks nothing.`,
      );
    else if (oscillator && Math.abs(oscillator.hertz - hertz) > hertz * 1e-3)
      messages.add(
        'warning',
        'clock-differs',
        { file: 'nimble.json', line: 1, column: 1 },
        `"${name}" is constrained to ${hertz / 1e6} MHz, but the oscillator ${oscillator.net} on its pin runs at ` +
          `${oscillator.hertz / 1e6} MHz.`,
        {
          fix: {
            kind: 'constrain-clock',
            label: `Constrain it to ${oscillator.hertz / 1e6} MHz`,
            clock: name,
            hertz: oscillator.hertz,
          },
        },
      );
  }
}
