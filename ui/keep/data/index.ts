// Data that goes beside the image, one row a board.
export { BoardDataView } from './view.tsx';
