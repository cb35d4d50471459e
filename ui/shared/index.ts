// What several stations use: the live connection, calls to the server, and the smallest parts of the look.
export { answerOf, api, fetchFile, problemOf, UNREACHED, upload, useAct } from './ask.ts';
export { LiveProvider, useBoard, useLive, useLiveWith, usePowered, useReached } from './live.tsx';
export { Button } from './button.tsx';
export { Checkbox, CountInput, Field, Segmented, Select, TextField, TextInput } from './fields.tsx';
export { IconButton, RowButton, TextButton, Tile } from './small-button.tsx';
export { Chart } from './chart.tsx';
export { type Colour, colour, useColour, useDark } from './colour.ts';
export { DataTable } from './data-table.tsx';
export { ProblemNote } from './problem-note.tsx';
export { Section, StationHead, Empty, Fact } from './layout.tsx';
export { clockRate, clockTime, dateTime, duration, frequency, quantity, shortPrint, sizeText } from './format.ts';
export { DownloadLink, saveBytes, saveText } from './download-link.tsx';
export { FileButton } from './file-button.tsx';
export { DescriptionButton } from './description-button.tsx';
export { isDescription, useReadDescription } from './descriptions.ts';
export { FileDrop } from './file-drop.tsx';
export {
  SHELF_KEY,
  type SourceFile,
  useFiles,
  useFollowFiles,
  useOwnChange,
  useRefused,
  useSaveFile,
  useStart,
  useTakeUpUnsaved,
  useWaiting,
} from './files.ts';
export { usePortsOnPins, useProject } from './project.ts';
export { CheckList } from './check-list.tsx';
export { useImages, useImagesKept } from './images.ts';
export { KeptList, NearlyFull } from './kept.tsx';
export { ViewLinks } from './view-links.tsx';
export { matches } from './matches.ts';
export { JobOutcome } from './job-outcome.tsx';
export { hasFailed, JobProgress, useLatestJob } from './job-progress.tsx';
export { useRemembered } from './remembered.ts';
export { OtherBuild } from './other-build.tsx';
export { StatusFacts } from './status-facts.tsx';
export { useSize } from './use-size.ts';
export { BENCH_VIEWS, DESIGN_VIEWS, DRIVE_VIEWS, KEEP_VIEWS, REPLAY_VIEWS } from './views.ts';
