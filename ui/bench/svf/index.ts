// SVF files: kept, played, stepped.
export { SvfView } from './view.tsx';
