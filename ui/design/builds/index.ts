// Builds that are kept, and what changed between two of them.
export { BuildsView } from './view.tsx';
