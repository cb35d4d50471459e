// What several stations use: the live connection, calls to the server, and the smallest parts of the look.
export { ask, type Asked, send, useAct } from './ask.ts';
export { LiveProvider, useLive, usePanel } from './live.tsx';
export { Button } from './button.tsx';
export { Chart } from './chart.tsx';
export { DataTable } from './data-table.tsx';
export { ProblemNote } from './problem-note.tsx';
export { Section, StationHead, Empty, Fact } from './layout.tsx';
export { clockTime, dateTime, duration, frequency, quantity, shortPrint } from './format.ts';
export { FileButton } from './file-button.tsx';
export { type SourceFile, useFiles } from './files.ts';
export { CheckList } from './check-list.tsx';
export { useImages } from './images.ts';
export { ViewLinks } from './view-links.tsx';
export { matches } from './matches.ts';
export { JobOutcome } from './job-outcome.tsx';
export { hasFailed, JobProgress, useLatestJob } from './job-progress.tsx';
export { OtherBuild } from './other-build.tsx';
export { StatusFacts } from './status-facts.tsx';
