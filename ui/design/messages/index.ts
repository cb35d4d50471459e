// What builds complain of, explained; acceptance and fixes.
export { MessagesView } from './view.tsx';
export { SeverityWord } from './severity.tsx';
