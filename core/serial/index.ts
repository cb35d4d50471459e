// Asynchronous serial lines: how they are spoken, frames out of levels and levels out of frames, how long a bit of a
// line is and which settings fit it, and what was said as lines of text. Knows no pods, pins or pages.
export { fittingSettings, type Fit } from './fit.ts';
export { frameBits } from './frame.ts';
export { bitTimeOf, measuredRate, type PulseRun, USUAL_RATES } from './measure.ts';
export { type LogLine, LineLog, MOST_LINES } from './log.ts';
export { SerialReceiver, type SerialFrame, type SerialTrouble } from './receiver.ts';
export { SerialSender } from './sender.ts';
export {
  type LineSettings,
  lineSettings,
  settingsText,
  USUAL_LINE,
} from './settings.ts';
export { bytesOfHex, hexOf, LINE_ENDS, readable, TextWatch, troubleWords } from './text.ts';
