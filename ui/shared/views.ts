// The views that stations are divided into, each in the order of the work: `/station/id`.
export const BENCH_VIEWS = [
  { id: 'chain', name: 'Chain', hint: 'Who answers on the chain, beside who should.' },
  { id: 'diagnosis', name: 'Diagnosis', hint: 'Questions from the pod to the chips, each answered by measuring.' },
  { id: 'speed', name: 'TCK', hint: 'How fast the chain can be clocked before bits come back wrong.' },
  { id: 'pins', name: 'Pins', hint: 'Levels at the pins by boundary scan, while the design runs or instead of it.' },
  { id: 'parts', name: 'Parts', hint: 'What hangs on the pins of the FPGA: lamps, buttons, clocks, what talks.' },
  { id: 'wiring', name: 'Wiring', hint: 'Shorts and opens between devices, found through their pins.' },
  {
    id: 'registers',
    name: 'Registers',
    hint: 'One instruction and one register by hand, and the descriptions of devices.',
  },
  { id: 'svf', name: 'SVF', hint: 'Play a vector file on the chain, line by line if need be.' },
  { id: 'pods', name: 'Pods', hint: 'The cable to the board, here or elsewhere on the network.' },
  { id: 'practice', name: 'Practice', hint: 'Make something go wrong on purpose, and see how it shows.' },
] as const;

export const DESIGN_VIEWS = [
  { id: 'sources', name: 'Sources', hint: 'Edit the files of the design. Messages point at their places.' },
  { id: 'messages', name: 'Messages', hint: 'What the build has to say, what it means on the board, and what to do.' },
  { id: 'pins', name: 'Pins', hint: 'Which port is on which pin, at which levels.' },
  { id: 'clocks', name: 'Clocks', hint: 'How fast each clock runs, and how fast a lamp blinks.' },
  { id: 'signals', name: 'Signals', hint: 'Every name inside the design, found as you type.' },
  { id: 'schematic', name: 'Schematic', hint: 'Instances and what joins them, or all that decides one signal.' },
  { id: 'resources', name: 'Resources', hint: 'What takes up the part, instance by instance and line by line.' },
  { id: 'timing', name: 'Timing', hint: 'How fast each clock could run, and the longest ways. An estimate.' },
  { id: 'simulate', name: 'Simulate', hint: 'A testbench or a table of vectors: what failed, every signal over time.' },
  { id: 'builds', name: 'Builds', hint: 'The last builds, and how two of them differ.' },
  { id: 'project', name: 'Project', hint: 'Part, board and files; other projects; zip in and out.' },
] as const;

export const KEEP_VIEWS = [
  { id: 'write', name: 'Write', hint: 'The FPGA copies it from flash at every power-on.' },
  { id: 'layout', name: 'Layout', hint: 'Where images and data stand in the flash. Drag them, or give addresses.' },
  {
    id: 'data',
    name: 'Board data',
    hint: 'What differs from board to board: put into its block and given a CRC when it is written.',
  },
  { id: 'compare', name: 'Compare', hint: 'The flash with a file, or two files, sector by sector and byte by byte.' },
  { id: 'steps', name: 'Steps', hint: 'Each thing that can be done to the flash, by itself.' },
] as const;

export const REPLAY_VIEWS = [
  { id: 'record', name: 'What to record', hint: 'The fewest bits from which all of an instance follows.' },
  { id: 'signals', name: 'All signals', hint: 'What was captured, and everything that follows from it.' },
] as const;

export const DRIVE_VIEWS = [
  { id: 'panel', name: 'Panel', hint: 'Move levers, read gauges, hold the clock, on running hardware.' },
  { id: 'line', name: 'Serial line', hint: 'What the board says over its serial line, and what it is told.' },
  { id: 'table', name: 'Table', hint: 'A table of vectors, row by row on the hardware and in simulation.' },
] as const;
