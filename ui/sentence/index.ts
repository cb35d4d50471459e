// A line in which a sentence of the trigger language is written: with completion, on its own.
export { SentenceInput } from './input.tsx';
