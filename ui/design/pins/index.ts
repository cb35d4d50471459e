// Which port bit is on which pin of the package.
export { PinsView } from './view.tsx';
