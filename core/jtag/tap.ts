/** @source IEEE 1149.1, TAP controller state diagram */
export type TapState =
  | 'Test-Logic-Reset'
  | 'Run-Test/Idle'
  | 'Select-DR-Scan'
  | 'Capture-DR'
  | 'Shift-DR'
  | 'Exit1-DR'
  | 'Pause-DR'
  | 'Exit2-DR'
  | 'Update-DR'
  | 'Select-IR-Scan'
  | 'Capture-IR'
  | 'Shift-IR'
  | 'Exit1-IR'
  | 'Pause-IR'
  | 'Exit2-IR'
  | 'Update-IR';

/** For each state: where TMS 0 and TMS 1 lead on the next rising edge of TCK. */
const ARROWS: Readonly<Record<TapState, readonly [TapState, TapState]>> = {
  'Test-Logic-Reset': ['Run-Test/Idle', 'Test-Logic-Reset'],
  'Run-Test/Idle': ['Run-Test/Idle', 'Select-DR-Scan'],
  'Select-DR-Scan': ['Capture-DR', 'Select-IR-Scan'],
  'Capture-DR': ['Shift-DR', 'Exit1-DR'],
  'Shift-DR': ['Shift-DR', 'Exit1-DR'],
  'Exit1-DR': ['Pause-DR', 'Update-DR'],
  'Pause-DR': ['Pause-DR', 'Exit2-DR'],
  'Exit2-DR': ['Shift-DR', 'Update-DR'],
  'Update-DR': ['Run-Test/Idle', 'Select-DR-Scan'],
  'Select-IR-Scan': ['Capture-IR', 'Test-Logic-Reset'],
  'Capture-IR': ['Shift-IR', 'Exit1-IR'],
  'Shift-IR': ['Shift-IR', 'Exit1-IR'],
  'Exit1-IR': ['Pause-IR', 'Update-IR'],
  'Pause-IR': ['Pause-IR', 'Exit2-IR'],
  'Exit2-IR': ['Shift-IR', 'Update-IR'],
  'Update-IR': ['Run-Test/Idle', 'Select-DR-Scan'],
};

export const nextState = (state: TapState, tms: number): TapState => ARROWS[state][tms ? 1 : 0];

const paths = new Map<string, readonly (0 | 1)[]>();

/**
 * The shortest TMS sequence from one state to another, first bit first; empty when they are the same. Found by
 * breadth-first search over the diagram, so it holds for all 256 pairs.
 */
export function tmsPath(from: TapState, to: TapState): readonly (0 | 1)[] {
  const key = `${from}>${to}`;
  const known = paths.get(key);
  if (known) return known;
  const reached = new Map<TapState, readonly (0 | 1)[]>([[from, []]]);
  const open: TapState[] = [from];
  for (let state = open.shift(); state && !reached.has(to); state = open.shift()) {
    for (const tms of [0, 1] as const) {
      const next = nextState(state, tms);
      if (reached.has(next)) continue;
      reached.set(next, [...(reached.get(state) ?? []), tms]);
      open.push(next);
    }
  }
  const path = reached.get(to) ?? [];
  paths.set(key, path);
  return path;
}
