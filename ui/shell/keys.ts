interface Keys {
  /** Where they work: everywhere, or at one station. */
  readonly station: string | null;
  readonly keys: readonly (readonly [key: string, what: string])[];
}

const WAVE: Keys['keys'] = [
  ['←  →', 'the cursor to the sample before or after; with Shift by 16'],
  ['E  Shift E', 'to the next or the previous edge of the chosen row'],
  ['+  −', 'closer, farther'],
  ['F', 'the whole record'],
  ['T', 'to the trigger'],
  ['C', 'a new cursor where this one stands'],
  ['F2', 'rename the cursor that has the focus'],
];

/** Every key that does something, by where. */
const ALL: readonly Keys[] = [
  {
    station: null,
    keys: [
      ['Ctrl K', 'commands, stations and projects'],
      ['Alt 1 to Alt 8', 'go to a station, in their order'],
      ['Esc', 'close what is open'],
      ['?', 'this list'],
    ],
  },
  {
    station: '/design',
    keys: [
      ['F9', 'build'],
      ['Tab  Shift Tab', 'in the editor: indent, indent less'],
      ['Ctrl Z  Ctrl Y', 'in the editor: undo, redo'],
      ['Enter', 'open the message, the pin or the block that has the focus'],
    ],
  },
  { station: '/bench', keys: [['Enter', 'choose the row or pin that has the focus']] },
  { station: '/keep', keys: [['Enter', 'take the address or value that was typed']] },
  { station: '/probe', keys: [['Enter', 'take the name that was typed']] },
  {
    station: '/capture',
    keys: [
      ...WAVE,
      ['←  →  Page Up  Page Down', 'on the trigger’s place: move it; with Shift by 16'],
      ['Home  End', 'on the trigger’s place: to the ends'],
    ],
  },
  { station: '/drive', keys: [['Enter', 'drive the value that was typed']] },
];

/** The keys that work at a page: those of everywhere, then those of its station. */
export const keysAt = (path: string): readonly (readonly [key: string, what: string])[] =>
  ALL.filter(({ station }) => station === null || path.startsWith(station)).flatMap(({ keys }) => keys);
