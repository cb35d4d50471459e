/** Parts of the Design station, in the order of the work. */
export const VIEWS = [
  { id: 'sources', name: 'Sources', hint: 'Edit the files of the design. Messages point at their places.' },
  { id: 'messages', name: 'Messages', hint: 'What the build has to say, what it means on the board, and what to do.' },
  { id: 'pins', name: 'Pins', hint: 'Which port is on which pin, at which levels.' },
  { id: 'clocks', name: 'Clocks', hint: 'How fast each clock runs, and how fast a lamp blinks.' },
  { id: 'signals', name: 'Signals', hint: 'Every name inside the design, found as you type.' },
  { id: 'schematic', name: 'Schematic', hint: 'Instances and what joins them, or all that decides one signal.' },
  { id: 'resources', name: 'Resources', hint: 'What takes up the part, instance by instance.' },
  { id: 'timing', name: 'Timing', hint: 'How fast each clock could run, and the longest ways. An estimate.' },
  { id: 'vectors', name: 'Vectors', hint: 'Inputs and expected outputs, row by row, without hardware.' },
  { id: 'builds', name: 'Builds', hint: 'The last builds, and how two of them differ.' },
  { id: 'project', name: 'Project', hint: 'Part, board and files; other projects; zip in and out.' },
] as const;

export type ViewId = (typeof VIEWS)[number]['id'];
