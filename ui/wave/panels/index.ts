// What can be asked of a record, each in a panel below it.
export { type Compared, ComparePanel, type OtherRecord } from './compare.tsx';
export { DecodePanel } from './decode.tsx';
export { FindPanel } from './find.tsx';
export { MeasurePanel } from './measure.tsx';
export { NotesPanel } from './notes.tsx';
