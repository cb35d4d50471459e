/** Parts of the Keep station, in the order of the work. */
export const VIEWS = [
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

export type ViewId = (typeof VIEWS)[number]['id'];
