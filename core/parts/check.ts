import type { PackageDrawing } from '../families/index.ts';
import { type PartRow, wiresOf } from './rows.ts';

/** What cannot be as it is said. `row` counts from 0; `wire` is null for the part as a whole. */
export interface PartIssue {
  readonly row: number;
  readonly wire: string | null;
  readonly message: string;
}

/** Whether parts can be wired to the pins of a package as their rows say. */
export function checkParts(rows: readonly PartRow[], { name: inCase, pins }: PackageDrawing): PartIssue[] {
  const known = new Map(pins.map((pin) => [pin.name, pin]));
  const users = new Map<string, string[]>();
  for (const row of rows)
    for (const pin of Object.values(row.pins)) if (pin !== '') users.set(pin, [...(users.get(pin) ?? []), row.name]);
  return rows.flatMap((row, at) => {
    const issues: PartIssue[] = [];
    const say = (wire: string | null, message: string) => issues.push({ row: at, wire, message });
    if (row.name.trim() === '') say(null, 'A part needs a name.');
    if (row.name.includes('/')) say(null, 'A name has no slash: it stands before the name of a key.');
    if (rows.findIndex(({ name }) => name === row.name) < at) say(null, `There is another part called ${row.name}.`);
    if (row.kind === 'oscillator' && !(row.hertz > 0)) say(null, 'An oscillator needs a frequency above 0 Hz.');
    const missing = wiresOf(row.kind).filter(({ id, optional }) => !optional && (row.pins[id] ?? '') === '');
    const isOne = wiresOf(row.kind).length === 1;
    const open = `${row.name} has no pin yet${isOne ? '' : ` for ${listed(missing.map(({ name }) => name))}`}.`;
    for (const { id } of missing) say(id, open);
    for (const { id } of wiresOf(row.kind)) {
      const pin = row.pins[id] ?? '';
      const drawn = known.get(pin);
      if (pin === '') continue;
      if (!drawn) say(id, `${inCase} has no pin ${pin}.`);
      else if (drawn.kind !== 'io') say(id, `Pin ${pin} is no user pin: it carries ${drawn.kind}.`);
      else {
        const others = (users.get(pin) ?? []).length > 1 ? (users.get(pin) ?? []) : [];
        if (others.length > 0) say(id, `Pin ${pin} is used by ${[...new Set(others)].join(' and ')}.`);
      }
    }
    return issues;
  });
}

const listed = (names: readonly string[]): string =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} and ${names.at(-1) ?? ''}`;
