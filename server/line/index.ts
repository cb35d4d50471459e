// What is said over the serial lines of boards: a conversation for each board that has one, and what pages are told of
// the one in front of us. Knows nothing of how a pod is reached.
export { LineBook, type LineState } from './line-book.ts';
