// Test vectors: run, their result, its drawing.
export { VectorsView } from './view.tsx';
