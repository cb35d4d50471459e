// What the build takes of the part, by instance.
export { ResourcesView } from './view.tsx';
