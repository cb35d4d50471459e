// Serial Vector Format, revision E: reads files of any size piece by piece, plays them on a cable, writes them. Does
// not know what a device's registers mean.
export { SvfReader } from './read.ts';
export type { SvfCommand, SvfTrouble } from './model.ts';
export { NO_OFFSETS, type SvfMismatch, type SvfOffsets, SvfPlayer, type SvfRefusal } from './play.ts';
export { SvfWriter } from './write.ts';
